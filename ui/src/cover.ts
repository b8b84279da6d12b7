import { ref } from 'vue'
import { api, coverAnswers, data, type Of } from './api/client'

/** Whether names and addresses of students are covered on this screen. */
export const covered = ref(sessionStorage.getItem('covered') === 'yes')

let search: RegExp | null = null
const cover = new Map<string, string>()

/** Puts the covers for names in place of them in whatever a server's answer holds. */
function coverText(text: string): string {
  return search ? text.replace(search, (found) => cover.get(found.toLocaleLowerCase()) ?? found) : text
}

// Ids and keys begin like this; a name of letters from a to f could hide in one.
const isId = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-/i

function walk(value: unknown): unknown {
  if (typeof value === 'string') return isId.test(value) ? value : coverText(value)
  if (Array.isArray(value)) return value.map(walk)
  if (value && typeof value === 'object')
    return Object.fromEntries(Object.entries(value).map(([k, v]) => [coverText(k), walk(v)]))
  return value
}

async function learn() {
  const list: Of<'Cover'>[] = await data(api.GET('/cover'))
  cover.clear()
  for (const c of list) cover.set(c.find.toLocaleLowerCase(), c.cover)
  const words = list.map((c) => c.find.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
  // Whole words alone: a student called Ives covers no “lives”.
  search = words.length ? new RegExp(`(?<![\\p{L}\\p{N}])(?:${words.join('|')})(?![\\p{L}\\p{N}])`, 'giu') : null
}

/** Covers names, or uncovers them; every picture is drawn again. */
export function setCovered(on: boolean) {
  sessionStorage.setItem('covered', on ? 'yes' : 'no')
  window.location.reload()
}

/** Prepares the covers before anything is shown. */
export async function startCover() {
  if (!covered.value) return
  await learn()
  coverAnswers(walk)
}
