import { useI18n } from 'vue-i18n'
import type { Of } from './api/client'
import { hourNow, wall } from './when'

/** The words for a code with arguments, as the server gives reasons. */
export function useReasons() {
  const { t } = useI18n()
  const reasonText = (r: Of<'Reason'>) =>
    t(`reason.${r.code}`, r.code === 'opens' ? { at: wall(r.args?.at ?? '') } : (r.args ?? {}))
  const noteText = (r: Of<'Reason'>) => {
    const code = r.code === 'due-today' && hourNow() >= (r.args?.time ?? '') ? 'was-due-today' : r.code
    return t(`note.${code}`, r.args ?? {}, Number(r.args?.count ?? 1))
  }
  return { reasonText, noteText }
}

/** Whether a reason is that the class isn't open yet. */
export const aboutOpening = (code = '') => code === 'opens' || code === 'opens-by-hand'

/** Whether a reason is mended by another address, or by saying whose it is. */
export const aboutAddress = (code = '') => code === 'no-address' || code.startsWith('account-')
