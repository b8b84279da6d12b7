<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api } from '@/api/client'
import { late } from '@/late'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import OwnNotices from './OwnNotices.vue'
import OwnCodes from './OwnCodes.vue'
import OwnSessions from './OwnSessions.vue'

/** One's own account: who the school book says one is, and one's password. */
const StudentFrame = late(() => import('@/student/StudentFrame.vue'))
const StaffFrame = late(() => import('@/class/StaffFrame.vue'))
const { t } = useI18n()
const student = computed(() => me.value?.role === 'student')
const before = ref('')
const password = ref('')
const { busy, problem, act } = useActing()
const change = () =>
  act(async () => {
    await api.PUT('/me/password', { body: { before: before.value, password: password.value } })
    before.value = password.value = ''
    tellDone(t('password.changed'))
  })
</script>

<template>
  <component :is="student ? StudentFrame : StaffFrame">
    <div class="own" :class="{ staff: !student }">
      <h1>{{ t('password.account') }}</h1>
      <p>
        <b>{{ me?.name }}</b>, {{ t(`role.${me?.role}`) }} · {{ me?.address }} · {{ me?.school }}
      </p>
      <p class="quiet">{{ t('password.office') }}</p>
      <form data-form="password" @submit.prevent="change">
        <h2>{{ t('password.title') }}</h2>
        <label
          >{{ t('password.before') }}<Input v-model:value="before" type="password" autocomplete="current-password"
        /></label>
        <label
          >{{ t('password.new')
          }}<Input v-model:value="password" type="password" :maxlength="256" autocomplete="new-password"
        /></label>
        <p class="quiet">{{ t('password.help') }}</p>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
        <Button type="primary" html-type="submit" :loading="busy" :disabled="!before || !password">{{
          t('password.change')
        }}</Button>
      </form>
      <OwnNotices />
      <OwnCodes />
      <OwnSessions />
    </div>
  </component>
</template>

<style scoped>
.own {
  max-width: 560px;
}
.own.staff {
  padding: 18px var(--edge) 24px;
}
form {
  display: grid;
  gap: 10px;
}
.own :deep(h2) {
  margin-top: 26px;
}
form p {
  margin: 0;
}
label {
  display: grid;
  gap: 3px;
  font-weight: 600;
  max-width: 360px;
}
button[type='submit'] {
  justify-self: start;
}
</style>
