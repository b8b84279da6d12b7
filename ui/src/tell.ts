import { notification } from 'ant-design-vue'
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

// Over the packing belt, where nothing is typed or pressed.
const placement = 'bottomRight'
const bottom = '64px'

/** Leads whose session has ended to signing in, and back here; reports whether it has. */
export function ended(e: unknown): boolean {
  if (!(e instanceof ProblemError) || e.status !== 401) return false
  window.location.assign(`/sign-in?to=${encodeURIComponent(window.location.pathname)}`)
  return true
}

/** Tells of a problem that has no place of its own on the page. */
export function tellProblem(e: unknown) {
  if (ended(e)) return
  notification.error({ message: sentence(e), placement, bottom, duration: 8 })
}

/** Says that something was done. */
export function tellDone(text: string) {
  notification.success({ message: text, placement, bottom, duration: 4 })
}
