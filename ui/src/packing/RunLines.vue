<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { plainName } from '@/parts/plainName'
import TagMark from '@/parts/TagMark.vue'
import { aboutAddress, useReasons } from '@/reasons'
import { sentence } from '@/tell'
import { sayTheirs } from './mending'

/** The lines of a run: what is packed, what waits, what is stuck and how to mend it there. */
const props = defineProps<{ classId: string; runId: string }>()
defineEmits<{ close: [] }>()
const { t } = useI18n()
const { reasonText } = useReasons()
const { data: detail, refetch } = useQuery({
  queryKey: computed(() => keys.run(props.classId, props.runId)),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/runs/{runId}', { params: { path: { classId: props.classId, runId: props.runId } } }),
    ),
})
const lines = computed(() => {
  const rank = { stuck: 0, waiting: 1, packed: 2, 'passed-over': 3 }
  return [...(detail.value?.lines ?? [])].sort((a, b) => rank[a.state] - rank[b.state] || a.seq - b.seq)
})
const addressOf = (l: Of<'RunLine'>) =>
  needsAddress(l) ? (typed[l.seq] ?? l.reason?.args?.suggestion ?? '') : undefined
const typed = reactive<Record<number, string>>({})
const problems = reactive<Record<number, string>>({})
const busy = ref(0)
const needsAddress = (l: Of<'RunLine'>) => aboutAddress(l.reason?.code)
// A student's lines that are stuck for the same reason are mended together: the first of them offers it.
const offers = (l: Of<'RunLine'>) =>
  l.state === 'stuck' &&
  l.reason?.code !== 'parent-stuck' &&
  l.reason?.code !== 'parent-needs-fixing' &&
  lines.value.find((o) => o.state === 'stuck' && o.row === l.row && o.row !== '')?.seq === l.seq
async function confirm(l: Of<'RunLine'>) {
  try {
    await sayTheirs(props.classId, l.row)
    await fix(l, undefined)
  } catch (e) {
    problems[l.seq] = sentence(e)
  }
}
async function fix(l: Of<'RunLine'>, address?: string) {
  busy.value = l.seq
  delete problems[l.seq]
  try {
    await api.POST('/classes/{classId}/runs/{runId}/lines/{seq}/fix', {
      params: { path: { classId: props.classId, runId: props.runId, seq: l.seq } },
      body: { address },
    })
    await refetch()
  } catch (e) {
    problems[l.seq] = sentence(e)
  } finally {
    busy.value = 0
  }
}
</script>

<template>
  <div class="lines">
    <ol>
      <li v-for="l in lines" :key="l.seq" :class="l.state" :data-line="l.state">
        <TagMark :state="l.state === 'packed' ? 'shared' : l.state === 'stuck' ? 'stuck' : 'not-made'" bare />
        <span class="who">{{ l.student || t(`purpose.${l.purpose}`) }}</span>
        <span class="what">
          <template v-if="l.purpose === 'satchel'">{{ t('purpose.satchel') }}</template>
          <template v-else-if="l.student">{{ plainName(l.name) }}</template>
          <template v-if="l.reason">
            · <span class="bad">{{ reasonText(l.reason) }}</span></template
          >
          <span v-if="problems[l.seq]" class="bad" role="alert"> {{ problems[l.seq] }}</span>
        </span>
        <form v-if="offers(l)" class="fix" @submit.prevent="fix(l, addressOf(l))">
          <Input
            v-if="needsAddress(l)"
            :value="typed[l.seq] ?? l.reason?.args?.suggestion ?? ''"
            size="small"
            :aria-label="t('roster.address')"
            @update:value="(v: string) => (typed[l.seq] = v)"
          />
          <Button v-if="l.reason?.code === 'account-other-name'" size="small" @click="confirm(l)">{{
            t('draft.same-student')
          }}</Button>
          <Button size="small" html-type="submit" :loading="busy === l.seq">{{
            needsAddress(l) ? t('belt.fix') : t('belt.again')
          }}</Button>
        </form>
        <span v-else class="state quiet">{{ t(`line.${l.state}`) }}</span>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.lines {
  background: var(--sheet);
  border-top: 1px solid var(--thread);
  max-height: 290px;
  overflow-y: auto;
  padding: 6px 24px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 52px 220px minmax(0, 1fr) auto;
  align-items: center;
  min-height: 30px;
  border-bottom: 1px solid var(--thread-2);
  font-size: 14px;
}
.who {
  font-weight: 600;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
}
.fix {
  display: flex;
  gap: 6px;
}
.fix .ant-input {
  width: 250px;
}
@media (max-width: 900px) {
  li {
    grid-template-columns: 52px minmax(0, 1fr) auto;
  }
  .what {
    grid-column: 2 / 4;
  }
}
</style>
