import { onBeforeUnmount, onMounted, ref } from 'vue'

/** Whether all keys are shown. */
export const showKeys = ref(false)

/** Whether a key belongs to a field that is being typed into. */
export function isTyping(e: KeyboardEvent): boolean {
  const el = e.target as HTMLElement | null
  return !!el && (/^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName) || el.isContentEditable || !!el.closest('[role=dialog]'))
}

/** Whether a key is pressed alone, for the page and not for a field. */
export const plainKey = (e: KeyboardEvent) => !isTyping(e) && !e.ctrlKey && !e.metaKey && !e.altKey

/** Keys of the page, while it is there. */
export function useKeys(keys: (e: KeyboardEvent) => void) {
  onMounted(() => window.addEventListener('keydown', keys))
  onBeforeUnmount(() => window.removeEventListener('keydown', keys))
}
