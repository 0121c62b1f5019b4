import type { Patch, Process, Reading, Scale } from '../../api/types'
import { outcomeOf } from '../../shared/outcome'
import { differingLines } from '../../shared/differingLines'
import type { Lines } from '../../shared/differingLines'
import { isRecord } from '../../shared/records'

/** Scoring by keyboard, as plain rules: which key means what, and which patch comes next. What there is to score are
 * the shop's scales. */

export interface Scores {
  /** By scale; lengths as they were typed. What is not said is not there. */
  values: Readonly<Record<string, number | string>>
  cannot_tell: boolean
  note: string
}

export const UNREAD: Scores = { values: {}, cannot_tell: false, note: '' }

export function scoresOf(reading: Reading | undefined): Scores {
  if (!reading) return UNREAD
  const { values, cannot_tell, note } = reading
  return { values, cannot_tell, note }
}

/** Scores as a refused change tells them: a reading, as JSON. */
export function scoresOfRow({ values, cannot_tell, note }: Record<string, unknown>): Scores {
  const said = Object.entries(isRecord(values) ? values : {})
  return {
    values: Object.fromEntries(said.filter((one): one is [string, number] => typeof one[1] === 'number')),
    cannot_tell: cannot_tell === true,
    note: typeof note === 'string' ? note : '',
  }
}

/** Scores as they were kept in this browser: lengths may stand there as they were typed. */
export function scoresOfTyped(said: unknown): Scores {
  if (!isRecord(said)) return UNREAD
  const values = Object.entries(isRecord(said.values) ? said.values : {})
  return {
    values: Object.fromEntries(
      values.filter(
        (one): one is [string, number | string] => typeof one[1] === 'number' || typeof one[1] === 'string',
      ),
    ),
    cannot_tell: said.cannot_tell === true,
    note: typeof said.note === 'string' ? said.note : '',
  }
}

/** The scores with another value on one scale, or with none. */
export function withValue(scores: Scores, scale: string, value: number | string | null): Scores {
  const others = Object.entries(scores.values).filter(([key]) => key !== scale)
  return { ...scores, values: Object.fromEntries(value === null ? others : [...others, [scale, value]]) }
}

/** A value in the words of its scale. */
function inWords(scale: Scale, value: number | string | undefined): string {
  if (scale.kind === 'yes') return value ? 'yes' : 'no'
  if (value === undefined) return 'not said'
  if (typeof value === 'string') return value
  const word = scale.words[value - scale.low]
  return word ? `${value} ${word}` : `${value} ${scale.unit}`.trim()
}

/** Where two readings of a patch differ, in the words of the scales; the outcome in those of this material. */
export function scoreDifferences(
  theirs: Scores,
  mine: Scores,
  words: string[],
  process: Process,
  scales: Scale[],
) {
  const outcome = (scores: Scores) => {
    const score = outcomeOf(scores, process)
    if (score === null) return scores.cannot_tell ? "can't tell" : 'not read'
    return `${score} ${words[score] ?? ''}`.trim()
  }
  const others = scales.filter((scale) => scale.key !== process.outcome)
  const lines = (scores: Scores): Lines => [
    [process.outcome, 'Outcome', outcome(scores)],
    ...others.map((scale): Lines[number] => [
      scale.key,
      scale.name.charAt(0).toUpperCase() + scale.name.slice(1),
      inWords(scale, scores.values[scale.key]),
    ]),
    ['note', 'Note', scores.note || 'none'],
  ]
  return differingLines(lines(theirs), lines(mine))
}

/** Theirs with some parts of mine: scales by key, the outcome with whether one can tell, the note. */
export function mergedScores(
  theirs: Scores,
  mine: Scores,
  parts: ReadonlySet<string>,
  outcome: string,
): Scores {
  let after = theirs
  for (const key of parts) {
    if (key === 'note') after = { ...after, note: mine.note }
    else after = withValue(after, key, mine.values[key] ?? null)
  }
  return parts.has(outcome) ? { ...after, cannot_tell: mine.cannot_tell } : after
}

/** What a person said of a patch: where the photos speak for it, nothing of what they can say. */
export function ownScores(reading: Reading | undefined, scales: Scale[]): Scores {
  const scores = scoresOf(reading)
  if (reading?.said_by !== 'photo') return scores
  const photos = new Set(scales.filter((scale) => scale.said_by.includes('photo')).map((scale) => scale.key))
  const own = Object.entries(scores.values).filter(([key]) => !photos.has(key))
  return { ...scores, values: Object.fromEntries(own) }
}

export const isScored = (scores: Scores, process: Process) =>
  outcomeOf(scores, process) !== null || scores.cannot_tell

/** Scales that are said with a letter. */
export const lettered = (scales: Scale[]) => scales.filter((scale) => scale.entry === 'letter')

/** The letter pressed once more gives the next degree: none, a little, clearly, badly, none. */
export function withLetter(scores: Scores, letter: string, scales: Scale[]): Scores {
  const scale = lettered(scales).find((one) => one.letter === letter)
  if (!scale) return scores
  const now = scores.values[scale.key]
  const next = ((typeof now === 'number' ? now : scale.low) + 1) % (scale.high + 1)
  return withValue(scores, scale.key, next === 0 ? null : next)
}

/** The deciding digit; null where it is not on the scale. */
export function withDigit(scores: Scores, digit: number, process: Process, most: number): Scores | null {
  if (digit < 0 || digit > most) return null
  return { ...withValue(scores, process.outcome, digit), cannot_tell: false }
}

/** The digit that is given with Shift; null where this process has no such scale, or it is not on it. */
export function withShiftedDigit(scores: Scores, digit: number, scales: Scale[]): Scores | null {
  const scale = scales.find((one) => one.entry === 'shift_digit')
  if (!scale || digit < scale.low || digit > scale.high) return null
  return withValue(scores, scale.key, digit)
}

export function withCannotTell(scores: Scores, process: Process): Scores {
  return { ...withValue(scores, process.outcome, null), cannot_tell: !scores.cannot_tell }
}

/** The change from one score to another, made to a third: so that several patches get the same. */
export function changedAs(before: Scores, from: Scores, to: Scores): Scores {
  let after: Scores = {
    ...before,
    note: to.note === from.note ? before.note : to.note,
    cannot_tell: to.cannot_tell === from.cannot_tell ? before.cannot_tell : to.cannot_tell,
  }
  for (const key of new Set([...Object.keys(from.values), ...Object.keys(to.values)])) {
    const value = to.values[key] ?? null
    if (value !== (from.values[key] ?? null)) after = withValue(after, key, value)
  }
  return after
}

/** Shift and a digit, wherever the digit lies on this keyboard. */
export function shiftedDigit(event: { shiftKey: boolean; code: string }): number | null {
  const match = /^(?:Digit|Numpad)(\d)$/.exec(event.code)
  return event.shiftKey && match ? Number(match[1]) : null
}

/** Patches in the order in which they are walked: row by row from the bottom. */
export function walk(patches: Patch[], notBurned: readonly string[]): string[] {
  return patches
    .filter((patch) => patch.burn && !notBurned.includes(patch.id))
    .sort((a, b) => (a.block ?? 0) - (b.block ?? 0) || a.row - b.row || a.column - b.column)
    .map((patch) => patch.id)
}

/** The next patch of the walk; at the end one stays. */
export function next(order: string[], id: string, by: 1 | -1 = 1): string {
  const at = order.indexOf(id)
  return order[at + by] ?? id
}
