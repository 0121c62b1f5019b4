import type { Patch, Plate } from '../api/types'

/** A plate seen by one of its steps: each patch with what that step gives it. */

export interface Part {
  patch: string
  /** Which of its steps, from 0, round after round; 0 where there is one only. */
  step: number
}

/** What a part of a plate is: `B3`, or `B3/2` where a patch has several steps. */
export function partOf(name: string): Part {
  const [patch = name, step] = name.split('/')
  return { patch, step: step === undefined ? 0 : Number(step) - 1 }
}

const sum = (values: (number | null | undefined)[]) =>
  values.every((value) => value === null || value === undefined)
    ? null
    : values.reduce<number>((total, value) => total + (value ?? 0), 0)

/** Whether what is said of a patch is said of one of its steps: such a sentence begins with the part it is about. */
function isAbout(sentence: string, number: number, steps: number): boolean {
  const [, part] = /^[^:]*\/(\d+):/.exec(sentence) ?? []
  return part === undefined || (Number(part) - 1) % steps === number
}

/** A patch as one of its steps made it, with the dose of all rounds. */
function patchOfStep(patch: Patch, number: number, steps: number): Patch {
  const rounds = (patch.steps ?? []).filter((_, i) => i % steps === number)
  const last = rounds.at(-1)
  if (!last) return patch
  return {
    ...patch,
    settings: last.settings,
    dose_j_mm: sum(rounds.map((one) => one.dose_j_mm)),
    dose_j_mm2: sum(rounds.map((one) => one.dose_j_mm2)),
    corner_rise: last.corner_rise,
    corner_slowing_mm: last.corner_slowing_mm,
    set_by_hand: last.set_by_hand ?? [],
    figure: last.figure ?? patch.figure,
    mixed: rounds.some((one) => one.mixed),
    warnings: patch.warnings.filter(({ sentence }) => isAbout(sentence, number, steps)),
  }
}

/** How many steps a plate's trial has. */
export const stepCount = ({ trial }: Pick<Plate, 'trial'>) => Math.max(trial.steps?.length ?? 0, 1)

/** The plate as one of several steps: its settings, its axes, its figure; any other plate stays as it is. */
export function plateOfStep(plate: Plate, number: number): Plate {
  const steps = plate.trial.steps ?? []
  const step = steps[number]
  if (!step || (steps.length < 2 && !plate.patches[0]?.steps)) return step ? held(plate, step) : plate
  const own = plate.trial.axes.map((axis) => !axis.step || axis.step === step.name)
  return {
    ...held(plate, step),
    judged: number,
    trial: {
      ...plate.trial,
      process: step.process,
      hold: heldIn(step),
      axes: plate.trial.axes.filter((_, i) => own[i]),
    },
    drawing: { ...plate.drawing, axes: plate.drawing.axes.filter((_, i) => own[i]) },
    patches: plate.patches.map((patch) => patchOfStep(patch, number, steps.length)),
  }
}

const held = (plate: Plate, step: NonNullable<Plate['trial']['steps']>[number]): Plate => ({
  ...plate,
  trial: { ...plate.trial, process: step.process, hold: heldIn(step) },
})

/** What a step holds, with what its first set of lines says of itself. */
function heldIn({ hold, hatch }: NonNullable<Plate['trial']['steps']>[number]): Record<string, number> {
  const own = Object.entries(hatch?.[0] ?? {}).flatMap(([key, value]) =>
    value === null ? [] : [[key, value]],
  )
  return { ...hold, ...Object.fromEntries(own) }
}

/** Parts of a burn order that are of one step, as patches. */
export const patchesOfStep = (names: readonly string[], number: number, steps: number) =>
  names.map(partOf).filter((part) => part.step % steps === number)
