import { plainKey, showKeys, useKeys } from '@/keys'

/** The keys of the Register: each does something where it can. */
export function useRegisterKeys(does: {
  leave: (() => void | boolean)[] // the first that is open is closed
  find: () => void
  begin: () => void
  topUp: () => void
  pens: () => void
  move: (down: number, across: number) => void
}) {
  useKeys((e) => {
    if (e.key === 'Escape') {
      if (showKeys.value) showKeys.value = false
      else does.leave.some((close) => close() !== false)
      return
    }
    if (!plainKey(e)) return
    if (e.key === '/') {
      e.preventDefault()
      does.find()
    } else if (e.key === 'n') does.begin()
    else if (e.key === 't') does.topUp()
    else if (e.key === 'c') does.pens()
    else if (/^Arrow/.test(e.key)) {
      e.preventDefault()
      const down = { ArrowDown: 1, ArrowUp: -1 }[e.key] ?? 0
      const across = { ArrowRight: 1, ArrowLeft: -1 }[e.key] ?? 0
      does.move(down, across)
    }
  })
}
