import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onMounted, ref, watch, type ComputedRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { now } from '@/me'
import { useActing } from '@/parts/acting'
import { useReasons } from '@/reasons'
import { moment } from '@/when'

/** A check of the last minutes is shown as it is; an earlier one is made again when the page is opened. */
const fresh = 5 * 60_000

/** The newest check of a class, and what is done about what it found. */
export function useDoorCheck(classId: ComputedRef<string>) {
  const queries = useQueryClient()
  const path = computed(() => ({ classId: classId.value }))
  const { busy, problem, act } = useActing()
  const { data: doors } = useQuery({
    queryKey: computed(() => keys.doors(classId.value)),
    queryFn: () => data(api.GET('/classes/{classId}/doors', { params: { path: path.value } })),
  })
  const last = computed(() => doors.value?.last)
  const earlier = computed(() => doors.value?.earlier ?? [])
  const again = () => queries.invalidateQueries({ queryKey: keys.doors(classId.value) })
  const check = () =>
    act(async () => {
      await data(api.POST('/classes/{classId}/doors', { params: { path: path.value } }))
      await Promise.all([again(), queries.invalidateQueries({ queryKey: keys.classes() })])
    })
  onMounted(() => {
    const stop = watch(
      doors,
      (d) => {
        if (!d) return
        queueMicrotask(() => stop())
        if (!d.last || now() - Date.parse(d.last.at) > fresh) void check()
      },
      { immediate: true },
    )
  })
  // What is put right is a run; when it has ended, the doors are checked again.
  const run = ref('')
  const { data: detail } = useQuery({
    queryKey: computed(() => keys.run(classId.value, run.value)),
    enabled: computed(() => !!run.value),
    queryFn: () =>
      data(api.GET('/classes/{classId}/runs/{runId}', { params: { path: { ...path.value, runId: run.value } } })),
    refetchInterval: (q) => (q.state.data?.run.state === 'packing' ? 1000 : false),
  })
  watch(
    () => detail.value?.run,
    (r) => {
      if (!r || r.id !== run.value || r.state === 'packing' || r.state === 'paused') return
      run.value = ''
      void check()
    },
  )
  const mend = (differences: string[]) =>
    act(async () => {
      const started = await data(
        api.POST('/classes/{classId}/doors/mend', { params: { path: path.value }, body: { differences } }),
      )
      run.value = started.run
    })
  const leave = (id: string, left: boolean) =>
    act(async () => {
      await api.POST('/classes/{classId}/doors/leave', {
        params: { path: path.value },
        body: { differences: [id], left },
      })
      await data(api.POST('/classes/{classId}/doors', { params: { path: path.value } }))
      await Promise.all([again(), queries.invalidateQueries({ queryKey: keys.classes() })])
    })
  const mending = computed(() => !!run.value)
  return { last, earlier, busy, problem, mending, check, mend, leave }
}

/** The words for a difference. */
export function useDifferences() {
  const { t } = useI18n()
  const { reasonText } = useReasons()
  const names = (d: Of<'Difference'>) =>
    [
      ...d.who.slice(0, 3),
      ...(d.who.length + d.others > 3 ? [t('doors.others', { n: d.who.length + d.others - 3 })] : []),
    ].join(', ')
  /** What it is and should be. */
  const state = (d: Of<'Difference'>) => {
    if (d.kind === 'open-school') return t('doors.school', { level: t(`level.${d.is}`) })
    if (d.is === d.should) return ''
    return t('doors.should', { is: t(`level.${d.is}`), should: t(`level.${d.should}`) })
  }
  const why = (d: Of<'Difference'>) => {
    const args = { ...d.why.args }
    if (args.at) args.at = moment(Date.parse(args.at))
    return reasonText({ code: d.why.code, args })
  }
  const mends = (d: Of<'Difference'>) =>
    d.mends
      ? t(`mend.${d.kind}`, { who: names(d), for: d.for, level: t(`level.${d.should}`), name: d.why.args?.name ?? '' })
      : ''
  return { names, state, why, mends }
}
