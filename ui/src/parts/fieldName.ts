import { useI18n } from 'vue-i18n'

// What a list's own column could be mistaken for.
const roles = ['family', 'given', 'preferred', 'number', 'address', 'class', 'period', 'level', 'team']
const ours = [
  ...roles,
  'c:code',
  'c:name',
  'h:title',
  'h:date',
  'h:term',
  'h:year',
  'h:schoolyear',
  'h:original',
  'c:teacher',
  'c:initials',
]

/** Whether a column is the class's or the handout's own, the same for every student. */
export const isOwn = (field: string) => /^[ch]:/.test(field)

/** What a column is called: a role of the list, something of the handout's own, or an extra column's own heading. */
export function useFieldName() {
  const { t, te } = useI18n()
  return (field: string) => {
    if (field.startsWith('extra:')) {
      const heading = field.slice(6)
      const same = ours.some((f) => word(f).toLocaleLowerCase() === heading.toLocaleLowerCase())
      return same ? t('field.from-list', { heading }) : heading
    }
    return word(field)
  }
  function word(field: string): string {
    const key = isOwn(field) ? `field.${field.slice(2)}` : `role-of.${field}`
    return te(key) ? t(key) : field
  }
}
