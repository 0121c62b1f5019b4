import type { Plate } from '../api/types'
import { addedCount } from './varied'

/** The values of the axes where they stand beside the plate: columns below it, rows left of it, blocks above and right.
 * One need not choose a patch to learn what a column is. */

export type Side = 'below' | 'left' | 'above' | 'right'

export interface EdgeValue {
  side: Side
  /** Where its middle lies along that side, mm from the plate's lower left. */
  at: number
  /** Room along the side before the next one, mm. */
  room: number
  value: number
  /** The patches it holds of. */
  patches: string[]
}

export interface Edge {
  side: Side
  parameter: string
  values: EdgeValue[]
}

type Spot = Pick<
  Plate['patches'][number],
  'id' | 'x_mm' | 'y_mm' | 'width_mm' | 'height_mm' | 'settings' | 'set_by_hand' | 'burn'
>

const SIDES: Record<string, Side> = { x: 'below', y: 'left', block_x: 'above', block_y: 'right' }
const SAME_MM = 0.01

interface Line {
  low: number
  high: number
  spots: Spot[]
}

/** Patches that stand in one line, by where it begins. */
function lines(upright: boolean, patches: readonly Spot[]): Line[] {
  const found: Line[] = []
  const from = (patch: Spot) => (upright ? patch.y_mm : patch.x_mm)
  for (const patch of [...patches].sort((a, b) => from(a) - from(b))) {
    const low = from(patch)
    const last = found.at(-1)
    if (last && Math.abs(last.low - low) < SAME_MM) last.spots.push(patch)
    else found.push({ low, high: low + (upright ? patch.height_mm : patch.width_mm), spots: [patch] })
  }
  return found
}

/** What most of a line has: single patches may have been set by hand, or corrected while they burned. */
function most(spots: readonly Spot[], parameter: string): number | undefined {
  const counts = new Map<number, number>()
  for (const { settings, set_by_hand } of spots) {
    const value = settings[parameter]
    if (value !== undefined && !set_by_hand.includes(parameter))
      counts.set(value, (counts.get(value) ?? 0) + 1)
  }
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0]
}

/** The planned value an observed one belongs to: what was corrected while it burned stays in its row and column. */
const planned = (value: number | undefined, values: readonly number[] | undefined) =>
  value === undefined || !values || values.length === 0
    ? value
    : values.reduce((a, b) => (Math.abs(b - value) < Math.abs(a - value) ? b : a))

/** Values along one side: line by line, or for blocks over the neighbouring lines that have the same. */
function along(
  side: Side,
  parameter: string,
  patches: readonly Spot[],
  values: readonly number[] | undefined,
): EdgeValue[] {
  const blocks = side === 'above' || side === 'right'
  const found: (Line & { value: number })[] = []
  for (const line of lines(side === 'left' || side === 'right', patches)) {
    const value = planned(most(line.spots, parameter), values)
    const last = found.at(-1)
    if (value === undefined) continue
    if (blocks && last?.value === value) {
      last.high = line.high
      last.spots = [...last.spots, ...line.spots]
    } else found.push({ ...line, value })
  }
  const middle = ({ low, high }: Line) => (low + high) / 2
  return found.map((line, i) => {
    const next = found[i + 1] ?? found[i - 1]
    const room = next ? Math.abs(middle(next) - middle(line)) : line.high - line.low
    return { side, at: middle(line), room, value: line.value, patches: line.spots.map(({ id }) => id) }
  })
}

/** Of values that would touch only every so many stand there, the first among them; `needs` is the room one takes. */
export function thinned<T extends { room: number }>(values: readonly T[], needs: number): T[] {
  const every = Math.max(1, Math.ceil(needs / Math.max(Math.min(...values.map(({ room }) => room)), 1e-9)))
  return values.filter((_, i) => i % every === 0)
}

/** Every axis of a plate as the values at one of its sides. A ladder that goes on in new lines has none: there each
 * patch has its own. */
export function edges({ trial, patches, drawing }: Pick<Plate, 'trial' | 'patches' | 'drawing'>): Edge[] {
  const own = patches.slice(0, patches.length - addedCount(trial))
  return trial.axes
    .map((axis, i) => ({ axis, planned: drawing.axes[i] }))
    .filter(({ axis }) => !axis.wrap)
    .map(({ axis, planned }) => {
      const side = SIDES[axis.along] ?? 'below'
      return { side, parameter: axis.parameter, values: along(side, axis.parameter, own, planned) }
    })
}
