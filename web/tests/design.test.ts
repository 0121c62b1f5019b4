import { describe, expect, it } from 'vitest'
import {
  addSteps,
  axisAlong,
  changeParameter,
  changeSpacing,
  firstRange,
  listText,
  fittingParameters,
  middle,
  plannedValues,
  settled,
  stepCount,
  toggleOff,
} from '../src/trial/plan/design'
import {
  air,
  area,
  cut,
  design,
  focus,
  frequency,
  parameter,
  passes,
  power,
  sixPatches,
  speed,
  wren,
} from './made'

describe('steps', () => {
  it('adds and removes one, but keeps two', () => {
    expect(stepCount(axisAlong(addSteps(design(), 'x', 1), 'x')!)).toBe(5)
    let small = design()
    for (let i = 0; i < 9; i++) small = addSteps(small, 'x', -1)
    expect(stepCount(axisAlong(small, 'x')!)).toBe(2)
  })

  it('lets a list go on as it went', () => {
    const listed = changeSpacing(design(), 'x', 'list', [8, 16, 24])
    expect(axisAlong(addSteps(listed, 'x', 1), 'x')?.values).toEqual([8, 16, 24, 32])
    expect(axisAlong(addSteps(listed, 'x', -1), 'x')?.values).toEqual([8, 16])
  })

  it('never lets a list run below zero', () => {
    const listed = changeSpacing(design(), 'x', 'list', [30, 10])
    expect(axisAlong(addSteps(listed, 'x', 1), 'x')?.values).toEqual([30, 10, 5])
  })

  it('puts patches that were left out back in when the grid changes', () => {
    expect(addSteps(design({ off: ['B2'] }), 'x', 1).off).toEqual([])
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
    })
  })
})

describe('changing what varies', () => {
  it('holds the setting that stops varying at its middle', () => {
    const changed = changeParameter(design(), 'x', passes, [8, 16, 24, 32], wren)
    expect(changed.hold.speed_mm_s).toBe(16)
    expect(axisAlong(changed, 'x')).toMatchObject({ parameter: 'passes', from: 1, to: 4, count: 4 })
    expect(changed.hold).not.toHaveProperty('passes')
  })

  it('begins around the value that was held', () => {
    const held = design({
      hold: { speed_mm_s: 40 },
      axes: [{ parameter: 'passes', along: 'x', values: [1, 2] }],
    })
    expect(axisAlong(changeParameter(held, 'x', speed, [1, 2], wren), 'x')).toMatchObject({
      from: 20,
      to: 60,
    })
  })

  it('swaps the axes where the new one varies already', () => {
    const swapped = changeParameter(design(), 'x', power, [8, 16, 24, 32], wren)
    expect(axisAlong(swapped, 'x')?.parameter).toBe('power_pct')
    expect(axisAlong(swapped, 'y')?.parameter).toBe('speed_mm_s')
    expect(swapped.hold).toEqual({ air_level: 1 })
  })

  it('stays within the machine', () => {
    expect(firstRange(speed, 480, wren).to).toBe(500)
    expect(firstRange(power, 80, wren).to).toBe(85)
    const heron = { ...wren, machine_facts: { ...wren.machine_facts, frequency_khz: [20, 400] } }
    expect(firstRange(frequency, undefined, heron)).toMatchObject({ from: 20, to: 400, spacing: 'geometric' })
  })

  it('offers only what machine and process have', () => {
    const hatch = parameter('line_spacing_mm', { processes: ['area'] })
    const pressure = parameter('air_kpa')
    const all = [speed, power, passes, air, focus, frequency, hatch, pressure]
    expect(fittingParameters(all, cut, wren)).toEqual([speed, power, passes, air, focus])
    expect(fittingParameters(all, area, wren)).toContain(hatch)
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

  it('finds the middle', () => {
    expect(middle([1, 2, 3])).toBe(2)
    expect(middle([1, 2, 3, 4])).toBe(2)
    expect(middle([])).toBe(1)
  })
})
