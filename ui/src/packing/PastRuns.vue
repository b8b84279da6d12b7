<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRunTitle } from './run'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { useReasons } from '@/reasons'
import { ago, exact } from '@/when'

/** Every run of a class with its figures; what one made is taken back from here. */
const props = defineProps<{ classId: string; mayPack: boolean }>()
const { t } = useI18n()
const runTitle = useRunTitle()
const { reasonText } = useReasons()
const queries = useQueryClient()
const path = computed(() => ({ classId: props.classId }))
const { data: runs } = useQuery({
  queryKey: computed(() => keys.pastRuns(props.classId)),
  queryFn: () => data(api.GET('/classes/{classId}/past-runs', { params: { path: path.value } })),
})
const figures = (r: Of<'Run'>) =>
  [
    r.made ? t('runs.made', { n: r.made }, r.made) : '',
    r.shared ? t('runs.shared', { n: r.shared }, r.shared) : '',
    r.told ? t('runs.told', { n: r.told }, r.told) : '',
    r.packed - r.made > 0 ? t('runs.changed', { n: r.packed - r.made }, r.packed - r.made) : '',
    r.leftOut ? t('runs.left-out', { n: r.leftOut }, r.leftOut) : '',
    r.passed ? t('runs.passed', { n: r.passed }, r.passed) : '',
    r.stuck ? t('runs.stuck', { n: r.stuck }, r.stuck) : '',
  ]
    .filter(Boolean)
    .join(', ')
// Taking a run back: what would go to the bin is seen first.
const back = ref<{ run: string; list: Of<'Back'> } | null>(null)
const { busy, problem, act } = useActing()
async function ask(run: string) {
  const list = await act(() =>
    data(api.GET('/classes/{classId}/runs/{runId}/back', { params: { path: { ...path.value, runId: run } } })),
  )
  if (list) back.value = { run, list }
}
async function takeBack() {
  const b = back.value!
  const done = await act(() =>
    data(
      api.POST('/classes/{classId}/runs/{runId}/back', {
        params: { path: { ...path.value, runId: b.run } },
        body: { things: b.list.things },
      }),
    ),
  )
  if (done) back.value = null
  await queries.invalidateQueries({ queryKey: keys.pastRuns(props.classId) })
}
</script>

<template>
  <ul class="runs">
    <li v-for="r in runs" :key="r.id" :data-run="r.title || 'room'">
      <div class="line">
        <b>{{ r.kind === 'discard' ? t('runs.bin', { title: r.title }) : runTitle(r) }}</b>
        <span class="quiet" :title="exact(Date.parse(r.startedAt))">{{
          t('runs.by', { name: r.startedBy, when: ago(Date.parse(r.startedAt), t) })
        }}</span>
        <span>{{ figures(r) }}</span>
        <span class="grow" />
        <span class="quiet">{{ t(`runs.state-${r.state}`) }}</span>
        <button
          v-if="mayPack && r.made && r.kind === 'pack' && (r.state === 'done' || r.state === 'stopped')"
          class="link"
          data-act="ask-back"
          @click="ask(r.id)"
        >
          {{ t('runs.take-back') }}
        </button>
      </div>
      <div v-if="back?.run === r.id" class="back">
        <p v-if="!back.list.things">{{ t('runs.nothing-back') }}</p>
        <template v-else>
          <p>
            {{
              back.list.held
                ? t('runs.held', { n: back.list.held }, back.list.held)
                : t('runs.would-bin', { n: back.list.things }, back.list.things)
            }}
          </p>
          <ul class="things">
            <li v-for="(l, i) in back.list.lines.slice(0, 40)" :key="i">
              <bdi>{{ l.name }}</bdi><span v-if="l.reason" class="bad"> – {{ reasonText(l.reason) }}</span>
            </li>
          </ul>
        </template>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
        <Button
          v-if="back.list.things && !back.list.held"
          danger
          size="small"
          :loading="busy"
          data-act="take-back"
          @click="takeBack"
          >{{ t('runs.bin-n', { n: back.list.things }, back.list.things) }}</Button
        >
        <Button size="small" @click="back = null">{{ t('act.close') }}</Button>
      </div>
    </li>
    <li v-if="runs && !runs.length" class="quiet">{{ t('runs.none') }}</li>
  </ul>
</template>

<style scoped>
.runs {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 14.5px;
}
.runs > li {
  border-top: 1px solid var(--thread-2);
  padding: 6px 0;
}
.line {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
}
.back {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 6px;
  padding: 10px 12px;
  margin: 6px 0;
  display: grid;
  gap: 8px;
  justify-items: start;
}
.things {
  margin: 0;
  padding-left: 18px;
  max-height: 180px;
  overflow-y: auto;
  width: 100%;
}
</style>
