import { shallowRef } from 'vue'
import { i18n } from './words/i18n'
import { ProblemError } from './api/client'

const { t, te } = i18n.global

/** The words for a problem, whatever was thrown. */
export function sentence(e: unknown): string {
  if (!(e instanceof ProblemError)) return t('problem.internal')
  const several = e.code === 'changed' && !e.args.yours && !e.args.theirs
  const key = several ? 'problem.changed-list' : `problem.${e.code}`
  return te(key) ? t(key, e.args) : e.sentence || t('problem.internal')
}

/** Leads whose session has ended to signing in, and back here; reports whether it has. */
export function ended(e: unknown): boolean {
  if (!(e instanceof ProblemError) || e.status !== 401) return false
  window.location.assign(`/sign-in?to=${encodeURIComponent(window.location.pathname)}`)
  return true
}

/** What is told for a moment: beside what was pressed, or in the corner where it is no answer to a press. */
export interface Told {
  id: number
  kind: 'done' | 'problem'
  text: string
  corner: boolean
}
export const told = shallowRef<Told[]>([])
let last = 0

function tell(kind: Told['kind'], text: string, corner = false) {
  const one = { id: ++last, kind, text, corner }
  // Two answers have two presses: the newer one takes the place beside the newer press.
  told.value = [...told.value.filter((x) => x.corner && x.text !== text), one]
  const reading = Math.max(kind === 'done' ? 6_000 : 10_000, text.length * 80)
  setTimeout(() => (told.value = told.value.filter((x) => x !== one)), reading)
}

/** Tells of a problem, beside what was pressed. */
export function tellProblem(e: unknown) {
  if (!ended(e)) tell('problem', sentence(e))
}

/** Says that something was done, beside what was pressed. */
export const tellDone = (text: string) => tell('done', text)

/** Says that something came to its end that isn't on this page, or was asked for long ago. */
export const tellElsewhere = (text: string) => tell('done', text, true)

// What was pressed or written in last, the newest first: behind a dialog that closes is what opened it.
let pressed: Element[] = []
const pressable = 'button, a, input, select, textarea, label, summary, [role=button], [role=tab], [role=menuitem]'
for (const act of ['click', 'focusin'])
  document.addEventListener(
    act,
    (e) => {
      const at = e.target instanceof Element && e.target.closest(pressable)
      if (at) pressed = [at, ...pressed.filter((x) => x !== at)].slice(0, 6)
    },
    true,
  )

/** Forgets what was pressed on a page that was left. */
export function forgetPressed() {
  pressed = []
}

/** What was pressed last of what still is to be seen. */
export const lastPressed = (): Element | undefined =>
  pressed.find((x) => x.isConnected && (x.checkVisibility?.() ?? true))
