import type { Design } from '../../api/types'

/** What was done to a design, as plain rules: each gives a new history and changes none. */

export interface History {
  past: Design[]
  now: Design
  future: Design[]
  /** The field of the last edit: typing on in one field is one step of undo. */
  field: string | null
}

export const begun = (design: Design): History => ({ past: [], now: design, future: [], field: null })

/** An edit of a field; edits of one field in a row are one step. */
export function edited(history: History, next: Design, field: string | null): History {
  const goesOn = field !== null && field === history.field
  return { past: goesOn ? history.past : [...history.past, history.now], now: next, future: [], field }
}

/** Another design in place of this one, as one step. */
export const replaced = (history: History, design: Design): History => edited(history, design, null)

/** What was typed, understood: no step of its own, and the next typing is another one. */
export const understood = (history: History, design: Design): History => ({
  ...history,
  now: design,
  field: null,
})

export function undone(history: History): History {
  const last = history.past.at(-1)
  if (!last) return history
  return {
    past: history.past.slice(0, -1),
    now: last,
    future: [history.now, ...history.future],
    field: null,
  }
}

export function redone(history: History): History {
  const [next, ...future] = history.future
  if (!next) return history
  return { past: [...history.past, history.now], now: next, future, field: null }
}
