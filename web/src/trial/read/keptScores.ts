import { keptHere } from '../../shared/keptHere'
import { isRecord } from '../../shared/records'
import { scoresOfTyped } from './scoring'
import type { Scores } from './scoring'

/** Scores by patch, said at one stroke. */
export type Said = ReadonlyMap<string, Scores>

const BEGINNING = 'rezept.scores.'
const keyOf = (burn: number, member: number) => `${BEGINNING}${burn}.${member}`

/** The trial that scores were given to. */
export interface Scored {
  id: number
  number: number
}

interface Kept {
  trial: Scored | null
  strokes: unknown[]
}

const isScored = (value: unknown): value is Scored =>
  isRecord(value) && typeof value.id === 'number' && typeof value.number === 'number'

function keptAt(key: string): Kept {
  const kept = keptHere.read(key)
  if (!isRecord(kept) || !Array.isArray(kept.strokes)) return { trial: null, strokes: [] }
  return { trial: isScored(kept.trial) ? kept.trial : null, strokes: kept.strokes }
}

/** The strokes a member gave a burn that the server does not have yet, in their order. */
export function keptScores(burn: number, member: number): Said[] {
  return keptAt(keyOf(burn, member))
    .strokes.filter(isRecord)
    .map((stroke) => new Map(Object.entries(stroke).map(([patch, said]) => [patch, scoresOfTyped(said)])))
}

/** The trials a member has scored in this browser of which the server does not know all yet. */
export function trialsWaiting(member: number): Scored[] {
  const trials = keptHere
    .keysOf(BEGINNING)
    .filter((key) => key.endsWith(`.${member}`))
    .map((key) => keptAt(key).trial)
  return trials.filter((trial) => trial !== null)
}

export function keepScores(trial: Scored, burn: number, member: number, strokes: readonly Said[]): void {
  const key = keyOf(burn, member)
  if (strokes.length === 0) keptHere.forget(key)
  else keptHere.write(key, { trial, strokes: strokes.map((stroke) => Object.fromEntries(stroke)) })
}
