<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'

/** A class to add, in its place on the rail. */
const open = defineModel<boolean>('open', { required: true })
const { t } = useI18n()
const router = useRouter()
const queries = useQueryClient()
const name = ref('')
const period = ref('')
const code = ref('')
const ofStaff = ref(false)
const { busy, problem, act } = useActing()

async function done(c: Of<'Class'>) {
  await queries.invalidateQueries({ queryKey: keys.classes() })
  open.value = false
  void router.push(`/classes/${c.id}/roster`)
}
const practise = () => act(async () => done(await data(api.POST('/practice'))))
const add = () =>
  act(async () =>
    done(
      await data(
        api.POST('/classes', {
          body: { name: name.value, code: code.value, period: period.value, ofStaff: ofStaff.value },
        }),
      ),
    ),
  )
</script>

<template>
  <form
    class="plain-form"
    data-part="new-class"
    :aria-label="t('class.add')"
    @submit.prevent="add"
    @keydown.esc.stop="open = false"
  >
    <label for="class-name">{{ t('class.name') }}</label>
    <Input
      id="class-name"
      v-model:value="name"
      v-focus
      size="small"
      :placeholder="t('class.name-example')"
      :maxlength="120"
    />
    <div class="pair">
      <label for="class-code" :title="t('class.short-help')">{{ t('class.short') }}</label>
      <label for="class-period">{{ t('class.period') }}</label>
      <Input
        id="class-code"
        v-model:value="code"
        size="small"
        :maxlength="12"
        :placeholder="t('class.short-example')"
        :title="t('class.short-help')"
      />
      <Input
        id="class-period"
        v-model:value="period"
        size="small"
        :maxlength="20"
        :placeholder="t('class.period-none')"
      />
    </div>
    <label class="staffed"
      ><input v-model="ofStaff" type="checkbox" data-act="of-staff" /> {{ t('class.of-staff') }}</label
    >
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <div class="acts">
      <Button type="primary" size="small" html-type="submit" :loading="busy">{{ t('class.add-it') }}</Button>
      <button type="button" class="link" @click="open = false">{{ t('act.cancel') }}</button>
    </div>
    <button type="button" class="link practise" data-act="practise" :title="t('practice.text')" @click="practise">
      {{ t('practice.make') }}
    </button>
  </form>
</template>

<style scoped>
.plain-form {
  margin: 4px 12px 14px 36px;
  display: grid;
  gap: 4px;
  font-size: 14px;
}
label {
  font-weight: 600;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 8px;
}
.acts {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-top: 4px;
}
.practise {
  margin-top: 6px;
  font-size: 13.5px;
}
</style>
