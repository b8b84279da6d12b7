import { ref } from 'vue'
import { sentence } from '@/tell'

/** One act at a time: whether it is under way, and in words why it was refused. */
export function useActing() {
  const busy = ref(false)
  const problem = ref('')
  async function act<T>(how: () => Promise<T>): Promise<T | undefined> {
    busy.value = true
    problem.value = ''
    try {
      return await how()
    } catch (e) {
      problem.value = sentence(e)
    } finally {
      busy.value = false
    }
  }
  return { busy, problem, act }
}
