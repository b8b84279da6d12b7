import type { Of } from '@/api/client'

const fields: Record<string, keyof Of<'RosterRow'>> = {
  Period: 'period',
  Level: 'level',
  Team: 'team',
  'Family name': 'family',
  'Given name': 'given',
  'Preferred name': 'preferred',
  'Student number': 'number',
}

/** The different values a column has among the students of a class, in order. */
export function columnValues(rows: Of<'RosterRow'>[], column: string): string[] {
  const f = fields[column]
  const values = rows.filter((r) => !r.left).map((r) => (f ? String(r[f]) : (r.extra[column] ?? '')))
  return [...new Set(values.filter(Boolean))].sort((a, b) => a.localeCompare(b, undefined, { numeric: true }))
}
