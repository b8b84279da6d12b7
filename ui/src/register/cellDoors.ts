import { useQuery } from '@tanstack/vue-query'
import { computed, type ComputedRef } from 'vue'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { useClass } from '@/class/theClass'
import { useClasses } from '@/api/queries'

/** How many differences the newest door check found, by cell: the student's row, a space and the handout, none for the satchel. */
export function useCellDoors(classId: ComputedRef<string>): ComputedRef<Map<string, number>> {
  const { cls } = useClass()
  const { data: classes } = useClasses()
  const differ = computed(() =>
    classes.value?.find((c) => c.id === cls.value?.id)?.notes.some((n) => n.code === 'doors-differ'),
  )
  const { data: doors } = useQuery({
    queryKey: computed(() => keys.doors(classId.value)),
    enabled: computed(() => !!differ.value),
    queryFn: () => data(api.GET('/classes/{classId}/doors', { params: { path: { classId: classId.value } } })),
  })
  return computed(() => {
    const out = new Map<string, number>()
    for (const d of differ.value ? (doors.value?.last?.lines ?? []) : [])
      for (const row of new Set(d.rows)) {
        const cell = `${row} ${d.handout ?? ''}`
        out.set(cell, (out.get(cell) ?? 0) + 1)
      }
    return out
  })
}
