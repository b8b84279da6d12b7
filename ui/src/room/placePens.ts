import { useQueryClient } from '@tanstack/vue-query'
import type { ComputedRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api } from '@/api/client'
import { keys } from '@/api/keys'
import { tellDone } from '@/tell'
import type { useActing } from '@/parts/acting'

/** Closes a place of the class for writing, or opens it again: for some rows, for all where none is named. */
export function usePlacePens(classId: ComputedRef<string>, act: ReturnType<typeof useActing>['act']) {
  const { t } = useI18n()
  const queries = useQueryClient()
  return (place: string, down: boolean, rows: string[] = []) =>
    act(async () => {
      const path = { classId: classId.value, placeId: place }
      await api.POST('/classes/{classId}/places/{placeId}/pens', { params: { path }, body: { down, rows } })
      await Promise.all(
        [keys.room(classId.value), keys.register(classId.value), keys.panel(classId.value)].map((queryKey) =>
          queries.invalidateQueries({ queryKey }),
        ),
      )
      const n = rows.length
      const words = down ? 'closed' : 'open'
      tellDone(n ? t(`place.now-${words}-n`, { n }, n) : t(`place.now-${words}`))
    })
}
