/** The dose rail's scale: where each dose stands, and how ticks of nearly equal dose stack. */

import { areEqualDoses } from './scales'

export interface RailScale {
  at: (dose: number) => number
  marks: { dose: number; x: number }[]
}

const NICE = [1, 1.5, 2, 3, 5, 7]

function niceDoses(low: number, high: number): number[] {
  const doses: number[] = []
  for (let power = Math.floor(Math.log10(low)); power <= Math.ceil(Math.log10(high)); power++) {
    for (const nice of NICE) {
      const dose = Number((nice * 10 ** power).toPrecision(3))
      if (dose >= low && dose <= high) doses.push(dose)
    }
  }
  return doses
}

/** A logarithmic scale from x = `from` to `to` with a little room at both ends. */
export function railScale(doses: number[], from: number, to: number): RailScale {
  const lowest = Math.min(...doses)
  const highest = Math.max(...doses)
  const room = areEqualDoses({ low: lowest, high: highest }) ? 1.3 : (highest / lowest) ** 0.04
  const low = lowest / room
  const high = highest * room
  const at = (dose: number) => from + ((to - from) * Math.log(dose / low)) / Math.log(high / low)
  return { at, marks: niceDoses(low, high).map((dose) => ({ dose, x: at(dose) })) }
}

/** Height (0, 1, 2 ...) of each tick so that none covers another closer than `width`; order is kept. */
export function stacked(xs: number[], width: number): number[] {
  const order = xs.map((_, i) => i).sort((a, b) => (xs[a] ?? 0) - (xs[b] ?? 0))
  const ends: number[] = []
  const heights = new Array<number>(xs.length).fill(0)
  for (const i of order) {
    const x = xs[i] ?? 0
    let level = ends.findIndex((end) => x - end >= width)
    if (level < 0) level = ends.push(-Infinity) - 1
    ends[level] = x
    heights[i] = level
  }
  return heights
}
