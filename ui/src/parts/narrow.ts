import { onBeforeUnmount, onMounted, ref } from 'vue'

/** Whether the window is a phone's. */
export function useNarrow() {
  const query = window.matchMedia('(max-width: 700px)')
  const narrow = ref(query.matches)
  const see = () => (narrow.value = query.matches)
  onMounted(() => query.addEventListener('change', see))
  onBeforeUnmount(() => query.removeEventListener('change', see))
  return narrow
}
