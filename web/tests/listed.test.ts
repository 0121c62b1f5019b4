import { describe, expect, it } from 'vitest'
import type { Design } from '../src/api/types'
import { variedKeys } from '../src/plate/varied'
import {
  addOwn,
  asList,
  dropOwn,
  ownKeys,
  pasteCells,
  removeRow,
  repeatAll,
  repeatRow,
  setRow,
} from '../src/trial/plan/listed'

const DESIGN: Design = {
  title: '',
  hold: { power_pct: 60, passes: 1 },
  axes: [],
  listed: { settings: [{ speed_mm_s: 12 }, { speed_mm_s: 16 }], wrap: 3 },
  patch: { shape: 'rectangle', width_mm: 8, height_mm: 8, gap_mm: 3 },
  labels: { on: false, qr: false, marks: false, height_mm: 2, settings: {} },
  order: 'rows',
  off: ['A1'],
}
const rows = (design: Design) => design.listed?.settings

describe('settings one by one', () => {
  it('come from an array as it lies, without what was left out', () => {
    const grid: Design = {
      ...DESIGN,
      listed: null,
      axes: [{ parameter: 'speed_mm_s', along: 'x', values: [10, 20, 30] }],
    }
    const patches = [10, 20, 30].map((speed, i) => ({
      settings: { speed_mm_s: speed, power_pct: 60 },
      burn: i !== 1,
      column: i + 1,
      block: null,
    }))
    expect(asList(grid, patches)).toMatchObject({
      axes: [],
      off: [],
      listed: { settings: [{ speed_mm_s: 10 }, { speed_mm_s: 30 }], wrap: 3 },
    })
  })
  it('are typed, repeated and taken off; the last stays', () => {
    expect(rows(setRow(DESIGN, 1, 'speed_mm_s', '900 mm/min'))?.[1]).toEqual({ speed_mm_s: '900 mm/min' })
    expect(rows(repeatRow(DESIGN, 0))).toEqual([{ speed_mm_s: 12 }, { speed_mm_s: 12 }, { speed_mm_s: 16 }])
    expect(rows(repeatAll(DESIGN))).toEqual([12, 16, 12, 16].map((speed_mm_s) => ({ speed_mm_s })))
    const one = removeRow(DESIGN, 0)
    expect(rows(one)).toEqual([{ speed_mm_s: 16 }])
    expect(removeRow(one, 0)).toBe(one)
  })
  it('take another setting from what was held, and give it back as the first has it', () => {
    const both = addOwn(DESIGN, 'passes', DESIGN.hold.passes)
    expect(rows(both)?.[1]).toEqual({ speed_mm_s: 16, passes: 1 })
    expect(both.hold).toEqual({ power_pct: 60 })
    const held = dropOwn(setRow(both, 0, 'passes', 2), 'passes')
    expect(held.hold).toEqual({ power_pct: 60, passes: 2 })
    expect(ownKeys(held)).toEqual(['speed_mm_s'])
    expect(dropOwn(held, 'speed_mm_s')).toBe(held)
  })
  it('are pasted from a sheet, from one cell on, with as many patches as it takes', () => {
    const both = addOwn(DESIGN, 'passes', 1)
    expect(rows(pasteCells(both, '14\t2\r\n28\t2\r\n9;3\n', 1, 'speed_mm_s'))).toEqual([
      { speed_mm_s: 12, passes: 1 },
      { speed_mm_s: '14', passes: '2' },
      { speed_mm_s: '28', passes: '2' },
      { speed_mm_s: '9', passes: '3' },
    ])
    // What is empty or beyond the last setting changes nothing.
    expect(rows(pasteCells(both, '\t2\t7', 0, 'speed_mm_s'))?.[0]).toEqual({ speed_mm_s: 12, passes: '2' })
  })
})

describe('what tells patches apart', () => {
  it('is what varies, or what differs in a list', () => {
    const axes = [{ parameter: 'speed_mm_s', along: 'x' as const, values: [1, 2] }]
    expect(variedKeys({ axes: axes as never })).toEqual(['speed_mm_s'])
    const settings = [
      { speed_mm_s: 12, power_pct: 60 },
      { speed_mm_s: 14, power_pct: 60 },
    ]
    expect(variedKeys({ axes: [], listed: { settings, wrap: 6 } })).toEqual(['speed_mm_s'])
    const same = [{ speed_mm_s: 12 }, { speed_mm_s: 12 }]
    expect(variedKeys({ axes: [], listed: { settings: same, wrap: 6 } })).toEqual(['speed_mm_s'])
  })
})
