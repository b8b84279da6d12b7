import { onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, ProblemError, type Of } from '@/api/client'
import { now } from '@/me'
import { sentence, tellDone } from '@/tell'
import { sendBefore } from './closing'
import { useShelf, type Kept } from './shelf'

/** What says that a text came too late, and was put beside its copy. */
const closedCodes = ['copy-closed', 'place-closed']

/**
 * The text of a document, which saves by itself; nothing is saved before something is changed. What
 * is typed is kept on the device until the server has it. Two windows never destroy each other's
 * text: the later one is offered both. refused is told where a text isn't taken.
 */
export function useKeptText(thing: Of<'Thing'>, refused: () => void) {
  const { t } = useI18n()
  const path = { path: { thingId: thing.id } }
  const shelf = useShelf(thing.id)

  const may = thing.level === 'edit' || thing.level === 'owner'
  const loaded = shallowRef<Of<'Text'> | null>(null)
  const problem = ref('')
  const text = ref('')
  const base = ref(0)
  const plain = ref(false)
  const revive = ref(0) // a new editor for a new text
  const state = ref<'still' | 'waiting' | 'saving' | 'saved' | 'offline' | 'conflict' | 'refused'>('still')
  const savedAt = ref(0)
  const theirs = shallowRef<Of<'Conflict'> | null>(null)

  let pending: Kept | null = null
  let then: string | null = null // what comes on top of it, once that is kept
  const leftover = ref('') // typed here and never sent, of a document that can't be written any more
  let timer = 0

  async function load() {
    problem.value = ''
    try {
      const got = await data(api.GET('/things/{thingId}/text', { params: path }))
      loaded.value = got
      plain.value ||= got.tangled
      text.value = got.text
      base.value = got.version
      const kept = await shelf.take()
      if (kept && kept.text !== got.text && !may) await tooLate(kept)
      else if (kept && kept.text !== got.text) {
        text.value = kept.text
        pending = kept
        if (kept.base === got.version) void save()
        else
          theirs.value = {
            code: '',
            message: '',
            version: got.version,
            theirs: got.text,
            by: thing.changedBy,
            at: thing.changedAt,
          }
        if (kept.base !== got.version) state.value = 'conflict'
      } else shelf.drop()
    } catch (e) {
      problem.value = sentence(e)
    }
  }

  // What was typed here and not sent before the copy closed: it goes beside the copy. Of one that can't be
  // written for another reason it is shown here.
  async function tooLate(kept: Kept) {
    try {
      if (thing.closing) await api.PUT('/things/{thingId}/text', { params: path, body: kept })
    } catch (e) {
      if (e instanceof ProblemError && closedCodes.includes(e.code)) {
        shelf.drop()
        if (await shelf.take()) return load() // another window kept something, too
        return refused()
      }
    }
    leftover.value = kept.text
  }

  function changed(next: string) {
    if (next === text.value && !pending) return
    if (then !== null) {
      then = text.value = next // once mine is kept
      return
    }
    shelve(next)
    if (state.value === 'conflict') return // both are on the table already
    state.value = 'waiting'
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void save(), 900)
  }

  let saving = false
  async function save() {
    if (!pending || saving || state.value === 'conflict') return
    saving = true
    const sent = { ...pending, base: base.value }
    state.value = 'saving'
    try {
      const { data: done, response, error } = await api.PUT('/things/{thingId}/text', { params: path, body: sent })
      if (response.status === 409) {
        theirs.value = error as unknown as Of<'Conflict'>
        state.value = 'conflict'
        return
      }
      base.value = done!.version
      savedAt.value = now()
      if (pending?.key === sent.key) {
        pending = null
        shelf.drop()
        state.value = 'saved'
        if (then !== null) {
          shelve(then)
          then = null
          state.value = 'waiting'
        }
      } else state.value = 'waiting'
    } catch (e) {
      const p = e instanceof ProblemError ? e : null
      if (p && p.status >= 400 && p.status < 500 && p.status !== 429) {
        if (closedCodes.includes(p.code)) {
          if (pending?.key !== sent.key) return void (state.value = 'waiting') // there is more of it
          pending = null // it is beside the copy now
          shelf.drop()
        }
        state.value = 'refused'
        problem.value = sentence(e)
        refused() // it may be closed by now
        return
      }
      state.value = 'offline'
      timer = window.setTimeout(() => void save(), 4000)
    } finally {
      saving = false
      if (state.value === 'waiting') timer = window.setTimeout(() => void save(), 400)
    }
  }

  // Whatever is chosen, both texts are among the versions then: mine is written on top of theirs
  // and, to go on with theirs, theirs once more on top of mine.
  function settle(keep: 'mine' | 'theirs' | 'both') {
    const c = theirs.value!
    const mine = text.value
    base.value = c.version
    theirs.value = null
    state.value = 'still'
    then = keep === 'theirs' ? c.theirs : null
    shelve(keep === 'both' ? `${c.theirs.trimEnd()}\n\n---\n\n${mine}` : mine)
    text.value = then ?? text.value
    revive.value++
    void save()
  }
  // Keeps a text on the device until the server has it.
  function shelve(next: string) {
    text.value = next
    pending = { text: next, base: base.value, key: crypto.randomUUID(), draft: shelf.draft() }
    shelf.put(pending)
  }
  function dropLeftover() {
    leftover.value = ''
    shelf.drop()
  }
  async function copyLeftover() {
    await navigator.clipboard.writeText(leftover.value)
    tellDone(t('doc.copied'))
  }
  function bringBack(old: string) {
    revive.value++
    text.value = `${old}\u0000`
    changed(old)
    void save()
  }

  const online = () => state.value === 'offline' && void save()
  const hide = () => document.visibilityState === 'hidden' && void save()
  // What is typed when the copy closes is sent before.
  const closes = thing.closing ? Date.parse(thing.closing.at) - now() - sendBefore : Infinity
  const last = closes > 0 && closes < 86_400_000 ? window.setTimeout(() => void save(), closes) : 0
  onMounted(() => {
    void load()
    window.addEventListener('online', online)
    document.addEventListener('visibilitychange', hide)
  })
  onBeforeUnmount(() => {
    window.clearTimeout(timer)
    window.clearTimeout(last)
    window.removeEventListener('online', online)
    document.removeEventListener('visibilitychange', hide)
    void save()
  })

  return {
    may,
    loaded,
    problem,
    text,
    plain,
    revive,
    state,
    savedAt,
    theirs,
    leftover,
    load,
    changed,
    settle,
    dropLeftover,
    copyLeftover,
    bringBack,
    base,
  }
}
