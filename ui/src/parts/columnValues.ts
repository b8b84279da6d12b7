import type { Of } from '@/api/client'

/** What a student has in a column of the class list. */
export const valueOf = (r: Of<'RosterRow'>, field: string) =>
  field.startsWith('extra:') ? (r.extra[field.slice(6)] ?? '') : String(r[field as keyof Of<'RosterRow'>] ?? '')

/** The student with another value in a column. */
export const withValue = (r: Of<'RosterRow'>, field: string, value: string): Of<'RosterRow'> =>
  field.startsWith('extra:') ? { ...r, extra: { ...r.extra, [field.slice(6)]: value } } : { ...r, [field]: value }

/** The different values a column has among the students of a class, in order. */
export function columnValues(rows: Of<'RosterRow'>[], field: string): string[] {
  const values = rows.filter((r) => !r.left).map((r) => valueOf(r, field))
  return [...new Set(values.filter(Boolean))].sort((a, b) => a.localeCompare(b, undefined, { numeric: true }))
}
