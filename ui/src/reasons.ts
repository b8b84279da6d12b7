import { useI18n } from 'vue-i18n'
import type { Of } from './api/client'

/** The words for a code with arguments, as the server gives reasons. */
export function useReasons() {
  const { t } = useI18n()
  const reasonText = (r: Of<'Reason'>) => t(`reason.${r.code}`, r.args ?? {})
  const noteText = (r: Of<'Reason'>) => t(`note.${r.code}`, r.args ?? {}, Number(r.args?.count ?? 1))
  return { reasonText, noteText }
}

/** Whether a reason is mended by another address, or by saying whose it is. */
export const aboutAddress = (code = '') => code === 'no-address' || code.startsWith('account-')
