<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'
import { wall } from '@/when'
import { usePens } from './pens'

/** Extra time for chosen students, and pens down or up for them alone. */
const props = defineProps<{ classId: string; handoutId: string; rows: string[] }>()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: props.classId, handoutId: props.handoutId } }))
const { data: h } = useQuery({
  queryKey: computed(() => keys.handout(props.classId, props.handoutId)),
  queryFn: () => data(api.GET('/classes/{classId}/handouts/{handoutId}', { params: path.value })),
})
const theirs = computed(() => h.value?.extra.filter((x) => props.rows.includes(x.row)) ?? [])
const closed = computed(() => h.value?.closed.filter((row) => props.rows.includes(row)).length ?? 0)
const alike = computed(() => {
  const all = props.rows.map((row) => theirs.value.find((x) => x.row === row)?.until)
  return all.every((u) => u === all[0]) ? all[0] : undefined
})
const typed = ref('')
const until = computed({
  get: () => typed.value || alike.value || h.value?.due || '',
  set: (v) => (typed.value = v),
})
// Said as a time, as minutes beyond the due time, or in per cent of the time there was.
const unit = ref<'until' | 'minutes' | 'percent'>('until')
const much = ref(15)
const said = computed(() =>
  unit.value === 'until'
    ? { rows: props.rows, until: until.value }
    : { rows: props.rows, until: '', [unit.value]: much.value },
)
const { busy, problem, act } = useActing()
const done = async (words: string) => {
  await queries.invalidateQueries({ queryKey: keys.handout(props.classId) })
  tellDone(words)
}
const n = computed(() => props.rows.length)
const give = (extra: Of<'ExtraTime'>) =>
  act(async () => {
    await api.PATCH('/classes/{classId}/handouts/{handoutId}', { params: path.value, body: { to: { extra }, was: {} } })
    typed.value = ''
    const gives = !!(extra.until || extra.minutes || extra.percent)
    await done(t(gives ? 'times.given' : 'times.taken', { n: n.value }, n.value))
  })
const pens = usePens(path, act)
</script>

<template>
  <form v-if="h" class="times" data-form="times" @submit.prevent="give(said)">
    <p class="quiet">
      {{ h.due ? t('times.due', { when: wall(h.due) }) : t('times.no-due') }}
      {{ h.due ? t(`times.then-${h.then}`) : '' }}
    </p>
    <template v-if="h.due">
      <div class="acts">
        <PickOne
          v-model="unit"
          :label="t('times.unit')"
          :options="(['until', 'minutes', 'percent'] as const).map((u) => ({ value: u, label: t(`times.${u}`) }))"
        />
        <input
          v-if="unit === 'until'"
          v-model="until"
          type="datetime-local"
          class="field"
          required
          :aria-label="t('times.until')"
        />
        <input
          v-else
          v-model.number="much"
          type="number"
          min="1"
          :max="unit === 'percent' ? 1000 : 86400"
          class="field"
          required
          :aria-label="t(`times.${unit}`)"
          data-field="much"
        />
      </div>
      <div class="acts">
        <Button size="small" type="primary" html-type="submit" :loading="busy" data-act="give-extra">{{
          t('times.give', { n }, n)
        }}</Button>
        <Button
          v-if="theirs.some((x) => !x.always)"
          size="small"
          :disabled="busy"
          data-act="take-extra"
          @click="give({ rows, until: '' })"
          >{{ t('times.take') }}</Button
        >
      </div>
    </template>
    <div v-if="h.packedAt && !h.withdrawnAt" class="acts">
      <Button
        v-if="closed < n"
        size="small"
        :disabled="busy"
        data-act="pens-down-chosen"
        @click="pens(true, rows, n - closed)"
        >{{ t('pens.down', { n: n - closed }, n - closed) }}</Button
      >
      <Button
        v-if="closed"
        size="small"
        :disabled="busy"
        data-act="pens-up-chosen"
        @click="pens(false, rows, closed)"
        >{{ t('pens.up', { n: closed }, closed) }}</Button
      >
    </div>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </form>
</template>

<style scoped>
.times {
  display: grid;
  gap: 8px;
  border: 1.5px solid var(--thread);
  border-radius: 8px;
  padding: 10px 14px;
}
.times p {
  margin: 0;
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
.field {
  font: inherit;
  max-width: 100%;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-field);
  border-radius: 5px;
  padding: 2px 6px;
}
</style>
