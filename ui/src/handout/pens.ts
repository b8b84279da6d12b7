import { useQueryClient } from '@tanstack/vue-query'
import type { Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api } from '@/api/client'
import { keys } from '@/api/keys'
import { tellDone } from '@/tell'
import type { useActing } from '@/parts/acting'

/** Closes a handout's copies by hand, or opens them again: for some rows, for all where none is named; n are touched. */
export function usePens(
  path: Ref<{ path: { classId: string; handoutId: string } }>,
  act: ReturnType<typeof useActing>['act'],
) {
  const { t } = useI18n()
  const queries = useQueryClient()
  return (down: boolean, rows: string[], n: number) =>
    act(async () => {
      const params = path.value
      await api.POST('/classes/{classId}/handouts/{handoutId}/pens', { params, body: { down, rows } })
      await queries.invalidateQueries({ queryKey: keys.handout(params.path.classId) })
      tellDone(t(down ? 'pens.now-closed' : 'pens.now-open', { n }, n))
    })
}
