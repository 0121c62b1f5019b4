import { describe, expect, it } from 'vitest'
import type { Design, Plate } from '../src/api/types'
import { partOf, patchesOfStep, plateOfStep } from '../src/plate/ofStep'
import { patchStates } from '../src/trial/burn/liveRun'
import {
  addStep,
  asPlain,
  asSteps,
  canGo,
  changeStep,
  designOfStep,
  errorsOfStep,
  moveStep,
  removeStep,
  stepOfPath,
  wayWords,
  withStep,
} from '../src/trial/plan/steps'

const cutting = {
  title: '',
  hold: { power_pct: 60 },
  axes: [{ parameter: 'speed_mm_s', along: 'x', from: 10, to: 30, count: 3 }],
  overrides: { A1: { speed_mm_s: 12 } },
  starting_dose_j_mm: 2,
  dose_ceiling_j_mm: 9,
  off: ['A2'],
  order: 'rows',
} as unknown as Design
const mark = { name: 'engrave', process: 'area' as const, hold: { speed_mm_s: 200, power_pct: 20 } }
const both = () => addStep(asSteps(cutting, { key: 'cut', name: 'Cut' }), mark)

describe('a design of several steps', () => {
  it('begins as one of its process, and is that again when the others go', () => {
    const steps = both()
    expect(steps.hold).toEqual({})
    expect(steps.steps?.map(({ name }) => name)).toEqual(['cut', 'engrave'])
    expect(steps.axes[0]?.step).toBe('cut')
    expect(removeStep(steps, 1)).toEqual({ ...cutting, off: [] })
  })

  it('is edited step by step, and nothing of another step moves', () => {
    const steps = both()
    const seen = designOfStep(steps, 0)
    expect([seen.hold, seen.axes, seen.starting_dose_j_mm]).toEqual([cutting.hold, cutting.axes, 2])
    expect(designOfStep(steps, 1).axes).toEqual([])
    expect(designOfStep(steps, 1).starting_dose_j_mm).toBeUndefined()
    const edited = withStep(steps, 1, {
      ...designOfStep(steps, 1),
      hold: { ...mark.hold, power_pct: 30 },
      axes: [{ parameter: 'passes', along: 'y', values: [1, 2] }],
    })
    expect(designOfStep(edited, 0)).toEqual(
      designOfStep({ ...steps, steps: edited.steps, axes: edited.axes }, 0),
    )
    expect(edited.steps?.[1]?.hold.power_pct).toBe(30)
    expect(edited.axes.map(({ step }) => step)).toEqual(['cut', 'engrave'])
    expect(withStep(edited, 0, designOfStep(edited, 0))).toEqual(edited)
  })

  it('keeps as many values in all steps that vary along one direction', () => {
    const steps = withStep(both(), 1, {
      ...designOfStep(both(), 1),
      axes: [{ parameter: 'speed_mm_s', along: 'x', from: 100, to: 300, count: 3 }],
    })
    const seen = designOfStep(steps, 1)
    const more = withStep(steps, 1, { ...seen, axes: seen.axes.map((axis) => ({ ...axis, count: 4 })) })
    expect(more.axes.map(({ count }) => count)).toEqual([4, 4])
  })

  it('puts a complaint where its step is edited', () => {
    const steps = withStep(both(), 1, {
      ...designOfStep(both(), 1),
      axes: [{ parameter: 'passes', along: 'y', values: [1, 2] }],
    })
    const errors = new Map([
      ['steps[1].hold.power_pct', 'too much'],
      ['axes[1].values', 'what'],
      ['axes[0].to', 'far'],
      ['patch.width_mm', 'wide'],
    ])
    expect([...errorsOfStep(errors, steps, 1)]).toEqual([
      ['hold.power_pct', 'too much'],
      ['axes[0].values', 'what'],
      ['patch.width_mm', 'wide'],
    ])
    expect([...errors.keys()].map((path) => stepOfPath(path, steps))).toEqual([1, 1, 0, null])
  })

  it('moves, names and keeps its steps', () => {
    const steps = both()
    expect(moveStep(steps, 1, -1).steps?.map(({ name }) => name)).toEqual(['engrave', 'cut'])
    expect(moveStep(steps, 0, -1)).toBe(steps)
    const named = changeStep(steps, 0, { name: 'rim' })
    expect([named.steps?.[0]?.name, named.axes[0]?.step]).toEqual(['rim', 'rim'])
    expect(addStep(steps, mark).steps?.[2]?.name).toBe('engrave 2')
    // The only step that varies, and the only one of the trial's own process, has to stay.
    expect([canGo(steps, 0, 'cut'), canGo(steps, 1, 'cut')]).toEqual([false, true])
  })

  it('stays a list of one step as long as that says more than its process', () => {
    const one = changeStep(asSteps(cutting, { key: 'cut', name: 'Cut' }), 0, { inset_mm: '1 mm' })
    expect(asPlain(one)).toBe(one)
    expect(asPlain(changeStep(one, 0, { inset_mm: null })).steps).toBeUndefined()
    expect(wayWords({ ...mark, part: 'both', one_way: true, inset_mm: 2 })).toBe(
      'with its outline, one way, 2 mm inside',
    )
  })
})

