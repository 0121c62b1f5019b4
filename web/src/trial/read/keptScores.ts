import { keptHere } from '../../shared/keptHere'
import { isRecord } from '../../shared/records'
import { scoresOfTyped } from './scoring'
import type { Scores } from './scoring'

/** Scores by patch, said at one stroke. */
export type Said = ReadonlyMap<string, Scores>

const AGAIN_AFTER_MS = 4000

const keyOf = (burn: number, member: number) => `rezept.scores.${burn}.${member}`

/** The strokes a member gave a burn that the server does not have yet, in their order. */
export function keptScores(burn: number, member: number): Said[] {
  const kept = keptHere.read(keyOf(burn, member))
  if (!Array.isArray(kept)) return []
  return kept
    .filter(isRecord)
    .map((stroke) => new Map(Object.entries(stroke).map(([patch, said]) => [patch, scoresOfTyped(said)])))
}

export function keepScores(burn: number, member: number, strokes: readonly Said[]): void {
  const key = keyOf(burn, member)
  if (strokes.length === 0) keptHere.forget(key)
  else
    keptHere.write(
      key,
      strokes.map((stroke) => Object.fromEntries(stroke)),
    )
}

/** `done` is kept once the browser says that it is back on the net, after a while (it does not always know), or `now`. */
export function backOnline(): { done: Promise<void>; now: () => void } {
  let now: () => void = () => undefined
  const done = new Promise<void>((resolve) => {
    now = () => {
      clearTimeout(timer)
      removeEventListener('online', now)
      resolve()
    }
    const timer = setTimeout(now, AGAIN_AFTER_MS)
    addEventListener('online', now)
  })
  return { done, now }
}
