<script setup lang="ts">
import { Button, Input, Segmented } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useRested } from '@/parts/rested'
import FillBar from '@/parts/FillBar.vue'
import { weight } from '@/things/weight'
import { ago, exact } from '@/when'
import LogLines from './LogLines.vue'
import { useLogPages } from './logPages'
import PastRuns from '@/packing/PastRuns.vue'
import MessageRecord from '@/telling/MessageRecord.vue'
import { useClass } from '@/class/theClass'

/** What was done in the class, every run with its figures, and everything that was made. */
const { classId, mayPack, mayLook } = useClass()
const { t } = useI18n()
const route = useRoute()
const view = ref<'log' | 'runs' | 'told' | 'ledger' | 'used'>(route.query.view === 'told' ? 'told' : 'log')
const find = ref('')
const asked = useRested(find)
const path = computed(() => ({ classId: classId.value }))
const {
  lines,
  came,
  more: earlier,
  hasMore: hasEarlier,
} = useLogPages(
  classId,
  find,
  computed(() => view.value === 'log'),
  (query) => data(api.GET('/classes/{classId}/log', { params: { path: path.value, query } })),
)
const made = ref<Of<'LedgerLine'>[]>([])
const from = ref(0)
const { data: ledger } = useQuery({
  queryKey: computed(() => keys.ledger(classId.value, asked.value, from.value)),
  enabled: computed(() => view.value === 'ledger'),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/ledger', {
        params: { path: path.value, query: { find: asked.value || undefined, from: from.value } },
      }),
    ),
  placeholderData: (old) => old,
})
const { data: used } = useQuery({
  queryKey: computed(() => keys.usage(classId.value)),
  enabled: computed(() => view.value === 'used'),
  queryFn: () => data(api.GET('/classes/{classId}/usage', { params: { path: path.value } })),
})
watch([asked, classId, view], () => {
  made.value = []
  from.value = 0
})
const entries = computed(() => [...made.value, ...(ledger.value?.lines ?? [])])
function more() {
  if (view.value === 'log') return earlier()
  made.value = entries.value
  from.value = entries.value.length
}
const hasMore = computed(() =>
  view.value === 'log' ? hasEarlier.value : view.value === 'ledger' && ledger.value?.more,
)
/** Where a student's things are seen. */
const panelOf = (row: string) => ({ name: 'register', params: { classId: classId.value }, query: { student: row } })
const file = (format: string) =>
  `/api/classes/${classId.value}/${view.value}/export/${format}${asked.value ? `?find=${encodeURIComponent(asked.value)}` : ''}`
</script>

<template>
  <div class="records">
    <div class="head">
      <Segmented
        v-if="mayLook"
        v-model:value="view"
        :options="[
          { value: 'log', label: t('log.log') },
          { value: 'runs', label: t('log.runs') },
          { value: 'told', label: t('mail.record') },
          { value: 'ledger', label: t('log.ledger') },
          { value: 'used', label: t('log.used') },
        ]"
      />
      <template v-if="view === 'log' || view === 'ledger'">
        <Input v-model:value="find" class="find" :placeholder="t('log.find')" :aria-label="t('log.find')" allow-clear />
        <span class="grow" />
        <span class="export"
          ><span class="quiet">{{ t('log.export') }}</span>
          <a v-for="f in ['csv', 'xlsx', 'ods']" :key="f" :href="file(f)" download>{{ f.toUpperCase() }}</a></span
        >
      </template>
    </div>
    <LogLines v-if="view === 'log'" :lines="lines" :class-id="mayLook ? classId : undefined" />
    <p v-if="view === 'log' && came && !lines.length" class="quiet">{{ t('log.none') }}</p>
    <MessageRecord v-if="view === 'told'" :class-id="classId" :may-send="mayPack" />
    <PastRuns v-if="view === 'runs'" :class-id="classId" :may-pack="mayPack" />
    <template v-if="view === 'used' && used">
      <p>{{ t('log.used-all', { size: weight(used.all) }) }}</p>
      <table data-table="used">
        <tbody>
          <tr v-for="u in used.each" :key="u.row">
            <td class="who">
              <RouterLink :to="panelOf(u.row)"
                ><bdi>{{ u.student }}</bdi></RouterLink
              >
            </td>
            <td class="size">{{ weight(u.bytes) }}</td>
            <td><FillBar :part="u.bytes / Math.max(1, ...used.each.map((x) => x.bytes))" /></td>
          </tr>
        </tbody>
      </table>
    </template>
    <table v-if="view === 'ledger'" data-table="ledger">
      <thead>
        <tr>
          <th>{{ t('ledger.name') }}</th>
          <th>{{ t('ledger.what') }}</th>
          <th>{{ t('ledger.whose') }}</th>
          <th>{{ t('ledger.made') }}</th>
          <th>{{ t('ledger.given') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in entries" :key="l.id" :class="{ ended: l.endedAt }">
          <td>
            <RouterLink v-if="!l.endedAt" :to="`/things/${l.thing}`"
              ><bdi>{{ l.name }}</bdi></RouterLink
            ><bdi v-else>{{ l.name }}</bdi>
          </td>
          <td class="quiet">{{ t(`purpose.${l.purpose}`) }}</td>
          <td>
            <RouterLink v-if="l.row" :to="panelOf(l.row)"
              ><bdi>{{ l.student }}</bdi></RouterLink
            >
          </td>
          <td class="quiet" :title="exact(Date.parse(l.madeAt))">
            {{ l.endedAt ? t('ledger.ended', { when: ago(Date.parse(l.endedAt), t) }) : ago(Date.parse(l.madeAt), t) }}
          </td>
          <td class="quiet given">
            <span v-for="(g, i) in l.grants.slice(0, 3)" :key="i" :title="exact(Date.parse(g.at))"
              ><template v-if="i">; </template><bdi>{{ g.name }}</bdi>
              {{ g.level === 'nothing' ? t('ledger.taken') : t(`level.${g.level}`) }}</span
            ><template v-if="l.grants.length > 3">{{ ', ' + t('ledger.more', { n: l.grants.length - 3 }) }}</template
            ><template v-if="!l.grants.length && !l.sharedAt">{{ t('state.not-shared') }}</template>
          </td>
        </tr>
      </tbody>
    </table>
    <Button v-if="hasMore" size="small" class="more" @click="more">{{ t('log.more') }}</Button>
  </div>
</template>

<style scoped>
.records {
  padding: 14px var(--edge) 24px;
  overflow-y: auto;
  min-height: 0;
}
.head {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 12px;
  flex-wrap: wrap;
}
.find {
  width: 260px;
}
.export {
  display: flex;
  gap: 12px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14px;
}
th {
  text-align: left;
  color: var(--ink-2);
  font-weight: 650;
  padding: 4px 12px 4px 0;
}
td {
  border-top: 1px solid var(--thread-2);
  padding: 4px 12px 4px 0;
  vertical-align: top;
}
td:nth-child(4) {
  white-space: nowrap;
}
.given {
  min-width: 190px;
}
.who {
  width: 190px;
  font-weight: 600;
}
.size {
  width: 80px;
  text-align: right;
}
.ended td {
  color: var(--ink-3);
}
.more {
  margin-top: 12px;
}
</style>
