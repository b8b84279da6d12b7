import { computed } from 'vue'
import { useWeeks } from '@/api/queries'
import { isNotice, type Hand } from './handout'

/** How a handout came on week by week, for one that was packed, and whether that is known. */
export function useHandoutWeeks(hand: Hand) {
  const classId = computed(() => hand.path.value.path.classId)
  const wanted = computed(() => !!hand.h.value?.packedAt && !hand.h.value.withdrawnAt && !isNotice(hand.h.value))
  const { data: weeks, isPending } = useWeeks(classId, () => hand.path.value.path.handoutId, wanted)
  return { weeks, known: computed(() => !wanted.value || !isPending.value) }
}
