import { describe, expect, it } from 'vitest'
import {
  addAxis,
  addSteps,
  axisAlong,
  changeParameter,
  changeSpacing,
  listText,
  mayWrap,
  nextAlong,
  plannedValues,
  removeAxis,
  setByHand,
  settled,
  stepCount,
  swapAxes,
  toggleOff,
} from '../src/trial/plan/design'
import { fieldName } from '../src/trial/plan/fieldNames'
import { air, design, passes, power, sixPatches, speed } from './made'

const counted = { from: 1, to: 4, count: 4, spacing: 'linear' as const, held: 1 }

describe('steps', () => {
  it('adds and removes one, but keeps two', () => {
    expect(stepCount(axisAlong(addSteps(design(), 'x', 1, speed), 'x')!)).toBe(5)
    let small = design()
    for (let i = 0; i < 9; i++) small = addSteps(small, 'x', -1, speed)
    expect(stepCount(axisAlong(small, 'x')!)).toBe(2)
  })

  it('lets a list go on as it went', () => {
    const listed = changeSpacing(design(), 'x', 'list', [8, 16, 24])
    expect(axisAlong(addSteps(listed, 'x', 1, speed), 'x')?.values).toEqual([8, 16, 24, 32])
    expect(axisAlong(addSteps(listed, 'x', -1, speed), 'x')?.values).toEqual([8, 16])
  })

  it('never lets a list run below zero', () => {
    const listed = changeSpacing(design(), 'x', 'list', [30, 10])
    expect(axisAlong(addSteps(listed, 'x', 1, speed), 'x')?.values).toEqual([30, 10, 5])
  })

  it('counts on by ones where steps are whole, as far as there are levels', () => {
    const whole = (parameter: string, from: number, to: number, count: number) =>
      design({ axes: [{ parameter, along: 'x', from, to, count, spacing: 'linear' }] })
    const more = addSteps(whole('passes', 1, 4, 4), 'x', 1, passes)
    expect(axisAlong(more, 'x')).toMatchObject({ from: 1, to: 5, count: 5 })
    expect(axisAlong(addSteps(whole('passes', 4, 1, 4), 'x', 1, passes), 'x')?.count).toBe(4)
    // A smaller end typed before leaves steps too many: taking one away never moves it.
    expect(addSteps(whole('passes', 1, 2, 4), 'x', -1, passes).axes[0]).toMatchObject({ to: 2, count: 3 })
    const onOff = { ...air, words: ['off', 'on'] }
    expect(addSteps(whole('air_level', 0, 1, 2), 'x', 1, onOff).axes[0]).toMatchObject({ to: 1, count: 2 })
    expect(addSteps(whole('air_level', 0, 1, 2), 'x', 1, air).axes[0]).toMatchObject({ to: 2, count: 3 })
  })

  it('puts patches that were left out back in when the grid changes', () => {
    expect(addSteps(design({ off: ['B2'] }), 'x', 1, speed).off).toEqual([])
  })
})

describe('spacing', () => {
  it('carries the values over to a list and back', () => {
    const listed = changeSpacing(design(), 'y', 'list', [30, 55, 80])
    expect(axisAlong(listed, 'y')).toEqual({ parameter: 'power_pct', along: 'y', values: [30, 55, 80] })
    const back = changeSpacing(listed, 'y', 'geometric', [30, 55, 80])
    expect(axisAlong(back, 'y')).toEqual({
      parameter: 'power_pct',
      along: 'y',
      from: 30,
      to: 80,
      count: 3,
      spacing: 'geometric',
      round: true,
    })
  })
})

describe('changing what varies', () => {
  it('holds the setting that stops varying at what is known of it', () => {
    const changed = changeParameter(design({ hold: { air_level: 1, passes: 2 } }), 'x', 'passes', counted, 17)
    expect(changed.hold).toEqual({ air_level: 1, speed_mm_s: 17 })
    expect(axisAlong(changed, 'x')).toEqual({
      parameter: 'passes',
      along: 'x',
      from: 1,
      to: 4,
      count: 4,
      spacing: 'linear',
    })
  })

  it('swaps the axes where the new one varies already', () => {
    const swapped = swapAxes(design(), 'x', 'y')
    expect(axisAlong(swapped, 'x')?.parameter).toBe('power_pct')
    expect(axisAlong(swapped, 'y')?.parameter).toBe('speed_mm_s')
    expect(swapped.hold).toEqual({ air_level: 1 })
  })
})

describe('settling', () => {
  it('takes the number each text was understood as', () => {
    const typed = design({ hold: { air_level: '1' } })
    typed.axes[0]!.from = '600 mm/min'
    const trial = { hold: { air_level: 1 }, axes: [{ from: 10, to: 32 }, {}] }
    const done = settled(typed, trial)
    expect(done.axes[0]!.from).toBe(10)
    expect(done.hold.air_level).toBe(1)
    expect(done.title).toBe('')
  })

  it('leaves alone what the plan does not know', () => {
    const typed = design({ patch: { shape: 'rectangle', width_mm: 'wide', height_mm: 10, gap_mm: 3 } })
    expect(settled(typed, {}).patch.width_mm).toBe('wide')
  })

  it('turns a typed list into its values', () => {
    const axes = [{ parameter: 'speed_mm_s', along: 'x' as const, values: '8 12' }]
    expect(settled(design({ axes }), { axes: [{ values: [8, 12] }] }).axes[0]!.values).toEqual([8, 12])
  })
})

