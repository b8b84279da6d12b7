import { computed, type ComputedRef, type Ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useRoster } from '@/api/queries'

/** A check of which only what is about one handout or one student is shown; what is, stands in the address. */
export function useNarrowed(
  classId: Ref<string>,
  last: ComputedRef<Of<'DoorCheck'> | undefined>,
  mayLook: Ref<boolean>,
) {
  const { t } = useI18n()
  const route = useRoute()
  const router = useRouter()
  const { data: roster } = useRoster(classId)
  const { data: handouts } = useQuery({
    queryKey: computed(() => keys.handouts(classId.value)),
    enabled: mayLook,
    queryFn: () => data(api.GET('/classes/{classId}/handouts', { params: { path: { classId: classId.value } } })),
  })
  const only = computed({
    get: () =>
      route.query.student ? `row ${route.query.student}` : route.query.handout ? `handout ${route.query.handout}` : '',
    set: (v) => {
      const [kind, id] = v.split(' ')
      void router.replace({ query: kind === 'row' ? { student: id } : kind ? { handout: id } : {} })
    },
  })
  const about = computed(() => {
    const [kind, id] = only.value.split(' ')
    if (kind === 'row') return { row: id, name: roster.value?.find((r) => r.row === id)?.name ?? '' }
    if (kind) return { handout: id, name: handouts.value?.find((h) => h.id === id)?.title ?? '' }
    return undefined
  })
  const fits = (d: Of<'Difference'>) =>
    !about.value || (about.value.row ? d.rows.includes(about.value.row) : d.handout === about.value.handout)
  const check = computed(
    () => last.value && { ...last.value, lines: last.value.lines.filter(fits), left: last.value.left.filter(fits) },
  )
  const said = computed(() => {
    if (!about.value || !check.value || !last.value) return ''
    const n = check.value.lines.length
    const all = last.value.lines.length
    return n
      ? t('doors.only-some', { n, all, what: about.value.name }, n)
      : t('doors.only-none', { what: about.value.name })
  })
  const given = computed(() => (handouts.value ?? []).filter((h) => h.packedAt && h.way !== 'notice'))
  return { only, check, said, given, students: computed(() => roster.value ?? []) }
}
