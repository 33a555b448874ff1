// What would move the page waits while a press is under way: a press that begins on a button and ends
// beside it, because a line came in above, does nothing.
let held = false
const waiting = new Set<() => void>()

const letGo = () => {
  held = false
  // The press itself comes after the button is up.
  setTimeout(() => {
    for (const go of waiting) go()
    waiting.clear()
  })
}

addEventListener('pointerdown', () => (held = true), true)
addEventListener('pointerup', letGo, true)
addEventListener('pointercancel', letGo, true)
// Let go outside of the window, or over what takes the pointer away.
addEventListener('blur', letGo)

/** Resolves once nothing is being pressed. */
export const released = () =>
  held ? new Promise<void>((resolve) => waiting.add(resolve)) : Promise.resolve()
