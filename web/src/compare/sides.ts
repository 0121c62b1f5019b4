import { variedKeys } from '../plate/varied'
import type { Burn, Figures, Patch, Photo, Plate, Process } from '../api/types'

/** Plates laid side by side: how they stand in the address, and which patch belongs to which. */

export const MOST_SIDES = 4

/** A burn, seen on the photo it is read by or on another of its photos. */
export interface SideKey {
  burn: number
  photo: number | null
}

export function readSides(text: string | null): SideKey[] {
  return (text ?? '')
    .split(',')
    .map((part) => /^(\d+)(?:\.(\d+))?$/.exec(part))
    .filter((match) => match !== null)
    .slice(0, MOST_SIDES)
    .map((match) => ({ burn: Number(match[1]), photo: match[2] ? Number(match[2]) : null }))
}

export const writeSides = (sides: SideKey[]) =>
  sides.map(({ burn, photo }) => (photo === null ? `${burn}` : `${burn}.${photo}`)).join(',')

/** The settings that vary on any of the plates. */
export function variedOn(plates: Plate[]): string[] {
  return [...new Set(plates.flatMap((plate) => variedKeys(plate.trial)))]
}

// Half a per cent: what a machine's display rounds away is the same setting.
const SAME = 0.005

function apart(a: number, b: number): number {
  if (a === b) return 0
  const larger = Math.max(Math.abs(a), Math.abs(b))
  return Math.abs(a - b) / larger
}

/** For each patch of the first plate the one of the other with the same varied settings, or in the same place. */
export function matched(
  first: Patch[],
  other: Patch[],
  by: 'settings' | 'place',
  varied: string[],
): Map<string, string> {
  const pairs = new Map<string, string>()
  for (const patch of first) {
    const partner = other.find((one) =>
      by === 'place'
        ? one.id === patch.id
        : varied.every((key) => apart(one.settings[key] ?? 0, patch.settings[key] ?? 0) <= SAME),
    )
    if (partner?.burn && patch.burn) pairs.set(patch.id, partner.id)
  }
  return pairs
}

/** How much more came out of the second: of the outcome, or where both were measured, of lightness L*. */
export interface Difference {
  outcome: number | null
  lightness: number | null
}

export function difference(
  process: Process,
  [a, b]: readonly [number | null, number | null],
  [of_a, of_b]: readonly [Figures | undefined, Figures | undefined],
): Difference {
  const light = !process.passes_through ? ([of_a?.lightness ?? null, of_b?.lightness ?? null] as const) : null
  return {
    outcome: a === null || b === null ? null : b - a,
    lightness: !light || light[0] === null || light[1] === null ? null : light[1] - light[0],
  }
}

/** A difference with its sign; a true minus, and none for nothing. */
export function signed(value: number, digits = 0): string {
  const text = Math.abs(value).toFixed(digits)
  if (Number(text) === 0) return '0'
  return value > 0 ? `+${text}` : `\u2212${text}`
}

/** What one burn has and the others have not: lot, thickness, focus, air, cleaning, and held settings. */
export function conditionsOf(burn: Burn, photo: Photo | undefined): string[] {
  return [
    burn.lot && `lot ${burn.lot}`,
    burn.measured_mm && `${burn.measured_mm} mm measured`,
    burn.focus && `focus ${burn.focus}`,
    burn.air && `air ${burn.air}`,
    photo && photo.treatment !== 'burned' && photo.treatment,
  ].filter((one): one is string => Boolean(one))
}

/** Settings the plates hold at different values. */
export function heldApart(plates: Plate[], varied: string[]): string[] {
  const held = plates.map((plate) => plate.patches.find((patch) => patch.burn)?.settings ?? {})
  const keys = [...new Set(held.flatMap((settings) => Object.keys(settings)))]
  const differs = (key: string) => {
    const values = held.flatMap((settings) => settings[key] ?? [])
    return values.some((value) => apart(value, values[0] ?? value) > SAME)
  }
  return keys.filter((key) => !varied.includes(key) && differs(key))
}
