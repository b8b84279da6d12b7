import { computed, ref } from 'vue'
import type { Of } from '@/api/client'

/** What the Register is sorted by: a column by its number. */
export type Sort = { by: 'name' | 'changed' | number; down: boolean }
/** The students of the Register that are looked for, of some only where those are given, in the order that was chosen. */
export function useOrder(reg: () => Of<'Register'>, filter: () => string, only: () => Set<string> | null) {
  const sort = ref<Sort>({ by: 'name', down: false })
  const rank: Of<'CellState'>[] = ['stuck', 'not-made', 'waits', 'not-shared', 'shared', 'opened', 'working', 'out']
  const order = computed(() => {
    const r = reg()
    const needle = filter().trim().toLocaleLowerCase()
    const rows = r.students
      .map((_, i) => i)
      .filter((i) => only()?.has(r.students[i].row) ?? true)
      .filter((i) => !needle || r.students[i].name.toLocaleLowerCase().includes(needle))
    const { by, down } = sort.value
    if (by === 'changed') rows.sort((a, b) => r.changed[b] - r.changed[a])
    else if (by !== 'name') {
      const c = r.columns[by]
      rows.sort((a, b) => rank.indexOf(c.states[a]) - rank.indexOf(c.states[b]) || c.words[a] - c.words[b] || a - b)
    }
    return down ? rows.reverse() : rows
  })
  function sortBy(by: Sort['by']) {
    sort.value = { by, down: sort.value.by === by && !sort.value.down }
  }
  const aria = (by: Sort['by']) => (sort.value.by === by ? (sort.value.down ? 'descending' : 'ascending') : 'none')
  return { order, sortBy, aria }
}
