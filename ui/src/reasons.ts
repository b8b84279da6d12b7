import { useI18n } from 'vue-i18n'
import type { Of } from './api/client'

/** The words for a code with arguments, as the server gives reasons. */
export function useReasons() {
  const { t, te } = useI18n()
  const reasonText = (r: Of<'Reason'>) => (te(`reason.${r.code}`) ? t(`reason.${r.code}`, r.args ?? {}) : r.code)
  const noteText = (r: Of<'Reason'>) => t(`note.${r.code}`, r.args ?? {}, Number(r.args?.count ?? 1))
  return { reasonText, noteText }
}
