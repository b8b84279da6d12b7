import type { Of } from '@/api/client'

/** What is typed about a school. */
export type SchoolTyped = Omit<Of<'School'>, 'fixed' | 'postFrom' | 'postReady' | 'serviceReady' | 'serviceBack'>

const keys = [
  'name',
  'domain',
  'zone',
  'language',
  'satchelMB',
  'officeCodes',
  'staffReset',
  'outsideMail',
  'listAccounts',
  'site',
  'post',
  'service',
  'words',
] as const

/** What of it is different than it was, without what is fixed. */
export function changed(typed: SchoolTyped, was: Of<'School'>): Of<'SchoolParts'> {
  return Object.fromEntries(
    keys
      .filter((k) => !was.fixed.includes(k) && JSON.stringify(typed[k]) !== JSON.stringify(was[k]))
      .map((k) => [k, typed[k]]),
  )
}
