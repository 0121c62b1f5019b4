import type { Axis, Design, DesignStep, Process, ProcessKey } from '../../api/types'

/** Edits of a design of several steps. An editor sees one of them as a design of its own; nothing here knows of React. */

const OF_A_STEP = [
  'overrides',
  'dose_floor_j_mm',
  'dose_floor_j_mm2',
  'dose_ceiling_j_mm',
  'dose_ceiling_j_mm2',
  'starting_dose_j_mm',
  'starting_dose_j_mm2',
] as const

export const stepsOf = (design: Design): DesignStep[] => design.steps ?? []

const isOwn = (axis: Axis, step: DesignStep) => !axis.step || axis.step === step.name

function without<T extends object, K extends keyof T>(value: T, keys: readonly K[]): Omit<T, K> {
  const rest = { ...value }
  for (const key of keys) delete rest[key]
  return rest
}

/** What an editor of one step sees: its held settings, its axes, its limits. */
export function designOfStep(design: Design, number: number): Design {
  const step = stepsOf(design)[number]
  if (!step) return design
  const own: Partial<Design> = {}
  for (const key of OF_A_STEP) if (step[key] !== undefined) Object.assign(own, { [key]: step[key] })
  return {
    ...without(design, OF_A_STEP),
    ...own,
    hold: step.hold,
    axes: design.axes.filter((axis) => isOwn(axis, step)).map((axis) => without(axis, ['step'])),
  }
}

/** Steps that vary along one direction take equally many values: who adds one adds it to all of them. */
function inStep(axis: Axis, changed: readonly Axis[]): Axis {
  const beside = changed.find((other) => other.along === axis.along)
  if (!beside || axis.values || beside.values || beside.count === undefined) return axis
  return beside.count === axis.count ? axis : { ...axis, count: beside.count }
}

/** A value with some parts of it as they are now; itself where that changes nothing, so that who shows it need not draw
 * it again. */
function changed<T extends object>(value: T, parts: Partial<T>): T {
  const after = { ...value, ...parts }
  return Object.keys(after).every((key) => after[key as keyof T] === value[key as keyof T]) ? value : after
}

/** A design with one of its steps as an editor left it. */
export function withStep(design: Design, number: number, edited: Design): Design {
  const step = stepsOf(design)[number]
  if (!step) return edited
  const own: Partial<DesignStep> = {}
  for (const key of OF_A_STEP) Object.assign(own, { [key]: edited[key] })
  const named = (edited.steps ?? [])[number] ?? step
  const steps = stepsOf(edited).map((one, i) =>
    i === number ? changed(named, { ...own, hold: edited.hold }) : one,
  )
  const others = design.axes.filter((axis) => !isOwn(axis, step)).map((axis) => inStep(axis, edited.axes))
  const axes = [...others, ...edited.axes.map((axis) => ({ ...axis, step: named.name }))]
  return { ...without(edited, OF_A_STEP), hold: {}, steps, axes: inPlace(axes, steps) }
}

/** Axes step after step. */
const inPlace = (axes: Axis[], steps: readonly DesignStep[]) =>
  [...axes].sort(
    (a, b) => steps.findIndex(({ name }) => name === a.step) - steps.findIndex(({ name }) => name === b.step),
  )

/** The complaints about a design as an editor of one of its steps reads them. */
export function errorsOfStep(
  errors: ReadonlyMap<string, string>,
  design: Design,
  number: number,
): ReadonlyMap<string, string> {
  const step = stepsOf(design)[number]
  if (!step || errors.size === 0) return errors
  const places = new Map<number, number>()
  design.axes.forEach((axis, i) => isOwn(axis, step) && places.set(i, places.size))
  const mapped = new Map<string, string>()
  for (const [path, sentence] of errors) {
    const [, at, rest = ''] = /^axes\[(\d+)\](.*)$/.exec(path) ?? []
    const mine = `steps[${number}].`
    if (at !== undefined) {
      const own = places.get(Number(at))
      if (own !== undefined) mapped.set(`axes[${own}]${rest}`, sentence)
    } else mapped.set(path.startsWith(mine) ? path.slice(mine.length) : path, sentence)
  }
  return mapped
}

