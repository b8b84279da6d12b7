/** A text that was typed and isn't on the server yet; draft says in which window. */
export type Kept = { text: string; base: number; key: string; draft?: string }

// This window: loaded again it stays the same, and while it is there it holds a lock of its name. One that
// was doubled finds the lock held, and is another.
let name = sessionStorage.getItem('satchel.window') ?? crypto.randomUUID()
const lock = (of: string) => `satchel.window.${of}`
const live = () =>
  new Promise<void>((settled) => {
    sessionStorage.setItem('satchel.window', name)
    if (!navigator.locks) return settled()
    void navigator.locks.request(lock(name), { ifAvailable: true }, (held) => {
      if (!held) {
        name = crypto.randomUUID()
        return void live().then(settled)
      }
      settled()
      return new Promise(() => {})
    })
  })
const named = live()

/** Where this window keeps what was typed into a thing: windows beside one another don't touch what is the other's. */
export function useShelf(thing: string) {
  const all = `satchel.draft.${thing}`
  const mine = () => `${all}.${name}`
  const read = (key: string) => JSON.parse(localStorage.getItem(key) ?? 'null') as Kept | null
  /** What windows kept that aren't there any more. */
  async function left(): Promise<string[]> {
    const held = new Set((await navigator.locks?.query())?.held?.map((l) => l.name) ?? [])
    return Object.keys(localStorage).filter(
      (k) => (k === all || k.startsWith(`${all}.`)) && k !== mine() && !held.has(lock(k.slice(all.length + 1))),
    )
  }
  return {
    draft: () => name,
    put: (kept: Kept) => localStorage.setItem(mine(), JSON.stringify(kept)),
    drop: () => localStorage.removeItem(mine()),
    /** What this window kept, else what one did that is gone: that is this window's now. */
    async take(): Promise<Kept | null> {
      await named
      const own = read(mine())
      if (own) return own
      for (const k of await left()) {
        const kept = read(k)
        localStorage.removeItem(k)
        if (!kept) continue
        localStorage.setItem(mine(), JSON.stringify(kept))
        return kept
      }
      return null
    },
  }
}
