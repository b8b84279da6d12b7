import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'

/** What a run is about, in words. */
export function useRunTitle() {
  const { t } = useI18n()
  return (r: Of<'Run'>) =>
    r.title || t(r.kind === 'mend' ? 'doors.title' : r.kind === 'mark' ? 'pens.title' : 'room.the-room')
}
