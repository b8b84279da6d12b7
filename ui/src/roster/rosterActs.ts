import { Modal } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, onMounted, ref, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { freshenClass } from '@/api/queries'
import { sayTheirs } from '@/packing/mending'
import { withValue } from '@/parts/columnValues'
import { tellDone, tellProblem } from '@/tell'

/** What was done last, with the way back beside it. */
export type LastAct = { batch: string; text: string; follows: boolean }

/**
 * What is done to a class list, one act after the other; `notUndone` is called where what was last
 * can't be taken back any more.
 */
export function useRosterActs(classId: Readonly<Ref<string>>, notUndone: () => void) {
  const { t } = useI18n()
  const queries = useQueryClient()
  const path = computed(() => ({ path: { classId: classId.value } }))
  const refresh = () => freshenClass(queries, classId.value)
  const last = ref<LastAct | null>(null)
  // Acts follow each other: each knows of what stood before it.
  let acts = Promise.resolve()
  const waiting = new Set<() => Promise<Of<'RosterAct'>>>()
  function act(how: () => Promise<Of<'RosterAct'>>, text: string) {
    waiting.add(how)
    acts = acts.then(async () => {
      if (!waiting.delete(how)) return
      try {
        const { batch } = await how()
        last.value = batch ? { batch, text, follows: false } : null
        void refresh()
      } catch (e) {
        tellProblem(e)
        await queries.invalidateQueries({ queryKey: keys.roster(classId.value) })
      }
    })
    return acts
  }
  // A page that goes away waits for no answer.
  function away() {
    for (const how of waiting) void how()
    waiting.clear()
  }
  onMounted(() => window.addEventListener('pagehide', away))
  onBeforeUnmount(() => window.removeEventListener('pagehide', away))
  // What was typed is shown at once; what is refused gives way to what there is.
  function edit(edits: Of<'RosterEdit'>[]) {
    const typed = new Map<string, Of<'RosterEdit'>[]>()
    for (const e of edits) typed.set(e.row, [...(typed.get(e.row) ?? []), e])
    queries.setQueryData<Of<'RosterRow'>[]>(keys.roster(classId.value), (rows) =>
      rows?.map((r) =>
        (typed.get(r.row) ?? []).reduce((row, e) => withValue(row, e.field, e.value.trim().replace(/\s+/g, ' ')), r),
      ),
    )
    const params = path.value // of the class it was typed into, whichever is shown when its turn comes
    // It comes in also where the page is left at once; browsers take 64 KiB of that kind and no more.
    const keepalive = JSON.stringify(edits).length < 30_000
    return act(
      () => data(api.PATCH('/classes/{classId}/roster', { params, body: { edits }, keepalive })),
      edits.length > 1 ? t('grid.done') : '',
    )
  }
  function renameTeam(team: Of<'Team'>, name: string) {
    const params = { path: { classId: classId.value, teamId: team.id } }
    return act(
      () => data(api.PATCH('/classes/{classId}/teams/{teamId}', { params, body: { name } })),
      t('teams.renamed', { team: name }),
    )
  }
  function confirmAccount(row: string) {
    const of = classId.value
    return act(() => sayTheirs(of, row), '')
  }
  async function undo() {
    const l = last.value
    if (!l) return
    try {
      await api.POST('/classes/{classId}/roster/history/{batch}/undo', {
        params: { path: { classId: classId.value, batch: l.batch } },
      })
      last.value = null
      tellDone(t('grid.taken-back'))
      await refresh()
    } catch (e) {
      tellProblem(e)
      notUndone()
    }
  }
  function setLeft(rows: Of<'RosterRow'>[], left: boolean) {
    const params = path.value
    const body = { rows: rows.filter((r) => !!r.left !== left).map((r) => r.row), left }
    const n = body.rows.length
    return act(
      () => data(api.POST('/classes/{classId}/roster/left', { params, body })),
      t(left ? 'compare.done-left' : 'compare.done-returned', { n }, n),
    )
  }
  /** Asks before n students leave. */
  function confirmLeaving(n: number, leave: () => Promise<unknown>) {
    Modal.confirm({
      title: t('grid.leave-title', { n }, n),
      content: t('grid.leave-text'),
      okText: t('grid.leave', { n }, n),
      okButtonProps: { danger: true },
      cancelText: t('act.cancel'),
      onOk: leave,
    })
  }
  return { last, refresh, edit, renameTeam, confirmAccount, undo, setLeft, confirmLeaving }
}
