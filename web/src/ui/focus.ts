// Where the focus goes when what had it is gone: never to the page as a whole, from where everything is walked again.

const CAN_HAVE_FOCUS =
  'a[href], button:not([disabled]), input:not([disabled]):not([type=file]), select:not([disabled]), textarea:not([disabled]), summary, [tabindex="0"]'

/** Gives something the focus though it cannot be reached with Tab. */
export function focusOn(element: HTMLElement) {
  if (!element.matches(CAN_HAVE_FOCUS)) element.tabIndex = -1
  element.focus({ preventScroll: true })
  element.scrollIntoView({ block: 'nearest' })
}

/** What an element is called, so that the same thing is known again when it was drawn anew. */
const nameOf = (element: Element) =>
  `${element.tagName} ${element.id} ${element.getAttribute('href') ?? ''} ${element.getAttribute('aria-label') ?? element.textContent?.trim() ?? ''}`

const named = (name: string, within: ParentNode) =>
  [...within.querySelectorAll<HTMLElement>(CAN_HAVE_FOCUS)].find((e) => nameOf(e) === name)

/** The focus as it was: the element, what it was called and what it stood in, from the inside out. */
interface Focus {
  element: HTMLElement
  name: string
  around: Element[]
  /** What had it before the dialog was opened that it stands in. */
  from: Focus | null
}

const DIALOG = '[role=dialog], [role=alertdialog]'
const dialogOf = (focus: Focus) => [focus.element, ...focus.around].find((e) => e.matches(DIALOG))

function focusNow(was: Focus | null): Focus | null {
  const element = document.activeElement
  if (!(element instanceof HTMLElement) || element === document.body) return null
  const around: Element[] = []
  for (let e = element.parentElement; e && e !== document.body; e = e.parentElement) around.push(e)
  const now = { element, name: nameOf(element), around, from: null }
  const dialog = dialogOf(now)
  if (!dialog || !was) return now
  return { ...now, from: dialogOf(was) === dialog ? was.from : was }
}

/**
 * Where the work goes on once `was` is gone: the same thing drawn anew, else what marks itself as next, else nearby; from
 * a dialog to what it was opened from.
 */
function successor({ name, around, from }: Focus): HTMLElement | null {
  const still = around.filter((e): e is HTMLElement => e instanceof HTMLElement && e.isConnected)
  for (const place of still) {
    const same = named(name, place)
    if (same) return same
    const next = place.querySelector<HTMLElement>('[data-next]')
    if (next) return next
    if (place.matches('section, article, dialog, [role=dialog], main, li, form, table'))
      return place.querySelector<HTMLElement>(CAN_HAVE_FOCUS) ?? place
  }
  if (from) return from.element.isConnected ? from.element : successor(from)
  return document.querySelector('main')
}

/** Keeps the focus within the work for as long as the window stands open. */
export function keepFocus(): () => void {
  let was: Focus | null = null
  let looking = 0
  const look = () => {
    looking = 0
    if (document.activeElement && document.activeElement !== document.body) return
    if (!was || was.element.isConnected) return
    const to = successor(was)
    was = null
    if (to) focusOn(to)
  }
  const onFocus = () => {
    was = focusNow(was)
  }
  // A press elsewhere on the page is a wish: the focus is given up on purpose.
  const onPress = (event: Event) => {
    const into = event.target instanceof Element ? event.target : null
    if (!into?.closest(`${CAN_HAVE_FOCUS}, label, ${DIALOG}`)) was = null
  }
  // A frame later: what takes its place may take the focus by itself.
  const watch = new MutationObserver(() => {
    if (!looking && was && !was.element.isConnected)
      looking = requestAnimationFrame(() => setTimeout(look, 30))
  })
  document.addEventListener('focusin', onFocus)
  document.addEventListener('pointerdown', onPress)
  watch.observe(document.body, { childList: true, subtree: true })
  return () => {
    document.removeEventListener('focusin', onFocus)
    document.removeEventListener('pointerdown', onPress)
    watch.disconnect()
    cancelAnimationFrame(looking)
  }
}

/** What had the focus at each place that was left, by the browser's key of that visit. */
const left = new Map<string, string>()

/** Notes what has the focus as a place is left. */
export function noteFocus(visit: string) {
  const now = focusNow(null)
  if (now) left.set(visit, now.name)
}

/**
 * The focus on arrival: on the way back what had it there, else the heading. Nothing where the place has taken it
 * itself, as a field does that waits for a figure. Whether it was given.
 */
export function focusOnArrival(visit: string, isBack: boolean): boolean {
  const main = document.querySelector('main')
  if (!main) return false
  const name = isBack ? left.get(visit) : undefined
  const before = name === undefined ? undefined : named(name, document)
  if (before) {
    focusOn(before)
    return true
  }
  if (name !== undefined) return false
  if (main.contains(document.activeElement)) return true
  const heading = main.querySelector<HTMLElement>('h1')
  if (!heading) return false
  heading.tabIndex = -1
  heading.focus({ preventScroll: true })
  return true
}

/** Once what was just put there is drawn, and what was closed has given the focus back. */
export const onceDrawn = (go: () => void) => requestAnimationFrame(() => requestAnimationFrame(go))

/** Gives what has that id the focus, once what was just put there is drawn. */
export const focusOnceDrawn = (id: string) => onceDrawn(() => document.getElementById(id)?.focus())
