import { onScopeDispose, ref, watch, type Ref } from 'vue'

/** What is typed, once the typing rests. */
export function useRested(typed: Ref<string>): Ref<string> {
  const rested = ref(typed.value.trim())
  let timer = 0
  watch(typed, (text) => {
    window.clearTimeout(timer)
    timer = window.setTimeout(() => (rested.value = text.trim()), 250)
  })
  onScopeDispose(() => window.clearTimeout(timer))
  return rested
}
