import { useQueries } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { isNotice, type Hand } from './handout'

/** How to ask what a document asks for in square brackets, and what is filled in for somebody; whom '' is the first. */
export const filledIn = (hand: Hand, document: Of<'GivenDocument'>, whom: string, at = hand.h.value?.changedAt) => {
  const path = { ...hand.path.value.path, slot: document.slot }
  return {
    queryKey: keys.handout(path.classId, path.handoutId, 'filled', [
      ...[document.slot, document.template, document.plain],
      ...[whom, at],
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

/**
 * The columns that the documents ask for, and whether that is known: of a few documents, since each is
 * read for it, and once, since it is theirs and not the sentence's.
 */
export function useFilled(hand: Hand) {
  const looked = useQueries({
    queries: computed(() =>
      (isNotice(hand.h.value) ? [] : hand.documents.value.filter((d) => !d.plain && d.file).slice(0, 5)).map((d) => ({
        ...filledIn(hand, d, '', ''),
        staleTime: 60_000,
      })),
    ),
  })
  const columns = computed(() => [
    ...new Set(looked.value.flatMap((q) => (q.data?.unreadable ? [] : (q.data?.columns ?? []))).map((c) => c.label)),
  ])
  return { columns, known: computed(() => looked.value.every((q) => !q.isPending)) }
}
