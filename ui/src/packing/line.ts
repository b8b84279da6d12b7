import type { ComposerTranslation } from 'vue-i18n'
import type { Of } from '@/api/client'
import { aboutAddress, aboutOpening } from '@/reasons'

/** Whether what a line makes, or made, waits for an address. */
export const waits = (l: Of<'Line'>) => later(l) && aboutAddress(l.reason?.code)

/** Whether what a line makes, or made, waits for an address or for the class to open. */
export const later = (l: Of<'Line'>) =>
  (l.section === 'to-pack' || l.section === 'already-there') &&
  (aboutAddress(l.reason?.code) || aboutOpening(l.reason?.code))

/** The tag a line of a packing list has. */
export function tagOf(l: Of<'Line'>) {
  if (l.section === 'already-there' && later(l)) return 'waits'
  if (l.section === 'left-out') return 'out'
  if (l.section === 'needs-fixing') return 'stuck'
  if (l.section === 'already-there') return 'shared'
  return l.act === 'share' ? 'not-shared' : 'not-made'
}

/** Whose a line is: a student, how many people, or what it is for. */
export function whoseLine(l: Of<'Line'>, t: ComposerTranslation): string {
  if (l.student) return l.student
  if (l.people !== undefined) return t('list.people', { n: l.people }, l.people)
  return l.purpose === 'account' ? '' : t(`purpose.${l.purpose}`)
}
