import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch, type Ref } from 'vue'
import { api, data, ProblemError, type Of } from '@/api/client'
import { answered } from '@/api/queries'
import { keys } from '@/api/keys'
import { now } from '@/me'
import { useKeeping } from '@/parts/keeping'
import { afterPress } from '@/parts/press'
import { sentence } from '@/tell'

type Parts = Of<'HandoutParts'>
const plainDocument = ({ slot, template, name, for: level, plain }: Of<'GivenDocument'>) => ({
  slot,
  template,
  name,
  for: level,
  plain,
})
const looked = (x: Of<'Handout'>): Parts => ({
  title: x.title,
  way: x.way,
  documents: x.documents.map(plainDocument),
  by: x.by,
  teams: x.teams,
  name: x.name,
  pocket: x.pocket,
  level: x.level,
  due: x.due,
  then: x.then,
  show: x.show,
  send: x.send,
  message: x.message,
  classmates: x.classmates,
  passing: x.passing,
  instructions: x.instructions,
  links: x.links,
  forParents: x.forParents,
  tell: x.tell,
  mail: x.mail,
  mailChanged: x.mailChanged,
  choice: x.choice,
  out: Object.fromEntries(x.out.map((o) => [o.row, o.reason])),
})

/** A notice gives nothing: it is read on students' homes. */
export const isNotice = (h: Of<'Handout'> | undefined) => h?.way === 'notice'
/** Several have one document together. */
export const isShared = (h: Of<'Handout'> | undefined) => h?.way === 'per-team' || h?.way === 'one-for-all'

/**
 * A handout with its sentence as it is typed. Every change is kept at once; with each goes what was
 * looked at: where somebody changed that since, both values are told.
 */
export function useHandout(classId: Ref<string>, handoutId: Ref<string>) {
  const queries = useQueryClient()
  const path = computed(() => ({ path: { classId: classId.value, handoutId: handoutId.value } }))
  const queryKey = computed(() => keys.handout(classId.value, handoutId.value))
  const {
    data: h,
    error,
    isFetching,
    failureCount,
  } = useQuery({
    queryKey,
    queryFn: () => data(api.GET('/classes/{classId}/handouts/{handoutId}', { params: path.value })),
  })
  const fetching = computed(() => isFetching.value && !failureCount.value) // its answer is on its way
  const open = ref('') // which part of the sentence is being edited
  const problems = ref<Record<string, string>>({})
  const saved = ref(0)

  let base: Parts = {}
  function wasOf(to: Parts): Parts {
    const was = Object.fromEntries(Object.keys(to).map((k) => [k, base[k as keyof Parts]])) as Parts
    if (to.out) was.out = Object.fromEntries(Object.keys(to.out).map((row) => [row, base.out?.[row] ?? '']))
    return was
  }
  // Each change knows the handout it is for: the page may be another by the time it goes out.
  const keeping = useKeeping<{ to: Parts; of: { path: { classId: string; handoutId: string } } }>(
    async (field, { to, of }) => {
      const key = ['handout', of.path.classId, of.path.handoutId]
      try {
        const body = { to, was: wasOf(to) }
        const next = await answered(queries, key, () =>
          data(api.PATCH('/classes/{classId}/handouts/{handoutId}', { params: of, body, keepalive: true })),
        )
        const kept = looked(next)
        for (const k of Object.keys(to) as (keyof Parts)[]) Object.assign(base, { [k]: kept[k] })
        saved.value = now()
        delete problems.value[field]
      } catch (e) {
        problems.value[field] = sentence(e)
        if (!(e instanceof ProblemError) || e.code !== 'changed') return
        base = {} // what there is now is looked at from here on
        await queries.invalidateQueries({ queryKey: key })
      }
    },
  )
  const change = (to: Parts, field: string) => keeping.keep(field, { to, of: path.value })
  const later = (to: Parts, field: string) => keeping.later(field, { to, of: path.value })
  // Documents are kept together: their order and levels are one part of the sentence.
  // What is shown is what was said, also while it is being kept.
  const documents = ref<Of<'GivenDocument'>[]>([])
  let keptDocuments = 0
  async function setDocuments(all: Of<'GivenDocument'>[]) {
    documents.value = all
    keptDocuments++
    try {
      await change({ documents: all.map(plainDocument) }, 'documents')
    } finally {
      keptDocuments--
      if (!keptDocuments && h.value) documents.value = h.value.documents
    }
  }
  function laterDocuments(all: Of<'GivenDocument'>[]) {
    documents.value = all
    later({ documents: all.map(plainDocument) }, 'documents')
  }
  /** What a template is called, for a document that isn't kept yet. */
  function fileOf(template: string) {
    const known = queries.getQueryData<Of<'Template'>[]>(keys.templates())?.find((x) => x.id === template)
    return { thing: known?.thing ?? '', file: known?.name ?? '', mediaType: '' }
  }
  function addDocument(template: string) {
    const slot = Math.max(0, ...documents.value.map((d) => d.slot)) + 1
    return setDocuments([
      ...documents.value,
      { slot, template, name: [], for: '', plain: false, only: 0, ...fileOf(template) },
    ])
  }
  const title = ref('')
  const message = ref('')
  const due = ref('')
  const send = ref('')
  const name = ref<Of<'Part'>[]>([])
  watch(
    h,
    (x) => {
      if (!x) return
      // What is being edited was looked at when its editing began.
      const now = looked(x)
      const editing = open.value === 'who' ? 'choice' : open.value
      for (const k of Object.keys(now) as (keyof Parts)[])
        if (k !== editing || !(k in base)) Object.assign(base, { [k]: now[k] })
      if (!keptDocuments && !open.value.startsWith('doc-')) documents.value = x.documents
      if (open.value !== 'title') title.value = x.title
      if (open.value !== 'message') message.value = x.message
      if (open.value !== 'due') due.value = x.due
      if (open.value !== 'send') send.value = x.send
      if (open.value !== 'name') name.value = x.name
    },
    { immediate: true },
  )
  watch(open, () => void keeping.flush())
  // A field that is left for another doesn't close that one.
  const close = (part: string) => afterPress(() => void (open.value === part && (open.value = '')))
  watch(name, (p) => open.value === 'name' && later({ name: p }, 'name'))
  watch(title, (v) => open.value === 'title' && later({ title: v }, 'title'))
  watch(message, (v) => open.value === 'message' && later({ message: v }, 'message'))
  watch(due, (v) => open.value === 'due' && later({ due: v }, 'due'))
  watch(send, (v) => open.value === 'send' && later({ send: v }, 'send'))
  const copies = computed(
    () => h.value?.list.lines.filter((l) => l.purpose === 'copy' && l.section !== 'to-change') ?? [],
  )
  const refresh = () => queries.invalidateQueries({ queryKey: queryKey.value })
  return {
    h,
    error,
    fetching,
    path,
    open,
    problems,
    saved,
    change,
    later,
    documents,
    setDocuments,
    fileOf,
    laterDocuments,
    addDocument,
    flush: keeping.flush,
    close,
    title,
    message,
    due,
    send,
    name,
    copies,
    refresh,
  }
}
export type Hand = ReturnType<typeof useHandout>