describe('lists', () => {
  it('are shown in the unit in which bare numbers are read back', () => {
    const perMinute = { symbol: 'mm/min', factor: 1 / 60, inverse: false }
    expect(listText([8, 12.5], perMinute)).toBe('480 750')
    expect(listText([0.1], { symbol: 'DPI', factor: 25.4, inverse: true })).toBe('254')
    expect(listText([8, 12.5], undefined)).toBe('8 12.5')
  })

  it('stay as typed until they are understood', () => {
    expect(listText('8; 12 mm/s', undefined)).toBe('8; 12 mm/s')
    expect(listText(null, undefined)).toBe('')
  })
})

describe('small things', () => {
  it('leaves patches out and takes them in again', () => {
    const out = toggleOff(design(), 'B2')
    expect(out.off).toEqual(['B2'])
    expect(toggleOff(out, 'B2').off).toEqual([])
  })

  it('reads the values along an axis off the plate', () => {
    expect(plannedValues(sixPatches, 'speed_mm_s', 'x')).toEqual([8, 16, 24])
    expect(plannedValues(sixPatches, 'power_pct', 'y')).toEqual([30, 55])
  })
})

describe('more settings than two', () => {
  it('finds the next edge: along, up, blocks across, blocks up', () => {
    expect(nextAlong(design())).toBe('block_x')
    const three = addAxis(design(), 'block_x', 'passes', counted)
    expect(nextAlong(three)).toBe('block_y')
    expect(nextAlong(addAxis(three, 'block_y', 'focus_offset_mm', counted))).toBeNull()
  })
  it('no longer holds what varies', () => {
    const held = design({ hold: { air_level: 1, passes: 1 } })
    const three = addAxis(held, 'block_x', 'passes', counted)
    expect(three.hold).toEqual({ air_level: 1 })
    expect(three.axes[2]).toMatchObject({ parameter: 'passes', along: 'block_x', from: 1, to: 4, count: 4 })
  })
  it('holds what stops varying, and keeps one axis within the block', () => {
    const ladder = removeAxis(design(), 'y', 55)
    expect(ladder.hold.power_pct).toBe(55)
    expect(ladder.axes.map((axis) => axis.along)).toEqual(['x'])
    expect(removeAxis(ladder, 'x', 8)).toBe(ladder)
  })
  it('lets only ladders wrap, and unwraps what is no longer one', () => {
    expect(mayWrap(design(), 'x')).toBe(false)
    const ladder = removeAxis(design(), 'y', 55)
    expect(mayWrap(ladder, 'x')).toBe(true)
    const wrapped = { ...ladder, axes: ladder.axes.map((axis) => ({ ...axis, wrap: 2 })) }
    expect(addAxis(wrapped, 'y', 'power_pct', counted).axes[0]).not.toHaveProperty('wrap')
  })
  it('swaps places across blocks', () => {
    const three = addAxis(design(), 'block_x', 'passes', counted)
    const swapped = swapAxes(three, 'block_x', 'x')
    expect(swapped.axes.map((axis) => [axis.along, axis.parameter])).toEqual([
      ['x', 'passes'],
      ['y', 'power_pct'],
      ['block_x', 'speed_mm_s'],
    ])
  })
})

describe('one patch by hand', () => {
  it('is set, and given back to the axes', () => {
    const set = setByHand(design(), 'B2', 'power_pct', '66')
    expect(set.overrides).toEqual({ B2: { power_pct: '66' } })
    expect(setByHand(set, 'B2', 'power_pct', null).overrides).toEqual({})
  })
  it('does not count as a value of its axis', () => {
    const patches = sixPatches.map((one) =>
      one.id === 'A2'
        ? { ...one, settings: { ...one.settings, speed_mm_s: 99 }, set_by_hand: ['speed_mm_s'] }
        : one,
    )
    expect(plannedValues(patches, 'speed_mm_s', 'x')).toEqual([8, 16, 24])
  })
})

describe('names of fields', () => {
  const names = {
    parameters: [speed, power],
    design_keys: [
      { key: 'patch', name: 'patches', kind: 'object', unit: '' },
      { key: 'cut_settings', name: 'cuts of the plate', kind: 'settings', unit: '' },
      { key: 'hang_hole_mm', name: 'hang hole', kind: 'number', unit: 'mm' },
    ],
  } as Parameters<typeof fieldName>[2]

  it('are those of the screen, not those of the file', () => {
    const said = (path: string) => fieldName(path, design(), names)
    expect(said('axes[1].from')).toBe('power')
    expect(said('axes')).toBe('axes')
    expect(said('hold.speed_mm_s')).toBe('speed')
    expect(said('patch.width_mm')).toBe('patches')
    expect(said('cut_settings.power_pct')).toBe('cuts of the plate, power')
    expect(said('hang_hole_mm')).toBe('hang hole')
  })
})
