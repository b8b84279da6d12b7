<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { useRested } from '@/parts/rested'
import { tellDone } from '@/tell'
import { ago, exact } from '@/when'

/** Every message that the class's people were told something by, with what happened to it. */
const props = defineProps<{ classId: string; maySend: boolean }>()
const { t } = useI18n()
const queries = useQueryClient()
const find = ref('')
const asked = useRested(find)
const states = ['failed', 'waiting', 'gathering', 'sent'] as const
const state = ref<(typeof states)[number] | ''>('')
const older = ref<Of<'Told'>[]>([])
const before = ref(0)
const { data: page } = useQuery({
  queryKey: computed(() => keys.messages(props.classId, asked.value, state.value, before.value)),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/messages', {
        params: {
          path: { classId: props.classId },
          query: { text: asked.value || undefined, state: state.value || undefined, before: before.value || undefined },
        },
      }),
    ),
  placeholderData: (old) => old,
  refetchInterval: (q) => (q.state.data?.counts.waiting ? 2000 : false),
})
watch([asked, state, () => props.classId], () => {
  older.value = []
  before.value = 0
})
const messages = computed(() => [...older.value, ...(page.value?.messages ?? [])])
function more() {
  older.value = messages.value
  before.value = messages.value.at(-1)?.n ?? 0
}
const opened = ref('')
const { busy, problem, act } = useActing()
const again = (ids: string[]) =>
  act(async () => {
    const done = await data(
      api.POST('/classes/{classId}/messages/again', {
        params: { path: { classId: props.classId } },
        body: { messages: ids },
      }),
    )
    older.value = []
    before.value = 0
    await queries.invalidateQueries({ queryKey: keys.messages(props.classId) })
    tellDone(t('mail.sent-n', { n: done.messages }, done.messages))
  })
const failed = computed(() => messages.value.filter((m) => m.state === 'failed').map((m) => m.id))
const all = computed(() => Object.values(page.value?.counts ?? {}).reduce((a, b) => a + b, 0))
const outcome = (m: Of<'Told'>) =>
  m.state === 'waiting' && m.tries
    ? t('mail.tries', { n: m.tries, when: ago(Date.parse(m.nextAt!), t) }, m.tries)
    : t(`mail.state-${m.state}`)
</script>

<template>
  <div class="record">
    <div class="head">
      <button class="plain chip soft" :class="{ on: !state }" :aria-pressed="!state" @click="state = ''">
        {{ t('mail.all', { n: all }) }}
      </button>
      <template v-for="s in states" :key="s"
        ><button
          v-if="page?.counts[s] || state === s"
          class="plain chip soft"
          :class="{ on: state === s, failed: s === 'failed' }"
          :aria-pressed="state === s"
          :data-state="s"
          @click="state = state === s ? '' : s"
        >
          {{ t(`mail.state-${s}`) }}: {{ page?.counts[s] ?? 0 }}
        </button></template
      >
      <Input v-model:value="find" class="find" :placeholder="t('mail.find')" :aria-label="t('mail.find')" allow-clear />
      <span class="grow" />
      <Button
        v-if="maySend && failed.length > 1"
        size="small"
        :disabled="busy"
        data-act="again-all"
        @click="again(failed)"
        >{{ t('mail.again-n', { n: failed.length }) }}</Button
      >
    </div>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <table v-if="messages.length" data-table="messages">
      <tbody v-for="m in messages" :key="m.id">
        <tr :class="{ failed: m.state === 'failed' }">
          <td class="when" :title="exact(Date.parse(m.madeAt))">{{ ago(Date.parse(m.madeAt), t) }}</td>
          <td class="who">
            <bdi>{{ m.name || m.address }}</bdi>
          </td>
          <td>
            <button
              class="link"
              :aria-expanded="opened === m.id"
              data-act="open"
              @click="opened = opened === m.id ? '' : m.id"
            >
              {{ m.subject }}
            </button>
          </td>
          <td class="state" :class="m.state">{{ outcome(m) }}</td>
        </tr>
        <tr v-if="m.state === 'failed' || (m.state === 'waiting' && m.reason)" class="why">
          <td />
          <td colspan="3">
            <span class="bad">{{ m.address }}: {{ m.reason }}</span>
            <button v-if="maySend && m.state === 'failed'" class="link" data-act="again" @click="again([m.id])">
              {{ t('mail.again') }}
            </button>
          </td>
        </tr>
        <tr v-if="opened === m.id" class="why">
          <td />
          <td colspan="3">
            <div class="text">
              <p class="quiet">{{ t('mail.by', { name: m.by, address: m.address }) }}</p>
              <div class="body">{{ m.body }}</div>
              <button v-if="maySend && m.state === 'sent'" class="link" data-act="again" @click="again([m.id])">
                {{ t('mail.again') }}
              </button>
            </div>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="page" class="quiet">{{ t(all ? 'mail.none-like' : 'mail.none') }}</p>
    <Button v-if="page?.more" size="small" class="more" @click="more">{{ t('log.more') }}</Button>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 12px;
}
.head .on {
  background: var(--leather-soft);
  color: var(--leather-2);
}
.head .failed {
  color: var(--brick);
}
.find {
  width: 240px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14px;
}
td {
  padding: 4px 12px 4px 0;
  vertical-align: top;
}
tbody tr:first-child td {
  border-top: 1px solid var(--thread-2);
}
.when {
  white-space: nowrap;
  width: 130px;
  color: var(--ink-2);
}
.who {
  width: 220px;
  font-weight: 600;
  overflow-wrap: anywhere;
}
.state {
  white-space: nowrap;
  text-align: right;
  color: var(--ink-2);
}
.state.sent {
  color: var(--moss);
}
.state.failed {
  color: var(--brick);
  font-weight: 600;
}
.why td {
  padding-top: 0;
}
.why span + .link {
  margin-left: 10px;
}
.text {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 6px;
  padding: 8px 12px;
  max-width: 720px;
}
.body {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.more {
  margin-top: 12px;
}
</style>
