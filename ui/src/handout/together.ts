import { inject, provide, shallowReactive, type InjectionKey, type Ref } from 'vue'
import type { Of } from '@/api/client'
import type { Hand } from './handout'

/** The handout of another of one's classes that this page's is one with. */
export type Member = {
  class: string
  code: string
  name: string
  cls: Ref<Of<'Class'> | undefined>
  hand: Hand
  /** What it is has come, or can't. */
  known: Ref<boolean>
}
const key: InjectionKey<Map<string, Member>> = Symbol('together')

/** Has the page know of the other classes its handout is for; each says itself what it is. */
export function provideTogether() {
  const members = shallowReactive(new Map<string, Member>())
  provide(key, members)
  return members
}

/** The other classes that the page's handout is for, by their id. */
export function useTogether() {
  const members = inject(key)
  if (!members) throw new Error('outside of a handout')
  return members
}

/** How many of a class are in. */
export const inOf = (cls: Of<'Class'> | undefined, h: Of<'Handout'> | undefined) =>
  Math.max(0, (cls?.students ?? 0) - (h?.out.length ?? 0))
