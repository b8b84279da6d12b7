import { onBeforeUnmount, onMounted, ref } from 'vue'

/** Whether the window is a phone's. */
export const useNarrow = () => useMedia('(max-width: 700px)')

/** Whether the window has room for more beside a table. */
export const useWide = () => useMedia('(min-width: 1600px)')

function useMedia(which: string) {
  const query = window.matchMedia(which)
  const is = ref(query.matches)
  const see = () => (is.value = query.matches)
  onMounted(() => query.addEventListener('change', see))
  onBeforeUnmount(() => query.removeEventListener('change', see))
  return is
}
