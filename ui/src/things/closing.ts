import { computed, onBeforeUnmount, ref, watch, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { now } from '@/me'
import { moment } from '@/when'

/** How long before it closes what is typed is sent, in milliseconds. */
export const sendBefore = 2_000

/**
 * When a copy closes, as it is said: the time, counted down in the last hour. then is called at the moment
 * itself. Staff write on; they are told when it closes for the student. Five minutes before it is said once to who listens.
 */
export function useClosing(closing: Ref<Of<'Closing'> | undefined>, staff: Ref<boolean>, then: () => void) {
  const { t } = useI18n()
  const left = ref(Infinity) // milliseconds
  const announced = ref('')
  let timer = 0
  function look() {
    window.clearTimeout(timer)
    const at = closing.value && Date.parse(closing.value.at)
    const before = left.value
    left.value = at ? at - now() : Infinity
    if (!at) return
    if (left.value <= 0) {
      if (before > 0 && before < Infinity) timer = window.setTimeout(then, 500) // the server's clock is there, too
      return
    }
    const five = 5 * 60_000
    if (before > five && before < Infinity && left.value <= five) announced.value = t('closing.in-minutes', { n: 5 }, 5)
    // A device that slept looks again when it wakes; nothing is counted for days ahead.
    timer = window.setTimeout(look, left.value > 3_600_000 ? 60_000 : Math.min(1_000, left.value))
  }
  watch(closing, look, { immediate: true })
  const awake = () => document.visibilityState === 'visible' && look()
  document.addEventListener('visibilitychange', awake)
  onBeforeUnmount(() => {
    window.clearTimeout(timer)
    document.removeEventListener('visibilitychange', awake)
  })
  const closed = computed(() => left.value <= 0)
  const words = computed(() => {
    const c = closing.value
    if (!c) return ''
    const when = moment(Date.parse(c.at))
    if (staff.value) return t(closed.value ? 'closing.staff-since' : 'closing.staff-at', { when })
    if (closed.value) return c.by ? t('closing.by', { when, who: c.by }) : t('closing.since', { when })
    if (left.value > 3_600_000) return t('closing.at', { when })
    const minutes = Math.ceil(left.value / 60_000)
    if (minutes > 1) return t('closing.in-minutes', { n: minutes }, minutes)
    const seconds = Math.ceil(left.value / 1000)
    return t('closing.in-seconds', { n: seconds }, seconds)
  })
  return { closed, words, announced }
}
