<script setup lang="ts">
import { Button, Input, Radio, RadioGroup } from 'ant-design-vue'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, type Of } from '@/api/client'
import { useActing } from '@/parts/acting'
import SidePanel from '@/parts/SidePanel.vue'
import { tellDone } from '@/tell'
import { exact } from '@/when'

/** One account, or a new one: its names, address, number and role, and how it signs in. */
const props = defineProps<{ account?: Of<'BookAccount'> }>()
const emit = defineEmits<{ close: []; kept: []; code: [id: string, away: boolean] }>()
const { t } = useI18n()
const fields = ['given', 'family', 'address', 'number'] as const
const typed = ref({
  given: props.account?.given ?? '',
  family: props.account?.family ?? '',
  address: props.account?.address ?? '',
  number: props.account?.number ?? '',
  role: props.account?.role ?? ('student' as Of<'BookAccount'>['role']),
})
const { busy, problem, act } = useActing()
async function change(to: Of<'AccountParts'>) {
  const was = Object.fromEntries(Object.keys(to).map((k) => [k, props.account![k as keyof Of<'AccountParts'>]]))
  await api.PATCH('/book/accounts/{accountId}', {
    params: { path: { accountId: props.account!.id } },
    body: { to, was },
  })
}
const keep = () =>
  act(async () => {
    if (props.account) {
      const keys = [...fields, 'role'] as const
      await change(
        Object.fromEntries(keys.filter((k) => typed.value[k] !== props.account![k]).map((k) => [k, typed.value[k]])),
      )
    } else await api.POST('/book', { body: typed.value })
    tellDone(t('book.kept'))
    emit('kept')
  })
const turn = (off: boolean) =>
  act(async () => {
    await change({ off })
    tellDone(t(off ? 'book.is-off' : 'book.is-on'))
    emit('kept')
  })
</script>

<template>
  <SidePanel
    :title="account ? `${account.given} ${account.family}` : t('book.new')"
    data-panel="account"
    @close="emit('close')"
  >
    <form v-focus class="account" data-form="account" @submit.prevent="keep">
      <label v-for="f in fields" :key="f"
        >{{ t(f === 'address' ? 'signin.address' : `book.${f}`)
        }}<Input v-model:value="typed[f]" :data-field="f" :maxlength="f === 'address' ? 254 : 200"
      /></label>
      <RadioGroup v-model:value="typed.role">
        <Radio v-for="r in ['student', 'staff', 'office'] as const" :key="r" :value="r">{{ t(`role.${r}`) }}</Radio>
      </RadioGroup>
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <Button type="primary" html-type="submit" :loading="busy" data-act="keep-account">{{
        t(account ? 'book.keep' : 'book.enter')
      }}</Button>
    </form>
    <template v-if="account">
      <h3>{{ t('book.signs-in') }}</h3>
      <p class="quiet">
        {{
          account.off
            ? t('book.off-text')
            : account.codeUntil
              ? t('book.code-text', { when: exact(Date.parse(account.codeUntil)), by: account.codeBy })
              : t(account.ready ? 'book.ready-text' : 'book.none-text')
        }}
      </p>
      <p class="acts">
        <Button v-if="!account.off" size="small" data-act="code" @click="emit('code', account.id, false)">{{
          t('book.code-one')
        }}</Button>
        <Button
          v-if="!account.off && account.ready"
          size="small"
          data-act="code-away"
          @click="emit('code', account.id, true)"
          >{{ t('book.code-away') }}</Button
        >
        <RouterLink :to="{ name: 'account-reach', params: { accountId: account.id } }" data-act="reach"
          ><Button size="small">{{ t('doors.of-account') }}</Button></RouterLink
        >
        <Button size="small" :danger="!account.off" :disabled="busy" data-act="switch" @click="turn(!account.off)">{{
          t(account.off ? 'book.switch-on' : 'book.switch-off')
        }}</Button>
      </p>
    </template>
  </SidePanel>
</template>

<style scoped>
.account {
  display: grid;
  gap: 10px;
  margin-bottom: 16px;
}
.account > label {
  display: grid;
  gap: 3px;
  font-weight: 600;
}
.account button[type='submit'] {
  justify-self: start;
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
</style>
