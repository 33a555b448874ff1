// The steps of writing a sheet: what it is now, what it was (to undo), what was undone (to do again).
import { named, put, type Sheet } from './draft'

export interface State {
  now: Sheet
  past: Sheet[]
  future: Sheet[]
  /** The place that is being typed at: keys pressed there one after the other are undone together. */
  typing: string
}

export type Action =
  | { act: 'put'; pointer: string; value: unknown }
  | { act: 'named'; pointer: string }
  | { act: 'undo' | 'redo' | 'rest' }

/** More steps than this are not undone. */
const MOST_STEPS = 300

export function reduce(state: State, action: Action): State {
  const to = (now: Sheet, typing = ''): State => {
    if (now === state.now) return state
    const goesOn = typing !== '' && typing === state.typing
    const past = goesOn ? state.past : [...state.past, state.now].slice(-MOST_STEPS)
    return { now, past, future: [], typing }
  }
  switch (action.act) {
    case 'put':
      return to(
        put(state.now, action.pointer, action.value),
        typeof action.value === 'string' ? action.pointer : '',
      )
    case 'named': {
      // Not a step of its own: undoing the name undoes its key.
      const now = named(state.now, action.pointer)
      return { ...state, now, typing: '' }
    }
    case 'rest':
      return { ...state, typing: '' }
    case 'undo': {
      const before = state.past.at(-1)
      if (!before) return state
      return {
        now: before,
        past: state.past.slice(0, -1),
        future: [state.now, ...state.future],
        typing: '',
      }
    }
    case 'redo': {
      const [after, ...future] = state.future
      return after ? { now: after, past: [...state.past, state.now], future, typing: '' } : state
    }
  }
}

/** A sheet that nothing was done to yet. */
export const begin = (now: Sheet): State => ({ now, past: [], future: [], typing: '' })
