<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRunTitle } from './run'
import { useRoute } from 'vue-router'
import { api, type Of } from '@/api/client'
import { useClasses } from '@/api/queries'
import { runs } from '@/events'
import { keep, kept } from '@/kept'
import { now } from '@/me'
import { tellElsewhere, tellProblem } from '@/tell'
import LookAtOne from './LookAtOne.vue'
import RunLines from './RunLines.vue'

/** One line while something is being packed; it opens to the lines. */
const { t } = useI18n()
const runTitle = useRunTitle()
const route = useRoute()
const shown = ref(false)
const told = new Set<string>()
const { data: classes } = useClasses()
const put = ref(kept<string[]>('closed-runs', [])) // the runs that were closed once they were done
function close(id: string) {
  put.value = [...put.value, id].slice(-40)
  keep('closed-runs', put.value)
}

const current = computed<{ run: Of<'Run'>; classId: string; more: number } | null>(() => {
  const all = [...runs].flatMap(([classId, rs]) => rs.map((run) => ({ run, classId })))
  const busy = all.filter(({ run }) => run.state === 'packing' || run.state === 'paused')
  const here = (list: typeof all) => list.find((x) => x.classId === route.params.classId) ?? list[0]
  if (busy.length) return { ...here(busy), more: busy.length - 1 }
  const done = all.filter((x) => x.classId === route.params.classId && fresh(x) && !put.value.includes(x.run.id))
  return done.length ? { ...done[done.length - 1], more: 0 } : null
})
// A run that ended is told of to anyone who saw it begin, who wasn't here when it
// ended, and while lines of it are stuck.
const watched = ref(new Set<string>())
const lastHere = kept('last-here', now())
const beat = setInterval(() => keep('last-here', now()), 5000)
onBeforeUnmount(() => clearInterval(beat))
const stuck = (classId: string) =>
  !!classes.value?.find((c) => c.id === classId)?.notes.some((n) => n.code === 'lines-stuck')
const missed = (run: Of<'Run'>) =>
  watched.value.has(run.id) || (!!run.finishedAt && Date.parse(run.finishedAt) > lastHere)
const fresh = ({ run, classId }: { run: Of<'Run'>; classId: string }) =>
  missed(run) || (run.stuck > 0 && stuck(classId))
watch(
  () => [...runs].flatMap(([classId, rs]) => rs.map((run) => ({ run, classId }))),
  (all) => {
    for (const { run, classId } of all) {
      if (run.state === 'packing') watched.value.add(run.id)
      if (run.state !== 'done' || !missed(run) || told.has(run.id)) continue
      told.add(run.id)
      if (classId !== route.params.classId) tellEnd(run, classId)
    }
  },
  { immediate: true },
)
function tellEnd(run: Of<'Run'>, classId: string) {
  const what = runTitle(run)
  const name = classes.value?.find((c) => c.id === classId)?.name ?? ''
  tellElsewhere(
    t(run.stuck ? 'belt.ended-elsewhere' : 'belt.done-elsewhere', { class: name, what, n: run.stuck }, run.stuck),
  )
}
watch(current, (c) => !c && (shown.value = false))

const title = computed(() => {
  const r = current.value?.run
  if (!r) return ''
  const what = runTitle(r)
  if (r.state === 'paused') return t('belt.paused', { what })
  if (r.state === 'done') return t(r.stuck ? 'belt.ended' : r.kind !== 'pack' ? 'belt.through' : 'belt.done', { what })
  if (r.state === 'stopped') return t('belt.stopped', { what })
  return t(r.kind !== 'pack' ? 'belt.under-way' : 'belt.packing', { what })
})
const blocks = computed(() => {
  const r = current.value!.run
  const n = Math.min(28, r.total)
  const per = r.total / n
  return Array.from({ length: n }, (_, i) => {
    const end = Math.round((i + 1) * per)
    return end <= r.packed ? 'done' : end <= r.packed + r.stuck ? 'stuck' : 'rest'
  })
})
async function steer(what: 'pause' | 'resume' | 'stop') {
  const c = current.value!
  const params = { path: { classId: c.classId, runId: c.run.id } }
  try {
    if (what === 'pause') await api.POST('/classes/{classId}/runs/{runId}/pause', { params })
    else if (what === 'resume') await api.POST('/classes/{classId}/runs/{runId}/resume', { params })
    else await api.POST('/classes/{classId}/runs/{runId}/stop', { params })
  } catch (e) {
    tellProblem(e)
  }
}
</script>

<template>
  <section v-if="current" :aria-label="t('belt.label')">
    <RunLines v-if="shown" :class-id="current.classId" :run-id="current.run.id" @close="shown = false" />
    <div class="line" :data-run-state="current.run.state" role="status">
      <strong>{{ title }}</strong>
      <span class="bar" aria-hidden="true"><i v-for="(b, i) in blocks" :key="i" :class="b" /></span>
      <span>
        {{ t('belt.count', { packed: current.run.packed, total: current.run.total }) }}
        <template v-if="current.run.stuck">
          · {{ t('belt.stuck', { n: current.run.stuck }, current.run.stuck) }}</template
        >
        <template v-if="current.run.state === 'packing' && current.run.secondsLeft > 0.9">
          · {{ t('belt.left', { n: Math.ceil(current.run.secondsLeft) }) }}</template
        >
      </span>
      <button v-if="current.run.state === 'packing'" class="link" @click="steer('pause')">{{ t('belt.pause') }}</button>
      <button v-if="current.run.state === 'paused'" class="link" @click="steer('resume')">
        {{ t('belt.resume') }}
      </button>
      <button v-if="current.run.state === 'paused'" class="link" @click="steer('stop')">{{ t('belt.stop') }}</button>
      <span v-if="current.more" class="more">{{ t('belt.more', { n: current.more }) }}</span>
      <span class="grow" />
      <LookAtOne
        v-if="current.run.state === 'done' && current.run.kind === 'pack' && current.run.told"
        :class-id="current.classId"
        :run="current.run"
      />
      <button class="link" :aria-expanded="shown" @click="shown = !shown">
        {{ shown ? t('belt.hide') : t('belt.show') }}
      </button>
      <button
        v-if="current.run.state === 'done' || current.run.state === 'stopped'"
        class="link"
        @click="close(current.run.id)"
      >
        {{ t('belt.close') }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.line {
  background: var(--belt);
  color: var(--on-belt);
  padding: 0 24px;
  min-height: 42px;
  display: flex;
  align-items: center;
  gap: 16px;
  font-size: 14px;
  flex-wrap: wrap;
}
.bar {
  flex: 1;
  max-width: 320px;
  min-width: 60px;
  height: 12px;
  display: flex;
  gap: 2px;
}
.bar i {
  flex: 1;
  border-radius: 2px;
  background: var(--belt-rest);
  transition: background 0.2s;
}
.bar .done {
  background: var(--belt-done);
}
.bar .stuck {
  background: var(--belt-stuck);
}
.link {
  color: var(--belt-link);
}
</style>
