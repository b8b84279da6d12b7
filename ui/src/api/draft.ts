import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { tellProblem } from '@/tell'
import { api, data, ProblemError, type Of } from './client'
import { keys } from './keys'

/** The list that waits to be accepted into a class; null where none does. */
export function useDraft(classId: Readonly<Ref<string>>, waits: () => boolean) {
  const queries = useQueryClient()
  const path = computed(() => ({ path: { classId: classId.value } }))
  const { data: draft } = useQuery({
    queryKey: computed(() => keys.draft(classId.value)),
    enabled: computed(waits),
    queryFn: async () => {
      try {
        return await data(api.GET('/classes/{classId}/draft', { params: path.value }))
      } catch (e) {
        if (e instanceof ProblemError && e.status === 404) return null
        throw e
      }
    },
  })
  const set = (d: Of<'Draft'> | null) => queries.setQueryData(keys.draft(classId.value), d)
  const ofClass = () => queries.invalidateQueries({ queryKey: keys.class(classId.value) })
  const stale = () => queries.invalidateQueries({ queryKey: keys.draft(classId.value) })
  function came(d: Of<'Draft'>) {
    set(d)
    return ofClass()
  }
  async function drop() {
    try {
      if (!draft.value) return
      const { id, revision } = draft.value
      await api.DELETE('/classes/{classId}/draft', { params: { ...path.value, query: { id, revision } } })
      set(null)
      await ofClass()
    } catch (e) {
      tellProblem(e)
      await stale()
    }
  }
  return { draft, set, came, drop, stale }
}