describe('a plate of several steps', () => {
  const step = (process: string, speed: number, more = {}) => ({
    process,
    settings: { speed_mm_s: speed },
    seconds: 1,
    corner_rise: 1,
    corner_slowing_mm: 0,
    ...more,
  })
  const plate = {
    judged: 0,
    trial: {
      axes: [
        { parameter: 'speed_mm_s', along: 'x', step: 'bulk' },
        { parameter: 'passes', along: 'y', step: 'clean' },
      ],
      steps: [
        { name: 'bulk', process: 'deep', hold: { power_pct: 60 } },
        { name: 'clean', process: 'area', hold: {} },
      ],
      rounds: 2,
    },
    drawing: { axes: [[1], [2]] },
    patches: [
      {
        id: 'A1',
        figure: 'patch',
        warnings: [
          { sentence: 'A1/1: may catch fire' },
          { sentence: 'A1/4: is too fast' },
          { sentence: 'lies outside: look' },
        ],
        steps: [
          step('deep', 100, { dose_j_mm2: 2 }),
          step('area', 300, { dose_j_mm2: 1, figure: 'patch-2' }),
          step('deep', 100, { dose_j_mm2: 2.5, mixed: true }),
          step('area', 300, { dose_j_mm2: 1, figure: 'patch-2' }),
        ],
      },
    ],
  } as unknown as Plate

  it('is seen by one of them, with the dose of all rounds', () => {
    const [bulk, clean] = [plateOfStep(plate, 0), plateOfStep(plate, 1)]
    expect([bulk.patches[0]?.dose_j_mm2, bulk.patches[0]?.mixed, bulk.patches[0]?.figure]).toEqual([
      4.5,
      true,
      'patch',
    ])
    expect([clean.patches[0]?.settings.speed_mm_s, clean.patches[0]?.figure]).toEqual([300, 'patch-2'])
    expect([clean.trial.axes.map((axis) => axis.parameter), clean.drawing.axes]).toEqual([['passes'], [[2]]])
    expect(clean.trial.process).toBe('area')
    const said = (seen: Plate) => seen.patches[0]?.warnings.map(({ sentence }) => sentence.slice(0, 4))
    expect([said(bulk), said(clean)]).toEqual([
      ['A1/1', 'lies'],
      ['A1/4', 'lies'],
    ])
  })

  it('calls its parts by patch and step', () => {
    expect(partOf('2-B3/4')).toEqual({ patch: '2-B3', step: 3 })
    expect(partOf('B3')).toEqual({ patch: 'B3', step: 0 })
    const names = ['A1/1', 'A2/1', 'A1/2', 'A1/3']
    expect(patchesOfStep(names, 0, 2).map(({ patch }) => patch)).toEqual(['A1', 'A2', 'A1'])
  })

  it('is burned when all its steps are', () => {
    const names = ['A1/1', 'A2/1', 'A1/2', 'A2/2']
    const part = (name: string, state: string) => ({ name, kind: 'patch', state })
    const runs = [
      {
        kind: 'whole',
        lines: [],
        parts: [part('A1/1', 'done'), part('A2/1', 'done'), part('A1/2', 'done'), part('A2/2', 'waiting')],
      },
    ] as unknown as Parameters<typeof patchStates>[1]
    expect(Object.fromEntries(patchStates(names, runs, [], true, null))).toEqual({ A1: 'done', A2: 'begun' })
    expect(patchStates(names, runs, ['A1'], true, null).get('A1')).toBe('bare')
  })
})
