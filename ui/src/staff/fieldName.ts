import { useI18n } from 'vue-i18n'

/** What a field of a roster row is called: a role, or an extra column's own heading. */
export function useFieldName() {
  const { t, te } = useI18n()
  return (field: string) =>
    field.startsWith('extra:') ? field.slice(6) : te(`role-of.${field}`) ? t(`role-of.${field}`) : field
}
