import { inject, type ComputedRef, type InjectionKey, type Ref } from 'vue'
import type { Of } from '@/api/client'

type TheClass = { cls: Ref<Of<'Class'> | undefined>; classId: ComputedRef<string> }
export const classKey: InjectionKey<TheClass> = Symbol('class')

/** The class whose page this is. */
export function useClass() {
  const c = inject(classKey)
  if (!c) throw new Error('outside of a class page')
  return c
}
