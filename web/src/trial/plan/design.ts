import type { Axis, Design, Head, Parameter, Patch, Unit } from '../../api/types'
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

/** One step more or less; a list loses its last value or gets one that goes on in the same way. */
export function addSteps(design: Design, along: Along, by: 1 | -1): Design {
  const axis = axisAlong(design, along)
  if (!axis) return design
  if (axis.values === undefined || axis.values === null) {
    return changeAxis(design, along, { count: Math.max(2, stepCount(axis) + by) })
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
      : { parameter, along, from: first, to: last, count: Math.max(2, planned.length), spacing }
  return { ...design, off: [], axes: inOrder([changed, ...rest]) }
}

interface Range {
  from: number
  to: number
  count: number
  spacing: 'linear' | 'geometric'
}

const FIRST_RANGES: Record<string, Range> = {
  passes: { from: 1, to: 4, count: 4, spacing: 'linear' },
  line_spacing_mm: { from: 0.06, to: 0.2, count: 6, spacing: 'linear' },
  hatch_angle_deg: { from: 0, to: 90, count: 4, spacing: 'linear' },
  hatch_turn_deg: { from: 0, to: 90, count: 4, spacing: 'linear' },
  focus_offset_mm: { from: -2, to: 2, count: 5, spacing: 'linear' },
  air_level: { from: 0, to: 1, count: 2, spacing: 'linear' },
  air_kpa: { from: 20, to: 100, count: 5, spacing: 'linear' },
  pierce_dwell_ms: { from: 0, to: 400, count: 5, spacing: 'linear' },
  corner_power_pct: { from: 10, to: 50, count: 5, spacing: 'linear' },
  step_down_mm: { from: 0, to: 1, count: 5, spacing: 'linear' },
  on_delay_us: { from: -100, to: 100, count: 5, spacing: 'linear' },
  off_delay_us: { from: -100, to: 100, count: 5, spacing: 'linear' },
}

/** Where a newly chosen setting begins to vary: around what was held, else across something sensible. */
export function firstRange(parameter: Parameter, held: Typed, head: Head): Range {
  if (parameter.key === 'frequency_khz' && head.machine_facts.frequency_khz) {
    const [low = 1, high = 100] = head.machine_facts.frequency_khz
    return { from: low, to: high, count: 5, spacing: 'geometric' }
  }
  const listed = FIRST_RANGES[parameter.key]
  if (listed) return listed
  const centre = typeof held === 'number' && held > 0 ? held : 10
  const highest =
    parameter.key === 'power_pct' ? head.machine_facts.max_power_pct : head.machine_facts.max_speed_mm_s
  return { from: centre / 2, to: Math.min(centre * 1.5, highest), count: 6, spacing: 'linear' }
}

/** The middle of what an axis covered, to hold a setting at when it stops varying. */
export function middle(planned: readonly number[]): number {
  return planned[Math.floor((planned.length - 1) / 2)] ?? 1
}

/** Vary another setting along an axis. The one that stops varying is held at its middle; if the new one runs
 * along the other axis, the two change places. */
export function changeParameter(
  design: Design,
  along: Along,
  parameter: Parameter,
  planned: readonly number[],
  head: Head,
): Design {
  const axis = axisAlong(design, along)
  if (!axis || axis.parameter === parameter.key) return design
  if (design.axes.some((other) => other.parameter === parameter.key)) {
    const there = design.axes.find((other) => other.parameter === parameter.key)?.along ?? along
    const swapped = design.axes.map((other) => {
      if (other.along === along) return unwrapped({ ...other, along: there })
      return other.along === there ? unwrapped({ ...other, along }) : other
    })
    return { ...design, off: [], overrides: {}, axes: inOrder(swapped) }
  }
  const hold = { ...design.hold, [axis.parameter]: middle(planned) }
  const held = hold[parameter.key]
  delete hold[parameter.key]
  const range = firstRange(parameter, held, head)
  return {
    ...design,
    off: [],
    hold,
    axes: design.axes.map((other) =>
      other.along === along ? { parameter: parameter.key, along, ...range } : other,
    ),
  }
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

const MOST_BLOCKS = 3

/** A range of few steps, for blocks; what is counted goes on by ones. */
function fewer(range: Range, parameter: Parameter): Range {
  const count = Math.min(range.count, MOST_BLOCKS)
  return parameter.quantity === 'count'
    ? { ...range, count, to: range.from + count - 1 }
    : { ...range, count }
}

/** Vary one more setting, around what it was held at. */
export function addAxis(design: Design, along: Along, parameter: Parameter, head: Head): Design {
  const hold = { ...design.hold }
  const held = hold[parameter.key]
  delete hold[parameter.key]
  const range = firstRange(parameter, held, head)
  const few = along.startsWith('block') ? fewer(range, parameter) : range
  const axes = [...design.axes.map(unwrapped), { parameter: parameter.key, along, ...few }]
  return { ...design, off: [], overrides: {}, hold, axes: inOrder(axes) }
}

/** Stop varying a setting: it is held at its middle. The last axis of a block moves to where an axis is needed. */
export function removeAxis(design: Design, along: Along, planned: readonly number[]): Design {
  const axis = axisAlong(design, along)
  const rest = design.axes.filter((other) => other.along !== along).map(unwrapped)
  if (!axis || !rest.some((other) => other.along === 'x' || other.along === 'y')) return design
  const hold = { ...design.hold, [axis.parameter]: middle(planned) }
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
