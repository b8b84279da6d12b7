import { computed, inject, provide, type ComputedRef, type InjectionKey, type Ref } from 'vue'
import type { Of } from '@/api/client'

type TheClass = {
  cls: Ref<Of<'Class'> | undefined>
  classId: ComputedRef<string>
  /** Of its owner and co-teachers: change, pack. */
  mayPack: ComputedRef<boolean>
  /** Of its staff: look into what is whose. */
  mayLook: ComputedRef<boolean>
}
const key: InjectionKey<TheClass> = Symbol('class')

/** Says whose page this is to everything on it, and to the page itself. */
export function provideClass(cls: Ref<Of<'Class'> | undefined>, classId: ComputedRef<string>) {
  const my = computed(() => cls.value?.my)
  const the: TheClass = {
    cls,
    classId,
    mayPack: computed(() => my.value === 'owner' || my.value === 'teacher'),
    mayLook: computed(() => !!my.value && my.value !== 'office'),
  }
  provide(key, the)
  return the
}

/** The class whose page this is, and what may be done there. */
export function useClass() {
  const c = inject(key)
  if (!c) throw new Error('outside of a class page')
  return c
}
