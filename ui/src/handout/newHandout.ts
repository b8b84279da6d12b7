import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { tellProblem } from '@/tell'

/** Begins a handout or a notice of a class and opens it; tells where that is refused. */
export function useNewHandout() {
  const router = useRouter()
  return async (classId: string, body: Of<'NewHandout'> = {}) => {
    try {
      const h = await data(api.POST('/classes/{classId}/handouts', { params: { path: { classId } }, body }))
      void router.push({ name: 'handout', params: { classId, handoutId: h.id } })
    } catch (e) {
      tellProblem(e)
    }
  }
}
