import { defineAsyncComponent, ref, type Component } from 'vue'
import { ProblemError } from './api/client'
import NotFetched from './parts/NotFetched.vue'
import { seeTrouble, serverAnswers } from './trouble'

/**
 * A part of a page that is fetched when it is first shown. Where it doesn't come, since the program
 * was renewed meanwhile or the connection is away, its place says so: what is typed beside it stays.
 */
export const late = <C extends Component>(load: () => Promise<{ default: C }>) =>
  defineAsyncComponent<C>(() => load().catch(() => ({ default: NotFetched as unknown as C })))

/** Whether the page that was asked for didn't come, not even when it was loaded again. */
export const missing = ref(false)

const anew = 'anew'

/** Loads a page again from the server, once, as soon as there is one. */
export async function openAnew(path: string) {
  missing.value = sessionStorage.getItem(anew) === path
  if (missing.value) return
  sessionStorage.setItem(anew, path)
  // Somebody who went elsewhere meanwhile stays there.
  const go = () => sessionStorage.getItem(anew) === path && window.location.assign(path)
  // A page that is just being left for another one ends here.
  if (await serverAnswers()) go()
  else seeTrouble(new ProblemError(0, 'offline', {}, '', ''), go)
}

/** A page came: the next one may be loaded again. */
export function opened() {
  sessionStorage.removeItem(anew)
  missing.value = false
}
