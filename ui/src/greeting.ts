import { useI18n } from 'vue-i18n'
import { hourNow } from './when'

/** How a person is greeted at this hour, by their first name; an office isn't a person. */
export function useGreeting() {
  const { t } = useI18n()
  return (name: string, whole = false) => {
    const hour = Number(hourNow().split(':')[0])
    const part = hour < 12 ? 'morning' : hour < 18 ? 'afternoon' : 'evening'
    return t(`home.${part}`, { name: whole ? name : name.split(' ')[0] })
  }
}
