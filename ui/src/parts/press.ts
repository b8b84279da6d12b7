let down = false
addEventListener('pointerdown', () => (down = true), true)
for (const end of ['pointerup', 'pointercancel']) addEventListener(end, () => (down = false), true)

/**
 * Does something once no button is held: a field that is left by pressing on something else keeps
 * its size until that was reached.
 */
export function afterPress(act: () => void) {
  if (!down) return act()
  addEventListener('pointerup', () => setTimeout(act), { once: true, capture: true })
}
