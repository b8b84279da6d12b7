import { onBeforeUnmount, onMounted } from 'vue'

/**
 * Keeps what is typed. Each field waits for a moment's rest, for itself; changes go out one after the
 * other; before an act and on leaving nothing waits any longer.
 */
export function useKeeping<T>(send: (field: string, to: T) => Promise<unknown>) {
  const waiting = new Map<string, T>()
  let sent: Promise<unknown> = Promise.resolve()
  let resting = 0
  /** Sends a change after those before it, in place of what waits of its field. */
  function keep(field: string, to: T) {
    waiting.delete(field)
    sent = sent.catch(() => undefined).then(() => send(field, to))
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
  // A page that goes away waits for no answer.
  function away() {
    for (const [field, to] of waiting) void send(field, to)
    waiting.clear()
  }
  onMounted(() => window.addEventListener('pagehide', away))
  onBeforeUnmount(() => {
    window.removeEventListener('pagehide', away)
    void flush()
  })
  return { keep, later, flush }
}
