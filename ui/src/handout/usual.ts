import { computed, ref, type Ref } from 'vue'
import type { Of } from '@/api/client'
import { isNotice } from './handout'

/** What a handout can say beside the main things. As it usually is, it is one folded line until it is touched. */
export type Further = 'passing' | 'send' | 'instructions' | 'links' | 'note'

export function useUsual(h: Ref<Of<'Handout'> | undefined>) {
  const unfolded = ref(false)
  const usual = computed<Further[]>(() => {
    const x = h.value
    if (!x || isNotice(x)) return []
    return [
      ...(x.packedAt || x.send ? [] : ['send' as const]),
      ...(x.message ? [] : ['note' as const]),
      ...(x.instructions ? [] : ['instructions' as const]),
      ...(x.links.length ? [] : ['links' as const]),
      ...((x.way === 'one-each' || x.way === 'by-level') && x.passing === 'nothing' ? ['passing' as const] : []),
    ]
  })
  /** Whether a part is folded away. */
  const folds = (part: Further) => !unfolded.value && usual.value.includes(part)
  return { unfolded, usual, folds }
}
export type Folds = ReturnType<typeof useUsual>['folds']
