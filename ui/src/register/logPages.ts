import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch, type Ref } from 'vue'
import type { Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useRested } from '@/parts/rested'

/** A log, page after page: of a class, or of the school where it is none. */
export function useLogPages(
  classId: Ref<string>,
  find: Ref<string>,
  enabled: Ref<boolean>,
  ask: (query: { find?: string; before?: number }) => Promise<Of<'Log'>>,
) {
  const asked = useRested(find)
  const older = ref<Of<'LogLine'>[]>([])
  const before = ref(0)
  const { data } = useQuery({
    queryKey: computed(() => keys.log(classId.value, asked.value, before.value)),
    enabled,
    queryFn: () => ask({ find: asked.value || undefined, before: before.value || undefined }),
    placeholderData: (old) => old,
  })
  watch([asked, classId, enabled], () => {
    older.value = []
    before.value = 0
  })
  const lines = computed(() => [...older.value, ...(data.value?.lines ?? [])])
  function more() {
    older.value = lines.value
    before.value = lines.value.at(-1)?.n ?? 0
  }
  return { lines, more, hasMore: computed(() => data.value?.more), came: computed(() => !!data.value) }
}
