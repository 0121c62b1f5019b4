import { forgetHere, keepHere, keptHere } from '../../shared/keptHere'
import { isRecord } from '../../shared/records'
import { scoresOfTyped } from './scoring'
import type { Scores } from './scoring'

/** Scores by patch, said at one stroke. */
export type Said = ReadonlyMap<string, Scores>

const AGAIN_AFTER_MS = 4000

const keyOf = (burn: number, member: number) => `rezept.scores.${burn}.${member}`

/** The strokes a member gave a burn that the server does not have yet, in their order. */
export function keptScores(burn: number, member: number): Said[] {
  const kept = keptHere(keyOf(burn, member))
  if (!Array.isArray(kept)) return []
  return kept
    .filter(isRecord)
    .map((stroke) => new Map(Object.entries(stroke).map(([patch, said]) => [patch, scoresOfTyped(said)])))
}

export function keepScores(burn: number, member: number, strokes: readonly Said[]): void {
  const key = keyOf(burn, member)
  if (strokes.length === 0) forgetHere(key)
  else
    keepHere(
      key,
      strokes.map((stroke) => Object.fromEntries(stroke)),
    )
}

/** Resolves once the browser says that it is back on the net, or after a while, since it does not always know. */
export function backOnline(): Promise<void> {
  return new Promise((resolve) => {
    const done = () => {
      clearTimeout(timer)
      removeEventListener('online', done)
      resolve()
    }
    const timer = setTimeout(done, AGAIN_AFTER_MS)
    addEventListener('online', done)
  })
}
