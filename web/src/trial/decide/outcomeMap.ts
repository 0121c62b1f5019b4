import type { OutcomeMapData, Plate } from '../../api/types'
import { along } from '../../plate/scales'
import { minutes } from '../../shared/words'
import { outcomeScale } from '../../theme/palette'

/** What is expected at one place of the map. */
export interface Probed {
  /** The settings along both edges there. */
  x: number
  y: number
  expected: number
  low: number
  high: number
  dose: number
  seconds: number
}

/** Index of the step before `at` and how far on it is; null outside. `places` rise or fall. */
function between(places: number[], at: number): [number, number] | null {
  const rising = (places.at(-1) ?? 0) >= (places[0] ?? 0)
  for (let i = 0; i + 1 < places.length; i++) {
    const a = places[i] ?? 0
    const b = places[i + 1] ?? 0
    if (rising ? a <= at && at <= b : b <= at && at <= a) return [i, b === a ? 0 : (at - a) / (b - a)]
  }
  return null
}

const mix = (a: number, b: number, share: number) => a + (b - a) * share

/** What the map says at a place of the plate, mm from its lower left; between its points on a straight line. */
export function probe(map: OutcomeMapData, x_mm: number, y_mm: number): Probed | null {
  const across = between(map.x.mm, x_mm)
  const up = between(map.y.mm, y_mm)
  if (!across || !up) return null
  const [i, s] = across
  const [j, t] = up
  const of = (rows: number[][]) => {
    const [below = [], above = []] = [rows[j], rows[j + 1]]
    return mix(mix(below[i] ?? 0, below[i + 1] ?? 0, s), mix(above[i] ?? 0, above[i + 1] ?? 0, s), t)
  }
  return {
    x: mix(map.x.setting[i] ?? 0, map.x.setting[i + 1] ?? 0, s),
    y: mix(map.y.setting[j] ?? 0, map.y.setting[j + 1] ?? 0, t),
    expected: of(map.expected),
    low: of(map.low),
    high: of(map.high),
    dose: of(map.dose),
    seconds: of(map.seconds),
  }
}

/** A grey of this lightness, as screens show it (IEC 61966-2-1). */
function grey(lightness: number): string {
  const f = (lightness + 16) / 116
  const light = f > 6 / 29 ? f ** 3 : (lightness * 27) / 24389
  const value = light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055
  const part = Math.round(255 * Math.min(Math.max(value, 0), 1))
    .toString(16)
    .padStart(2, '0')
  return `#${part}${part}${part}`
}

export const mapColour = (map: OutcomeMapData, value: number) =>
  map.key === 'p_drops_out' ? along(outcomeScale, value) : grey(value)

/** Whether what is expected there is a guess: the 80 % of it reach too far for a decision. */
export const isGuess = (map: OutcomeMapData, low: number, high: number) =>
  high - low > (map.key === 'p_drops_out' ? 0.35 : 16)

/** Rectangles of the map that are only guessed, as one path in mm with y down. */
export function guessedPath(map: OutcomeMapData, height: number): string {
  const edges = (mm: number[]) =>
    Array.from({ length: mm.length + 1 }, (_, i) => {
      const before = mm[Math.max(i - 1, 0)] ?? 0
      const after = mm[Math.min(i, mm.length - 1)] ?? 0
      return (before + after) / 2
    })
  const xs = edges(map.x.mm)
  const ys = edges(map.y.mm)
  let path = ''
  map.low.forEach((row, j) =>
    row.forEach((low, i) => {
      if (!isGuess(map, low, map.high[j]?.[i] ?? low)) return
      const [x0 = 0, x1 = 0, y0 = 0, y1 = 0] = [xs[i], xs[i + 1], ys[j], ys[j + 1]]
      path += `M${x0},${height - y0}H${x1}V${height - y1}H${x0}z`
    }),
  )
  return path
}

/** `5.1 s`, from a minute on `1:20 min`. */
export const secondsWords = (seconds: number) =>
  seconds < 60 ? `${seconds.toPrecision(2)} s` : `${minutes(seconds)} min`

/** The corners of the map on the plate, mm with y down: x, y, width, height. */
export function mapBox(map: OutcomeMapData, height: number) {
  const [left, right] = [Math.min(...map.x.mm), Math.max(...map.x.mm)]
  const [bottom, top] = [Math.min(...map.y.mm), Math.max(...map.y.mm)]
  return { x: left, y: height - top, width: right - left, height: top - bottom }
}

/** The box around all patches, mm from the plate's lower left: lettering beyond it stays legible. */
export function aroundPatches({ patches }: Pick<Plate, 'patches'>) {
  const left = Math.min(...patches.map((one) => one.x_mm))
  const right = Math.max(...patches.map((one) => one.x_mm + one.width_mm))
  const bottom = Math.min(...patches.map((one) => one.y_mm))
  const top = Math.max(...patches.map((one) => one.y_mm + one.height_mm))
  return { x: left, y: bottom, width: right - left, height: top - bottom }
}
