import { useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, ref, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { tellProblem } from '@/tell'

type Tag = Of<'HandoutTag'>
export type Group = { id: string; title: string; folded: boolean; all: Tag[] }
export type Moving = { handout: string } | { heading: string }

/** A list's handouts under their headings, and how they are moved: by hand or by the arrow keys. */
export function useOrder(
  classId: Ref<string>,
  list: Ref<Tag[] | undefined>,
  headings: Ref<Of<'Heading'>[] | undefined>,
) {
  const queries = useQueryClient()
  const { t } = useI18n()
  const said = ref('') // for those who don't see where something went
  const opened = ref<Record<string, boolean>>({}) // folded or not by somebody who may only look
  const groups = computed<Group[]>(() => {
    const newest = [...(list.value ?? [])].reverse()
    const under = (id: string) => newest.filter((h) => h.heading === id)
    const out: Group[] = [{ id: '', title: '', folded: false, all: under('') }]
    for (const h of headings.value ?? [])
      out.push({ id: h.id, title: h.title, folded: opened.value[h.id] ?? h.folded, all: under(h.id) })
    return out
  })
  async function done(request: Promise<unknown>): Promise<boolean> {
    let ok = true
    try {
      await request
    } catch (e) {
      ok = false
      tellProblem(e)
    }
    await queries.invalidateQueries({ queryKey: keys.handouts(classId.value) })
    return ok
  }
  const at = (headingId: string) => ({ params: { path: { classId: classId.value, headingId } } })
  const name = (id: string, title: string, was: string) =>
    id === '' || title !== was
      ? done(
          id
            ? api.PATCH('/classes/{classId}/headings/{headingId}', { ...at(id), body: { title, was } })
            : api.POST('/classes/{classId}/headings', {
                params: { path: { classId: classId.value } },
                body: { title },
              }),
        )
      : Promise.resolve(true)
  const remove = (id: string) => done(api.DELETE('/classes/{classId}/headings/{headingId}', at(id)))
  function fold(id: string, folded: boolean, kept: boolean) {
    if (!kept) return void (opened.value = { ...opened.value, [id]: folded })
    void done(api.PATCH('/classes/{classId}/headings/{headingId}', { ...at(id), body: { folded } }))
  }
  const place = (handoutId: string, heading: string, before: string) =>
    done(
      api.PUT('/classes/{classId}/handouts/{handoutId}/place', {
        params: { path: { classId: classId.value, handoutId } },
        body: { heading, before },
      }),
    )
  const shift = (id: string, before: string) =>
    done(api.PATCH('/classes/{classId}/headings/{headingId}', { ...at(id), body: { before } }))

  let dragged: Moving | null = null
  const drag = (m: Moving) => (dragged = m)
  function drop(heading: string, before: string) {
    const m = dragged
    dragged = null
    if (!m) return
    if ('handout' in m) {
      if (m.handout !== before) void place(m.handout, heading, before)
    } else if (heading && m.heading !== heading) void shift(m.heading, heading)
  }
  /** Where a step up or down leads: under which heading, before what. */
  function stepped(handout: string, up: boolean): { heading: string; before: string; title: string } | null {
    const all = groups.value
    const g = all.findIndex((x) => x.all.some((h) => h.id === handout))
    const i = all[g].all.findIndex((h) => h.id === handout)
    if (up && i > 0) return { heading: all[g].id, before: all[g].all[i - 1].id, title: all[g].title }
    if (!up && i < all[g].all.length - 1)
      return { heading: all[g].id, before: all[g].all[i + 2]?.id ?? '', title: all[g].title }
    const next = all[g + (up ? -1 : 1)]
    return next ? { heading: next.id, before: up ? '' : (next.all[0]?.id ?? ''), title: next.title } : null
  }
  let moving = Promise.resolve()
  /** The arrow keys move what is held by its grip; steps wait for each other. */
  function key(e: KeyboardEvent, m: Moving) {
    if (e.key !== 'ArrowUp' && e.key !== 'ArrowDown') return
    e.preventDefault()
    e.stopPropagation()
    const up = e.key === 'ArrowUp'
    moving = moving.then(async () => {
      if ('handout' in m) {
        const to = stepped(m.handout, up)
        if (!to) return
        await place(m.handout, to.heading, to.before)
        said.value = t('headings.went', { title: to.title || t('headings.loose') })
      } else {
        const ids = (headings.value ?? []).map((h) => h.id)
        const i = ids.indexOf(m.heading)
        if (up ? i < 1 : i >= ids.length - 1) return
        await shift(m.heading, up ? ids[i - 1] : (ids[i + 2] ?? ''))
      }
      const id = 'handout' in m ? m.handout : m.heading
      await nextTick()
      document.querySelector<HTMLElement>(`[data-grip="${id}"]`)?.focus()
    })
  }
  return { groups, said, name, remove, fold, drag, drop, key }
}
