import type { Axis, Design, FirstAxis, Patch, Unit } from '../../api/types'
import { inUnit, written } from '../../shared/units'
import { isRecord } from '../../shared/records'

const ORDER: readonly Along[] = ['x', 'y', 'block_x', 'block_y']

/** Axes as they are read: along, up, then the blocks. */
const inOrder = (axes: Axis[]) => [...axes].sort((a, b) => ORDER.indexOf(a.along) - ORDER.indexOf(b.along))

/** An axis all in one line. */
function unwrapped(axis: Axis): Axis {
  const rest = { ...axis }
  delete rest.wrap
  return rest
}

/** Edits of a design. All of them take a design and give a new one; nothing here knows of React. */

export type Along = 'x' | 'y' | 'block_x' | 'block_y'
export type Typed = number | string | null | undefined

export const axisIndex = (design: Design, along: Along) =>
  design.axes.findIndex((axis) => axis.along === along)

export function axisAlong(design: Design, along: Along): Axis | undefined {
  return design.axes[axisIndex(design, along)]
}

export function changeAxis(design: Design, along: Along, change: Partial<Axis>): Design {
  return {
    ...design,
    off: [],
    overrides: {},
    axes: design.axes.map((axis) => (axis.along === along ? { ...axis, ...change } : axis)),
  }
}

/** Number of steps of an axis as far as it can be told while it is being typed. */
export function stepCount(axis: Axis): number {
  if (Array.isArray(axis.values)) return axis.values.length
  const count = Number(axis.count)
  return Number.isFinite(count) ? count : 0
}

/** Whole steps: how many there are at most between the ends, and the highest level where there are levels. */
export interface Whole {
  whole: boolean
  words: string[]
}

/** One step more or less; a list loses its last value or gets one that goes on in the same way. What is counted goes on
 * by ones, as far as there are levels. */
export function addSteps(design: Design, along: Along, by: 1 | -1, { whole, words }: Whole): Design {
  const axis = axisAlong(design, along)
  if (!axis) return design
  if (axis.values === undefined || axis.values === null) {
    const count = Math.max(2, stepCount(axis) + by)
    const [from, to] = [Number(axis.from), Number(axis.to)]
    if (!whole || by < 0 || count <= Math.abs(to - from) + 1) return changeAxis(design, along, { count })
    const end = from + (to < from ? -1 : 1) * (count - 1)
    const most = words.length > 0 ? words.length - 1 : Infinity
    return end < (words.length > 0 ? 0 : 1) || end > most
      ? design
      : changeAxis(design, along, { count, to: end })
  }
  const values = Array.isArray(axis.values) ? axis.values.map(Number) : []
  if (by < 0) return values.length > 1 ? changeAxis(design, along, { values: values.slice(0, -1) }) : design
  const last = values.at(-1) ?? 1
  const before = values.at(-2) ?? last / 2
  const next = 2 * last - before
  return changeAxis(design, along, { values: [...values, next > 0 ? next : last / 2] })
}

/** Even steps, even ratios or a list; what was there is carried over. */
export function changeSpacing(
  design: Design,
  along: Along,
  spacing: 'linear' | 'geometric' | 'list',
  planned: readonly number[],
): Design {
  const axis = axisAlong(design, along)
  if (!axis) return design
  const { parameter } = axis
  const rest = design.axes.filter((other) => other.along !== along)
  const first = planned[0] ?? 1
  const last = planned.at(-1) ?? 1
  const changed: Axis =
    spacing === 'list'
      ? { parameter, along, values: [...planned] }
      : { parameter, along, from: first, to: last, count: Math.max(2, planned.length), spacing, round: true }
  return { ...design, off: [], axes: inOrder([changed, ...rest]) }
}

/** An axis in its place from what the server says of its beginning. */
function placed(first: FirstAxis, parameter: string, along: Along): Axis {
  const rest: Partial<FirstAxis> = { ...first }
  delete rest.held
  return { parameter, along, ...rest }
}

/** Vary another setting along an axis, from where it begins; what stops varying is held at `held`. If the new one runs
 * along the other axis, the two change places. */
export function changeParameter(
  design: Design,
  along: Along,
  parameter: string,
  first: FirstAxis,
  held: number,
): Design {
  const axis = axisAlong(design, along)
  if (!axis || axis.parameter === parameter) return design
  const hold = { ...design.hold, [axis.parameter]: held }
  delete hold[parameter]
  return {
    ...design,
    off: [],
    hold,
    axes: design.axes.map((other) => (other.along === along ? placed(first, parameter, along) : other)),
  }
}

