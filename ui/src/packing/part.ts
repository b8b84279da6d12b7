import { computed, ref, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { tellDone, tellProblem } from '@/tell'

/** What of one list is packed. */
export type PartState = {
  things: number
  /** Main things that are made. */
  made: number
  /** Nothing besides those. */
  plain: boolean
  body: Of<'Pack'>
}

/** One class's packing list with what is ticked, left for another time and mended in it. */
export function usePart(
  classId: Ref<string>,
  list: Ref<Of<'PackingList'>>,
  main: string,
  refresh: () => Promise<unknown>,
) {
  const { t } = useI18n()
  const lines = computed(() => list.value.lines)
  // Lines to change are packed as they are ticked; each can be left for later.
  const said = ref<Record<string, boolean>>({})
  const ticked = computed(() =>
    lines.value.filter((l) => l.section === 'to-change' && (said.value[l.key] ?? l.ticked)).map((l) => l.key),
  )
  // Lines to pack can be left for another time, and what is in the bin or gone is asked about.
  const skip = ref<string[]>([])
  const skipped = computed(() => skip.value.filter((k) => lines.value.some((l) => l.key === k)))
  const remedies = ref<Record<string, string>>({})
  const mended = computed(() =>
    lines.value.filter((l) => l.section === 'needs-fixing' && remedies.value[l.key]).map((l) => l.key),
  )
  const state = computed<PartState>(() => {
    const toPack = lines.value.filter((l) => l.section === 'to-pack')
    const of = lines.value.filter((l) => l.purpose === main)
    const made =
      of.filter((l) => l.section === 'to-pack' && l.act === 'make').length -
      of.filter((l) => skipped.value.includes(l.key)).length
    const things =
      (list.value.counts['to-pack'] ?? 0) - skipped.value.length + ticked.value.length + mended.value.length
    const places = toPack.some((l) => l.purpose === 'place' && l.act === 'make')
    // What is there already is shared or pointed to, not copied.
    const more = toPack.some((l) => l.purpose === main && l.act !== 'make')
    return {
      things,
      made,
      plain: (!!made && !places && !more && !ticked.value.length && !mended.value.length) || !things,
      body: {
        seen: list.value.digest,
        changes: ticked.value,
        skip: skipped.value,
        back: mended.value.filter((k) => remedies.value[k] === 'bring-back'),
        anew: mended.value.filter((k) => remedies.value[k] === 'make-anew'),
      },
    }
  })
  async function asked(how: () => Promise<unknown>) {
    try {
      await how()
    } catch (e) {
      tellProblem(e)
    }
    await refresh()
  }
  const leaveAsIs = (k: string, be: boolean) =>
    asked(() =>
      api.POST('/classes/{classId}/room/leave-as-is', {
        params: { path: { classId: classId.value } },
        body: { key: k, be },
      }),
    )
  const former = (rowId: string, along: boolean) =>
    asked(async () => {
      const said = await data(
        api.POST('/classes/{classId}/rows/{rowId}/former', {
          params: { path: { classId: classId.value, rowId } },
          body: { along },
        }),
      )
      if (said.asked) tellDone(t('mover.asked'))
    })
  return { said, ticked, skip, skipped, remedies, state, leaveAsIs, former }
}
