import type { Of } from '@/api/client'

/** The rows of a list that are in its table: all but headings and titles. */
export const rowsOf = (d: Of<'Draft'>) => d.rows.filter((r) => r.state !== 'heading' && r.state !== 'title')
