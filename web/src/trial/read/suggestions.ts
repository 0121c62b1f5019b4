import type { PhotoScore, Process, Reading, Scale } from '../../api/types'
import { withValue } from './scoring'
import { outcomeOf } from '../../shared/outcome'
import type { Scores } from './scoring'

/** What the photos say, and what to make of it. */

/** The scores as they are when somebody agrees with the photos: their words where nothing else was said. A letter's
 * degree of none is nothing said. */
export function agreed(scores: Scores, photo: PhotoScore, process: Process, scales: Scale[]): Scores {
  let after = withValue(scores, process.outcome, outcomeOf(photo, process))
  for (const scale of scales) {
    const seen = photo.values[scale.key]
    const says = seen !== undefined && (scale.entry !== 'letter' || seen > scale.low)
    if (says && after.values[scale.key] === undefined) after = withValue(after, scale.key, seen)
  }
  return { ...after, cannot_tell: false }
}

/** Whether a person has said something else than the photos. */
export function isOverruled(
  reading: Reading | undefined,
  photo: PhotoScore | undefined,
  process: Process,
): boolean {
  const seen = outcomeOf(photo, process)
  const said = outcomeOf(reading, process)
  return reading?.said_by === 'person' && said !== null && seen !== null ? said !== seen : false
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
