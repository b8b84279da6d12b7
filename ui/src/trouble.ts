import { ref } from 'vue'
import { ProblemError } from './api/client'

/** What keeps the server from answering just now, as a problem's code; empty where nothing does. */
export const trouble = ref('')

const every = 2_000
let looking = false
const waiting: (() => void)[] = []

/** Whether the server is there and ready. */
export const serverAnswers = () =>
  fetch('/healthz').then(
    (r) => r.ok,
    () => false,
  )

/** Whether something went wrong that passes by itself. */
export const passes = (e: unknown): e is ProblemError =>
  e instanceof ProblemError && (e.code === 'no-database' || e.code === 'offline')

/** Says on every page what is wrong until it is over; then back is called. */
export function seeTrouble(e: unknown, back: () => void) {
  if (!passes(e)) return
  trouble.value = e.code
  waiting.push(back)
  if (looking) return
  looking = true
  const look = window.setInterval(async () => {
    if (!(await serverAnswers())) return
    window.clearInterval(look)
    looking = false
    trouble.value = ''
    for (const each of waiting.splice(0)) each()
  }, every)
}