/** Which step a complaint is about; null where it is about none. */
export function stepOfPath(path: string, design: Design): number | null {
  const [, number] = /^steps\[(\d+)\]/.exec(path) ?? []
  if (number !== undefined) return Number(number)
  const [, at] = /^axes\[(\d+)\]/.exec(path) ?? []
  if (at === undefined) return null
  const name = design.axes[Number(at)]?.step
  const found = stepsOf(design).findIndex((step) => step.name === name)
  return found < 0 ? null : found
}

/** A name no other step has. */
export function freeName(name: string, steps: readonly DesignStep[]): string {
  const taken = new Set(steps.map((step) => step.name))
  let count = 2
  if (!taken.has(name)) return name
  while (taken.has(`${name} ${count}`)) count += 1
  return `${name} ${count}`
}

/** A design of one process as one of a single step. */
export function asSteps(design: Design, process: Pick<Process, 'key' | 'name'>): Design {
  if (stepsOf(design).length > 0) return design
  const name = process.name.toLowerCase()
  const step: DesignStep = { name, process: process.key, hold: design.hold }
  for (const key of OF_A_STEP) if (design[key] !== undefined) Object.assign(step, { [key]: design[key] })
  return {
    ...without(design, OF_A_STEP),
    hold: {},
    steps: [step],
    axes: design.axes.map((axis) => ({ ...axis, step: name })),
  }
}

/** Whether a step says no more than its process, what it holds and its limits. */
const isPlain = ({ part, hatch, one_way, inset_mm, text }: DesignStep) =>
  part !== 'both' && !hatch && !one_way && [null, undefined, 0, '0'].includes(inset_mm) && !text

/** A design of one plain step as one of its process: what it was before it had a second. */
export function asPlain(design: Design): Design {
  const [step, ...others] = stepsOf(design)
  if (!step || others.length > 0 || !isPlain(step) || Number(design.rounds ?? 1) > 1) return design
  return without(designOfStep(design, 0), ['steps', 'rounds', 'steps_order'])
}

/** One more step at the end. */
export function addStep(design: Design, step: DesignStep): Design {
  const steps = stepsOf(design)
  return { ...design, off: [], steps: [...steps, { ...step, name: freeName(step.name, steps) }] }
}

/** Without a step and what it varied; the last axis along x or y has to stay. */
export function removeStep(design: Design, number: number): Design {
  const step = stepsOf(design)[number]
  if (!step) return design
  const axes = design.axes.filter((axis) => axis.step !== step.name)
  if (!axes.some((axis) => axis.along === 'x' || axis.along === 'y')) return design
  const steps = stepsOf(design).filter((_, i) => i !== number)
  return asPlain({ ...design, off: [], steps, axes })
}

/** Whether a step can go: something inside a block still varies without it, and one of the trial's own process stays. */
export function canGo(design: Design, number: number, process: ProcessKey): boolean {
  const steps = stepsOf(design)
  return (
    steps.some((step, i) => i !== number && step.process === process) && removeStep(design, number) !== design
  )
}

/** A step one place earlier or later. */
export function moveStep(design: Design, number: number, by: 1 | -1): Design {
  const steps = [...stepsOf(design)]
  const [step] = steps.splice(number, 1)
  if (!step || number + by < 0 || number + by > steps.length) return design
  steps.splice(number + by, 0, step)
  return { ...design, steps, axes: inPlace(design.axes, steps) }
}

/** Changes what a step says of itself; its axes keep to its name. */
export function changeStep(design: Design, number: number, change: Partial<DesignStep>): Design {
  const step = stepsOf(design)[number]
  if (!step) return design
  const name = change.name ?? step.name
  return {
    ...design,
    steps: stepsOf(design).map((one, i) => (i === number ? { ...one, ...change } : one)),
    axes: design.axes.map((axis) => (axis.step === step.name ? { ...axis, step: name } : axis)),
  }
}

/** How a step goes over its figure, in a few words; nothing where that is as usual. */
export function wayWords(step: DesignStep): string {
  const words = []
  if (step.part === 'both') words.push('with its outline')
  if (step.hatch && step.hatch.length > 1) words.push(`${step.hatch.length} sets of lines`)
  if (step.one_way) words.push('one way')
  if (step.inset_mm && step.inset_mm !== '0') words.push(`${step.inset_mm} mm inside`)
  if (step.text) words.push(`“${step.text}”`)
  return words.join(', ')
}
