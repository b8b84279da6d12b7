import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import type { Hand } from './handout'

/** How to ask what a document asks for in square brackets, and what is filled in for somebody; whom '' is the first. */
export const filledIn = (hand: Hand, document: Of<'GivenDocument'>, whom: string) => {
  const path = { ...hand.path.value.path, slot: document.slot }
  return {
    queryKey: keys.handout(path.classId, path.handoutId, 'filled', [
      ...[document.slot, document.template, document.plain],
      ...[whom, hand.h.value?.changedAt],
    ]),
    queryFn: () =>
      data(
        api.GET('/classes/{classId}/handouts/{handoutId}/documents/{slot}/filled', {
          params: { path, query: { whom } },
        }),
      ),
    staleTime: 0,
  }
}