/** Two axes change places. */
export function swapAxes(design: Design, along: Along, there: Along): Design {
  const swapped = design.axes.map((other) => {
    if (other.along === along) return unwrapped({ ...other, along: there })
    return other.along === there ? unwrapped({ ...other, along }) : other
  })
  return { ...design, off: [], overrides: {}, axes: inOrder(swapped) }
}

/** A list as one would type it: numbers in the person's unit, since that is how bare numbers are read back. */
export function listText(values: Axis['values'], unit: Unit | undefined): string {
  if (!Array.isArray(values)) return values ?? ''
  return values
    .map((value) => (typeof value === 'number' ? written(inUnit(value, unit), 6) : value))
    .join(' ')
}

export function toggleOff(design: Design, id: string): Design {
  const off = design.off.includes(id) ? design.off.filter((other) => other !== id) : [...design.off, id]
  return { ...design, off }
}

/** Typed texts replaced by the numbers they were understood as, taken from the planned trial. */
export function settled<T>(typed: T, planned: unknown): T {
  if (typeof typed === 'string') {
    return typeof planned === 'number' || Array.isArray(planned) ? (planned as T) : typed
  }
  if (Array.isArray(typed)) {
    const items: unknown[] = Array.isArray(planned) ? planned : []
    return typed.map((item: unknown, i) => settled(item, items[i])) as T
  }
  if (typeof typed === 'object' && typed !== null) {
    const other = isRecord(planned) ? planned : {}
    return Object.fromEntries(
      Object.entries(typed).map(([key, value]) => [key, settled(value, other[key])]),
    ) as T
  }
  return typed
}

type Planned = Pick<Patch, 'settings' | 'set_by_hand' | 'row' | 'column' | 'block'>

/** Which step of an axis a patch stands on, as far as its order goes. */
const STEP: Record<Along, (patch: Planned) => number> = {
  x: (patch) => patch.column,
  y: (patch) => patch.row,
  block_x: (patch) => patch.block ?? 0,
  block_y: (patch) => patch.block ?? 0,
}

/** The values along an axis of a planned plate, in their order; what was set by hand is no step of it. */
export function plannedValues(
  patches: Planned[],
  parameter: string,
  along: Along,
  wrapped = false,
): number[] {
  const step = wrapped ? (patch: Planned) => patch.row * 1e4 + patch.column : STEP[along]
  const values = new Set<number>()
  for (const patch of [...patches].sort((a, b) => step(a) - step(b))) {
    if (!patch.set_by_hand.includes(parameter)) values.add(patch.settings[parameter] ?? NaN)
  }
  return [...values]
}

/** Where one more setting could vary: up the plate first, then as blocks. */
export function nextAlong(design: Design): Along | null {
  return ORDER.find((along) => axisIndex(design, along) < 0) ?? null
}

/** Vary one more setting, from where it begins. */
export function addAxis(design: Design, along: Along, parameter: string, first: FirstAxis): Design {
  const hold = { ...design.hold }
  delete hold[parameter]
  const axes = [...design.axes.map(unwrapped), placed(first, parameter, along)]
  return { ...design, off: [], overrides: {}, hold, axes: inOrder(axes) }
}

/** Stop varying a setting: it is held. The last axis of a block moves to where an axis is needed. */
export function removeAxis(design: Design, along: Along, held: number): Design {
  const axis = axisAlong(design, along)
  const rest = design.axes.filter((other) => other.along !== along).map(unwrapped)
  if (!axis || !rest.some((other) => other.along === 'x' || other.along === 'y')) return design
  const hold = { ...design.hold, [axis.parameter]: held }
  return { ...design, off: [], overrides: {}, hold, axes: rest }
}

/** Whether an axis is a ladder that may go on in a new line. */
export function mayWrap(design: Design, along: Along): boolean {
  const beside = along === 'x' ? 'y' : along === 'block_x' ? 'block_y' : null
  return beside !== null && axisIndex(design, beside) < 0
}

/** A setting of one patch, set by hand; null gives it back to the axes. */
export function setByHand(design: Design, id: string, key: string, value: Typed): Design {
  const overrides = { ...design.overrides }
  const changed = { ...overrides[id] }
  if (value === null || value === undefined) delete changed[key]
  else changed[key] = value
  if (Object.keys(changed).length > 0) overrides[id] = changed
  else delete overrides[id]
  return { ...design, overrides }
}
