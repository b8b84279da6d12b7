import { useQueryClient } from '@tanstack/vue-query'
import type { Ref } from 'vue'
import { api } from '@/api/client'
import { keys } from '@/api/keys'

/** When a class opens to its students: later, at a time or by hand (no time), or now, for some or all. */
export function useOpening(classId: Ref<string>) {
  const queries = useQueryClient()
  const params = () => ({ path: { classId: classId.value } })
  const again = () =>
    Promise.all(
      [keys.class(classId.value), keys.room(classId.value), keys.register(classId.value), keys.classes()].map(
        (queryKey) => queries.invalidateQueries({ queryKey }),
      ),
    )
  return {
    later: async (at: string) => {
      await api.PUT('/classes/{classId}/opening', { params: params(), body: { at } })
      await again()
    },
    now: async (rows: string[] = []) => {
      await api.POST('/classes/{classId}/opening', { params: params(), body: { rows } })
      await again()
    },
  }
}
