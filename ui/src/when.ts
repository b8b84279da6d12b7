import { me, now } from './me'

const zone = () => me.value?.zone ?? 'UTC'
const locale = () => me.value?.language ?? 'en'

// To make a formatter costs a hundred times what using it does, and a Register has some hundred times.
const formatters = new Map<string, Intl.DateTimeFormat>()
function formatter(language: string, options: Intl.DateTimeFormatOptions) {
  const o = { timeZone: zone(), ...options }
  const key = language + JSON.stringify(o)
  const f = formatters.get(key) ?? new Intl.DateTimeFormat(language, o)
  formatters.set(key, f)
  return f
}

const ymd = { year: 'numeric', month: '2-digit', day: '2-digit' } as const
const hm = { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' } as const
const parts = (ms: number) => formatter('en-CA', ymd).format(ms)

const dayNumber = (ms: number) => Math.round(Date.parse(`${parts(ms)}T00:00:00Z`) / 86_400_000)

const format = (ms: number, o: Intl.DateTimeFormatOptions) =>
  formatter(locale() === 'en' ? 'en-GB' : locale(), o)
    .format(ms)
    .replace(',', '')

/** A day, as the school's calendar counts days, by its number. */
const dayOf = (number: number) => new Date(number * 86_400_000).toISOString().slice(0, 10)

/** The last days up to today, such as 2026-11-25, oldest first. */
export const lastDays = (n: number) => Array.from({ length: n }, (_, i) => dayOf(dayNumber(now()) - n + 1 + i))

/** Today, written out: "Wednesday 25 November". */
export const today = () => format(now(), { weekday: 'long', day: 'numeric', month: 'long' })

/** What the school's clocks show now, such as 07:40. */
export const hourNow = () => formatter('en-GB', hm).format(now())

export const clockTime = (ms: number) => format(ms, { hour: 'numeric', minute: '2-digit' })

type Translate = (key: string, args?: Record<string, unknown>, plural?: number) => string

/** A past moment as people say it: "40 min ago", "today, 9:12", "Mon", "Thu 19 Nov". */
export function ago(ms: number, t: Translate): string {
  const minutes = Math.floor((now() - ms) / 60_000)
  const days = dayNumber(now()) - dayNumber(ms)
  if (minutes < 1) return t('when.now')
  if (minutes < 60) return t('when.minutes', { n: minutes })
  if (days === 0) return t('when.today', { time: clockTime(ms) })
  if (days === 1) return t('when.yesterday')
  if (days < 6) return format(ms, { weekday: 'short' })
  return format(ms, { weekday: 'short', day: 'numeric', month: 'short' })
}

/** A moment as people say it: "Fri 27 Nov, 17:00". */
export const moment = (ms: number) =>
  `${format(ms, { weekday: 'short', day: 'numeric', month: 'short' })}, ${clockTime(ms)}`

/** The exact moment, for hovering. */
export const exact = (ms: number) =>
  format(ms, { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric', hour: 'numeric', minute: '2-digit' })

const inWall = (day: string, o: Intl.DateTimeFormatOptions) =>
  format(Date.parse(`${day.slice(0, 10)}T00:00:00Z`), { timeZone: 'UTC', ...o })
const clockOf = (wallTime: string) => wallTime.slice(11).replace(/^0/, '')

/** A wall-clock time of the school's, such as 2026-11-27T17:00: "Fri 27 Nov, 17:00". */
export const wall = (due: string) =>
  `${inWall(due, { weekday: 'short', day: 'numeric', month: 'short' })}, ${clockOf(due)}`

/** The same where there is little room: "Fri 27 17:00". */
export const wallShort = (due: string) => `${inWall(due, { weekday: 'short', day: 'numeric' })} ${clockOf(due)}`

/** Whether a wall-clock time of the school's has passed. */
export const past = (due: string) => due <= `${parts(now())}T${hourNow()}`

/** A day without its weekday: "16 Nov". */
export const dayMonth = (day: string) => inWall(day, { day: 'numeric', month: 'short' })

export const weekday = (day: string) => inWall(day, { weekday: 'short' })

/** When something usually goes out: tomorrow morning, before school. */
export const usualSend = () => `${dayOf(dayNumber(now()) + 1)}T07:45`

/** The usual deadline: the next Friday that is at least two days off, at five. */
export function usualDue(): string {
  let d = dayNumber(now()) + 2
  while ((d + 4) % 7 !== 5) d++
  return `${dayOf(d)}T17:00`
}
export const day = (day: string) => inWall(day, { weekday: 'short', day: 'numeric', month: 'short' })
