import type { PhotoScore, Process, Reading } from '../../api/types'
import type { Scores } from './scoring'

/** What the photos say, and what to make of it. */

export const outcomeOf = (score: PhotoScore | undefined, process: Process): number | null =>
  score?.[process.outcome] ?? null

/** The scores as they are when somebody agrees with the photos: their words where nothing else was said. */
export function agreed(scores: Scores, photo: PhotoScore, process: Process): Scores {
  return {
    ...scores,
    [process.outcome]: outcomeOf(photo, process),
    evenness: scores.evenness ?? (!process.passes_through ? photo.evenness : null),
    char: scores.char ?? (photo.char || null),
    soot: scores.soot ?? (photo.soot || null),
    cannot_tell: false,
  }
}

/** Whether a person has said something else than the photos. */
export function isOverruled(
  reading: Reading | undefined,
  photo: PhotoScore | undefined,
  process: Process,
): boolean {
  const seen = outcomeOf(photo, process)
  return reading?.said_by === 'person' && reading[process.outcome] !== null && seen !== null
    ? reading[process.outcome] !== seen
    : false
}

/** Patches that want an eye: the least sure first; what no photo shows comes after, in the order of the walk. */
export function wantEye(
  order: string[],
  scored: (id: string) => boolean,
  photos: ReadonlyMap<string, PhotoScore>,
): string[] {
  const sure = (id: string) => photos.get(id)?.confidence ?? 1
  return order.filter((id) => !scored(id)).sort((a, b) => sure(a) - sure(b))
}

/** The next one of those that want an eye, going round; null where none is left. */
export function nextWanted(wanted: string[], id: string): string | null {
  const at = wanted.indexOf(id)
  const rest = wanted.filter((other) => other !== id)
  if (rest.length === 0) return null
  return (at < 0 ? rest[0] : (wanted[at + 1] ?? rest[0])) ?? null
}

/** Of a chance, as one says it: never certain. */
export const inHundred = (confidence: number) => Math.min(99, Math.round(100 * confidence))
