import { useQueryClient } from '@tanstack/vue-query'
import { onBeforeUnmount, reactive } from 'vue'
import type { Of } from './api/client'
import { freshenClass } from './api/queries'
import { hear } from './stream'

type News = { class: string; revision: number; runs: Of<'Run'>[] }

/** The runs of every class you are on the staff of, as the server tells of them. */
export const runs = reactive(new Map<string, Of<'Run'>[]>())

/** Listens for news while a staff page is open; what a change touches is asked for again. */
export function useNews() {
  const queries = useQueryClient()
  const seen = new Map<string, number>()
  let settled = false // the present state of every class has been told
  const leave = hear((told) => {
    if (told.kind !== 'news') {
      settled = told.kind === 'ready'
      return
    }
    const n = JSON.parse(told.data) as News
    runs.set(n.class, n.runs)
    if (seen.get(n.class) === n.revision) return
    const first = !seen.has(n.class) && !settled
    seen.set(n.class, n.revision)
    if (first) return
    void freshenClass(queries, n.class, 'through')
  })
  window.addEventListener('pagehide', leave)
  onBeforeUnmount(() => {
    window.removeEventListener('pagehide', leave)
    leave()
  })
}
