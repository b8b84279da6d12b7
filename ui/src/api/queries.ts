import { useQuery, type QueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter, type Ref } from 'vue'
import { api, data } from './client'
import { keys, type Part } from './keys'

/** The classes on the rail. often: asked for by itself too, for a cupboard that doesn't answer makes no news. */
export const useClasses = (often = false) =>
  useQuery({
    queryKey: keys.classes(),
    queryFn: () => data(api.GET('/classes')),
    refetchInterval: often ? 60_000 : undefined,
  })

/** How a class came on over the last weeks with a handout, or with all for an empty one. */
export const useWeeks = (classId: Ref<string>, handout: MaybeRefOrGetter<string>, enabled: MaybeRefOrGetter<boolean>) =>
  useQuery({
    queryKey: computed(() => keys.weeks(classId.value, toValue(handout))),
    queryFn: () =>
      data(
        api.GET('/classes/{classId}/weeks', {
          params: { path: { classId: classId.value }, query: { handout: toValue(handout) || undefined } },
        }),
      ),
    enabled,
  })

/** The Register of a class. */
export const useRegister = (classId: Ref<string>) =>
  useQuery({
    queryKey: computed(() => keys.register(classId.value)),
    queryFn: () => data(api.GET('/classes/{classId}/register', { params: { path: { classId: classId.value } } })),
  })

/** The class list. */
export const useRoster = (classId: Ref<string>, enabled?: Ref<boolean>) =>
  useQuery({
    queryKey: computed(() => keys.roster(classId.value)),
    queryFn: () => data(api.GET('/classes/{classId}/roster', { params: { path: { classId: classId.value } } })),
    enabled,
  })

/** What is asked for of one class. */
const ofClass: ((classId: string) => Part[])[] = [
  ...[keys.register, keys.class, keys.room, keys.tree, keys.leftovers, keys.handouts, keys.handout, keys.roster],
  ...[
    keys.rosterHistory,
    keys.panel,
    keys.weeks,
    keys.run,
    keys.missing,
    keys.leavers,
    keys.links,
    keys.log,
    keys.ledger,
  ],
  keys.pastRuns,
]

/**
 * Has something asked for again. An answer that is under way may be of before what makes this due:
 * it is dropped, or let through and asked for once more. One of a page that was left is let through
 * in any case, and out of date when it comes; it passed for fresh otherwise.
 */
export async function freshen(queries: QueryClient, queryKey: Part[], answers: 'drop' | 'through' = 'drop') {
  const how = { cancelRefetch: answers === 'drop' }
  const late = queries
    .getQueryCache()
    .findAll({ queryKey, fetchStatus: 'fetching', type: answers === 'drop' ? 'inactive' : 'all' })
  await queries.invalidateQueries({ queryKey }, how)
  await Promise.allSettled(late.map((q) => q.promise))
  if (late.length) await queries.invalidateQueries({ queryKey, predicate: (q) => late.includes(q) }, how)
}

/** Has everything of a class asked for again, and the rail with it. */
export const freshenClass = (queries: QueryClient, classId: string, answers?: 'drop' | 'through') =>
  Promise.all(
    [...ofClass.map((of) => of(classId)), keys.classes(), keys.allWeeks()].map((key) => freshen(queries, key, answers)),
  )

/**
 * Makes a change and keeps what it answers. What was asked for before it, and comes after it, may be
 * of before it: that is dropped, and asked for again. And so is the answer itself where something
 * came meanwhile: that may be of after another change.
 */
export async function answered<T>(queries: QueryClient, queryKey: Part[], change: () => Promise<T>): Promise<T> {
  const came = () => queries.getQueryState(queryKey)?.dataUpdateCount
  const before = came()
  const next = await change()
  const underWay = queries.isFetching({ queryKey, exact: true }) > 0
  await queries.cancelQueries({ queryKey, exact: true })
  if (came() !== before) await queries.invalidateQueries({ queryKey, exact: true })
  else {
    queries.setQueryData(queryKey, next)
    if (underWay) void queries.invalidateQueries({ queryKey, exact: true })
  }
  await new Promise((told) => setTimeout(told)) // pages are told in a turn of their own: they show it by now
  return next
}

/** Waits until every answer that is under way of a class has come or failed. */
export const settled = (queries: QueryClient, classId: string) =>
  Promise.allSettled(
    queries
      .getQueryCache()
      .findAll({ fetchStatus: 'fetching', predicate: (q) => q.queryKey[1] === classId })
      .map((q) => q.promise),
  )

/** The door by which students ask to be let into a class; asked for again while it is open. */
export function useJoinDoor(classId: MaybeRefOrGetter<string>) {
  const id = computed(() => toValue(classId))
  return useQuery({
    queryKey: computed(() => keys.joinDoor(id.value)),
    queryFn: () => data(api.GET('/classes/{classId}/join-door', { params: { path: { classId: id.value } } })),
    refetchInterval: (q) => (q.state.data?.link ? 5000 : false),
  })
}
