/** What this browser keeps for itself, from one visit to the next: nothing that matters elsewhere. */
export function kept<T>(name: string, otherwise: T): T {
  try {
    const text = localStorage.getItem(`satchel.${name}`)
    return text === null ? otherwise : (JSON.parse(text) as T)
  } catch {
    return otherwise
  }
}

export function keep(name: string, value: unknown) {
  try {
    localStorage.setItem(`satchel.${name}`, JSON.stringify(value))
  } catch {
    // A browser that keeps nothing loses nothing that matters.
  }
}
