import { computed, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useClass } from '@/class/theClass'
import { useFieldName } from '@/parts/fieldName'
import { isNotice } from './handout'

export type Part = Of<'LastHandout'>['differs'][number]
/** What is folded away where it is as in the last handout. */
const folded: Part[] = ['access', 'name', 'told']

/** A handout that isn't packed yet begins as the last of its class: what is as there is one folded line until it is touched. */
export function useLastTime(h: Ref<Of<'Handout'> | undefined>, unfolded: Ref<boolean>) {
  const { t } = useI18n()
  const { cls } = useClass()
  const columnLabel = useFieldName()
  const last = computed(() => (h.value && !h.value.packedAt && !isNotice(h.value) ? h.value.last : undefined))
  const differs = (part: Part) => !!last.value?.differs.includes(part)
  const alike = computed(() => (last.value ? folded.filter((p) => !differs(p)) : []))
  const away = (part: Part) => !unfolded.value && alike.value.includes(part)
  const says = computed(() => {
    const x = h.value
    if (!x || !last.value || unfolded.value || !alike.value.length) return ''
    const pocket = cls.value?.pockets.find((p) => p.id === x.pocket)?.name
    const words: Record<string, string> = {
      access: t(`level.${x.level}`),
      name: `${x.name.map((p) => (p.column ? `[${columnLabel(p.column)}]` : p.text)).join('')} ${t('say.put')} ${
        pocket ? t('say.satchel-pocket', { pocket }) : t('say.satchel')
      }`,
      told: t(x.tell === 'not' ? 'say.last-no-email' : 'say.last-email', { when: t(`mail.tell-${x.tell}`) }),
    }
    return alike.value.map((p) => words[p]).join(', ')
  })
  return { last, differs, away, says }
}
