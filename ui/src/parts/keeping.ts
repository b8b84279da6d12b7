import { onBeforeUnmount, onMounted } from 'vue'

/**
 * Keeps what is typed. Each field waits for a moment's rest, for itself; changes go out one after the
 * other; before an act and on leaving nothing waits any longer.
 */
export function useKeeping<T>(send: (field: string, to: T) => Promise<unknown>) {
  const waiting = new Map<string, T>() // for a moment's rest
  const unsent: { field: string; to: T }[] = [] // for what was sent before them
  let sent: Promise<unknown> = Promise.resolve()
  let resting = 0
  /** Sends a change after those before it, in place of what waits of its field. */
  function keep(field: string, to: T) {
    waiting.delete(field)
    const change = { field, to }
    unsent.push(change)
    sent = sent
      .catch(() => undefined)
      .then(() => {
        const at = unsent.indexOf(change)
        if (at < 0) return undefined // it went out when the page went away
        unsent.splice(at, 1)
        return send(field, to)
      })
    return sent
  }
  /** Sends what waits; answers when everything was answered. */
  function flush() {
    window.clearTimeout(resting)
    for (const [field, to] of waiting) void keep(field, to)
    return sent
  }
  function later(field: string, to: T) {
    waiting.set(field, to)
    window.clearTimeout(resting)
    resting = window.setTimeout(() => void flush(), 350)
  }
  // A page that goes away waits for no answer; of each field the last goes out.
  function away() {
    const last = new Map(unsent.splice(0).map(({ field, to }) => [field, to]))
    for (const [field, to] of waiting) last.set(field, to)
    waiting.clear()
    for (const [field, to] of last) void send(field, to)
  }
  onMounted(() => window.addEventListener('pagehide', away))
  onBeforeUnmount(() => {
    void flush()
      .catch(() => undefined)
      .then(() => window.removeEventListener('pagehide', away))
  })
  return { keep, later, flush }
}
