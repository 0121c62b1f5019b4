import { contours } from 'd3-contour'
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

/** Which of a plate's maps lies at a place, and what it says there. */
export function probeOn(maps: OutcomeMapData[], x_mm: number, y_mm: number) {
  for (const map of maps) {
    const at = probe(map, x_mm, y_mm)
    if (at) return { map, at }
  }
  return null
}

/** Shares count by their odds: between 97 and 99 in 100 lies as much as between 90 and 97. */
const byOdds = (map: OutcomeMapData, value: number) => {
  if (map.key === 'lightness') return value
  const share = Math.min(Math.max(value, 0.0002), 0.9998)
  return Math.log(share / (1 - share))
}

export interface Contour {
  /** In mm with y down. */
  path: string
  /** The places it goes through, mm with y down. */
  places: [number, number][]
}

/** The line along which so much is expected. */
export function contour(
  map: OutcomeMapData,
  level: number,
  height: number,
  expected = map.expected,
): Contour {
  const [across, up] = [map.x.mm.length, map.y.mm.length]
  const values = expected.flat().map((value) => byOdds(map, value))
  const found = contours().size([across, up]).contour(values, byOdds(map, level))
  // Samples lie half a step from the outermost lines, which only close the shape along the edge of the map.
  const within = ([x = 0, y = 0]: number[]) => x > 0 && y > 0 && x < across && y < up
  const mmOf = (places: number[], at: number) => {
    const index = Math.min(Math.max(at - 0.5, 0), places.length - 1)
    const below = Math.min(Math.floor(index), places.length - 2)
    return mix(places[below] ?? 0, places[below + 1] ?? 0, index - below)
  }
  let path = ''
  const places: [number, number][] = []
  for (const ring of found.coordinates.flat()) {
    let drawing = false
    for (const point of ring) {
      if (!within(point)) {
        drawing = false
        continue
      }
      const place: [number, number] = [mmOf(map.x.mm, point[0] ?? 0), height - mmOf(map.y.mm, point[1] ?? 0)]
      path += `${drawing ? 'L' : 'M'}${place[0].toFixed(2)},${place[1].toFixed(2)}`
      places.push(place)
      drawing = true
    }
  }
  return { path, places }
}

interface Lettered {
  name: string
  places: [number, number][]
}

interface Box {
  x: number
  y: number
  width: number
  height: number
}

/** Where lines are named, mm with y down: on the line, at one of the heights given for it, over no name before it. A line
 * that finds no such place has no name. `widthOf` is how wide a name is, `size` how high. */
export function namesApart(
  lines: (Lettered & { heights: number[] })[],
  box: Box,
  size: number,
  widthOf: (name: string) => number,
): Map<string, [number, number]> {
  const found = new Map<string, [number, number]>()
  const overlaps = (name: string, [x, y]: [number, number]) =>
    [...found].some(
      ([other, [ox, oy]]) =>
        Math.abs(ox - x) < (widthOf(name) + widthOf(other)) / 2 && Math.abs(oy - y) < size,
    )
  const clamped = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high)
  for (const { name, places, heights } of lines) {
    const half = widthOf(name) / 2
    for (const height of heights) {
      const nearest = places.reduce<[number, number] | null>(
        (best, place) => (best && Math.abs(best[1] - height) <= Math.abs(place[1] - height) ? best : place),
        null,
      )
      if (!nearest) break
      const at: [number, number] = [
        clamped(nearest[0], box.x + half, box.x + box.width - half),
        clamped(nearest[1], box.y + size / 2, box.y + box.height - size / 2),
      ]
      if (overlaps(name, at)) continue
      found.set(name, at)
      break
    }
  }
  return found
}

/** Which lines a map has, and how they are named: shares of fresh sheets in 100, or L*. */
export function levelsOf(map: OutcomeMapData, holdsFrom: number | null): { level: number; name: string }[] {
  if (map.key !== 'lightness') {
    const some = [0.5, 0.9].map((level) => ({ level, name: String(100 * level) }))
    return holdsFrom === null ? some : [...some, { level: holdsFrom, name: 'holds' }]
  }
  const all = map.expected.flat()
  const first = Math.ceil((Math.min(...all) + 1) / 10) * 10
  const levels = []
  for (let level = first; level < Math.max(...all); level += 10) levels.push({ level, name: `L* ${level}` })
  return levels
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
  map.key === 'lightness' ? grey(value) : along(outcomeScale, value)

/** Whether what is expected there is a guess: the 80 % of it reach too far for a decision. */
export const isGuess = (map: OutcomeMapData, low: number, high: number) =>
  high - low > (map.key === 'lightness' ? 16 : 0.35)

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

/** The gaps between rows of patches from above, mm with y down: what is written there lies on no patch. */
export function gapsBetweenRows({ patches, plate }: Pick<Plate, 'patches' | 'plate'>): number[] {
  const rows = [...new Set(patches.map((one) => one.y_mm))].sort((a, b) => b - a)
  const tall = patches[0]?.height_mm ?? 0
  const pairs =
    rows.length > 1
      ? rows.slice(1).map((lower, i) => [rows[i] ?? lower, lower])
      : [[rows[0] ?? 0, rows[0] ?? 0]]
  return pairs.map(([upper = 0, lower = 0]) => plate.height_mm - (upper + lower + tall) / 2)
}

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

/** What is to be seen of a map, mm with y down: as much of it as lies around the patches. */
export function shownOf(map: OutcomeMapData, plate: Pick<Plate, 'patches' | 'plate'>): Box {
  const height = plate.plate.height_mm
  const [box, around] = [mapBox(map, height), aroundPatches(plate)]
  const left = Math.max(box.x, around.x)
  const top = Math.max(box.y, height - around.y - around.height)
  const right = Math.min(box.x + box.width, around.x + around.width)
  const bottom = Math.min(box.y + box.height, height - around.y)
  return { x: left, y: top, width: right - left, height: bottom - top }
}
