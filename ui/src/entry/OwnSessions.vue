<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { signOut } from '@/me'
import { useActing } from '@/parts/acting'
import { ago, exact } from '@/when'

/** Where one is signed in, each to be ended by itself, or all at once. */
const { t } = useI18n()
const queries = useQueryClient()
const { data: sessions } = useQuery({ queryKey: keys.sessions(), queryFn: () => data(api.GET('/me/sessions')) })
const { busy, problem, act } = useActing()
const end = (sessionId: string) =>
  act(async () => {
    await api.DELETE('/me/sessions/{sessionId}', { params: { path: { sessionId } } })
    await queries.invalidateQueries({ queryKey: keys.sessions() })
  })
</script>

<template>
  <section data-form="sessions">
    <h2>{{ t('sessions.title') }}</h2>
    <ul>
      <li v-for="s in sessions" :key="s.id" :data-session="s.here ? 'here' : 'other'">
        <span
          ><b>{{ s.agent || t('sessions.unknown') }}</b
          ><span class="quiet" :title="exact(Date.parse(s.seenAt))">
            · {{ s.here ? t('sessions.here') : t('sessions.seen', { when: ago(Date.parse(s.seenAt), t) }) }}</span
          ></span
        >
        <button v-if="!s.here" class="link" :disabled="busy" data-act="end-session" @click="end(s.id)">
          {{ t('sessions.end') }}
        </button>
      </li>
    </ul>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <p>
      <button class="link" @click="signOut(true)">{{ t('signin.everywhere') }}</button>
      <span class="quiet"> {{ t('signin.everywhere-text') }}</span>
    </p>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 8px 0 12px;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 5px 0;
  border-top: 1px solid var(--thread-2);
  min-height: 34px;
  align-items: center;
}
</style>
