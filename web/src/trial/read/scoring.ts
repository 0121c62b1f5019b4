import type { Patch, Process, ProcessKey, Reading } from '../../api/types'
import { differingLines } from '../../shared/differingLines'
import type { Lines } from '../../shared/differingLines'

/** Scoring by keyboard, as plain rules: which key means what, and which patch comes next. */

export interface Scores {
  through: number | null
  darkness: number | null
  evenness: number | null
  char: number | null
  soot: number | null
  cannot_tell: boolean
  tags: string[]
  note: string
  /** What callipers say, as it was typed. */
  kerf_mm: number | string | null
  depth_mm: number | string | null
}

export const UNREAD: Scores = {
  through: null,
  darkness: null,
  evenness: null,
  char: null,
  soot: null,
  cannot_tell: false,
  tags: [],
  note: '',
  kerf_mm: null,
  depth_mm: null,
}

export function scoresOf(reading: Reading | undefined): Scores {
  if (!reading) return UNREAD
  const { through, darkness, evenness, char, soot, cannot_tell, tags, note, kerf_mm, depth_mm } = reading
  return { through, darkness, evenness, char, soot, cannot_tell, tags, note, kerf_mm, depth_mm }
}

/** Where two readings of a patch differ, in the words of the scale. */
export function scoreDifferences(theirs: Scores, mine: Scores, words: string[], process: Process) {
  const outcome = (scores: Scores) => {
    const score = scores[process.outcome]
    if (score === null) return scores.cannot_tell ? "can't tell" : 'not read'
    return `${score} ${words[score] ?? ''}`.trim()
  }
  const lines = (scores: Scores): Lines => [
    ['Outcome', outcome(scores)],
    ['Evenness', String(scores.evenness ?? 'not said')],
    ['Char', String(scores.char ?? 'not said')],
    ['Soot', String(scores.soot ?? 'not said')],
    ['Tags', scores.tags.join(', ').replaceAll('_', ' ') || 'none'],
    ['Callipers', scores.kerf_mm || scores.depth_mm ? `${scores.kerf_mm ?? scores.depth_mm} mm` : 'none'],
    ['Note', scores.note || 'none'],
  ]
  return differingLines(lines(theirs), lines(mine))
}

/** What a person said of a patch: where the photos speak for it, nothing of how it came out. */
export function ownScores(reading: Reading | undefined): Scores {
  const scores = scoresOf(reading)
  return reading?.said_by === 'photo'
    ? { ...scores, through: null, darkness: null, evenness: null, char: null, soot: null }
    : scores
}

export const isScored = (scores: Scores) =>
  scores.through !== null || scores.darkness !== null || scores.cannot_tell

export const LETTERS: Record<string, { kind: 'degree' | 'tag'; key: string; word: string }> = {
  c: { kind: 'degree', key: 'char', word: 'char' },
  s: { kind: 'degree', key: 'soot', word: 'soot' },
  b: { kind: 'tag', key: 'back_burn', word: 'back burn' },
  f: { kind: 'tag', key: 'flame', word: 'flame' },
  m: { kind: 'tag', key: 'melted', word: 'melted' },
  r: { kind: 'tag', key: 'blurred', word: 'blurred' },
  g: { kind: 'tag', key: 'rough', word: 'rough' },
  h: { kind: 'tag', key: 'raised', word: 'raised' },
}

interface Tagged {
  key: string
  processes: ProcessKey[]
}

/** The letters that mean something for a process. */
export function lettersFor(process: ProcessKey, degrees: Tagged[], tags: Tagged[]): string[] {
  return Object.entries(LETTERS)
    .filter(([, { kind, key }]) =>
      (kind === 'degree' ? degrees : tags).some((row) => row.key === key && row.processes.includes(process)),
    )
    .map(([letter]) => letter)
}

/** The letter pressed once more gives the next degree: none, a little, clearly, badly, none. */
export function withLetter(scores: Scores, letter: string): Scores {
  const meaning = LETTERS[letter]
  if (!meaning) return scores
  if (meaning.kind === 'degree') {
    const key = meaning.key as 'char' | 'soot'
    const next = ((scores[key] ?? 0) + 1) % 4
    return { ...scores, [key]: next === 0 ? null : next }
  }
  const has = scores.tags.includes(meaning.key)
  return {
    ...scores,
    tags: has ? scores.tags.filter((tag) => tag !== meaning.key) : [...scores.tags, meaning.key],
  }
}

/** The deciding digit; null where it is not on the scale. */
export function withDigit(scores: Scores, digit: number, process: Process, most: number): Scores | null {
  if (digit < 0 || digit > most) return null
  return { ...scores, [process.outcome]: digit, cannot_tell: false }
}

export function withEvenness(scores: Scores, digit: number, process: Process): Scores | null {
  if (process.passes_through || digit < 0 || digit > 3) return null
  return { ...scores, evenness: digit }
}

export function withCannotTell(scores: Scores): Scores {
  return { ...scores, through: null, darkness: null, cannot_tell: !scores.cannot_tell }
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

/** The next patch without a score, going round once. */
export function nextUnscored(order: string[], id: string, scored: (id: string) => boolean): string | null {
  const at = order.indexOf(id)
  const round = [...order.slice(at + 1), ...order.slice(0, at + 1)]
  return round.find((other) => !scored(other)) ?? null
}
