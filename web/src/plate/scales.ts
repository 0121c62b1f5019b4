import { doseScale, onScale, outcomeScale } from '../theme/palette'

/** Heat going in is warm, what came out is cool; the two never share a scale. */

function channel(hex: string, at: number): number {
  return parseInt(hex.slice(at, at + 2), 16)
}

function mixed(from: string, to: string, share: number): string {
  const parts = [1, 3, 5].map((at) =>
    Math.round(channel(from, at) + (channel(to, at) - channel(from, at)) * share)
      .toString(16)
      .padStart(2, '0'),
  )
  return `#${parts.join('')}`
}

/** A colour at `share` (0 to 1) along a scale; shares outside are its ends. */
export function along(scale: readonly string[], share: number): string {
  const last = scale.length - 1
  const at = Math.min(Math.max(share, 0), 1) * last
  const index = Math.min(Math.floor(at), last - 1)
  return mixed(scale[index] ?? '#000000', scale[index + 1] ?? '#000000', at - index)
}

export interface DoseRange {
  low: number
  high: number
}

export function doseRange(doses: number[]): DoseRange {
  return { low: Math.min(...doses), high: Math.max(...doses) }
}

/** Doses that differ by less are one: speeds that a machine can show are rounded. */
const EQUAL_RATIO = 1.005

export const areEqualDoses = ({ low, high }: DoseRange) => high <= low * EQUAL_RATIO

/** Where a dose lies between the weakest and the strongest patch, by ratio; the middle where all are equal. */
export function doseShare(dose: number, range: DoseRange): number {
  if (areEqualDoses(range)) return 0.5
  return Math.log(dose / range.low) / Math.log(range.high / range.low)
}

export function doseColour(dose: number, range: DoseRange): string {
  return along(doseScale, doseShare(dose, range))
}

/** Ink on light tints, card on dark ones. */
export function onDose(dose: number, range: DoseRange): string {
  return doseShare(dose, range) > 0.65 ? onScale.pale : onScale.dark
}

/** `most` is the highest score: 3 for cuts, 5 for darkness. */
export function outcomeColour(outcome: number, most: number): string {
  return along(outcomeScale, outcome / most)
}

export function onOutcome(outcome: number, most: number): string {
  return outcome / most > 0.5 ? onScale.pale : onScale.dark
}
