import { computed, ref } from 'vue'
import type { Of } from '@/api/client'

/** A column that is shown, or how many are put away. */
export type Shown = { k: number; away?: number; heading?: string }
/** A heading above n columns. */
export type Span = { id: string; title: string; n: number; away: boolean }

/** The columns of the Register that are shown, and the headings above them. */
export function useFolded(reg: () => Of<'Register'>) {
  // Columns are under their headings; those of a folded one are put away behind one narrow column.
  const shown = ref<Record<string, boolean>>({})
  const folded = (id?: string) => !!id && !(shown.value[id] ?? !reg().headings.find((h) => h.id === id)?.folded)
  const columns = computed(() => {
    const out: Shown[] = []
    reg().columns.forEach((c, k) => {
      const last = out.at(-1)
      if (!folded(c.heading)) out.push({ k, heading: c.heading })
      else if (last?.away && last.heading === c.heading) last.away++
      else out.push({ k, heading: c.heading, away: 1 })
    })
    return out
  })
  const spans = computed(() => {
    const out: Span[] = []
    for (const c of columns.value) {
      const last = out.at(-1)
      if (last && last.id === (c.heading ?? '')) last.n++
      else
        out.push({
          id: c.heading ?? '',
          title: reg().headings.find((h) => h.id === c.heading)?.title ?? '',
          n: 1,
          away: !!c.away,
        })
    }
    return out
  })
  const headed = computed(() => spans.value.some((s) => s.id))
  const show = (heading: string, on: boolean) => (shown.value = { ...shown.value, [heading]: on })
  return { columns, spans, headed, show }
}
