import { describe, expect, it } from 'vitest'
import type { Burn, Patch, Photo, PhotoScore, Plate, Reading } from '../src/api/types'
import { alike, asShade } from '../src/shared/shades'
import {
  conditionsOf,
  difference,
  heldApart,
  matched,
  readSides,
  signed,
  variedOn,
  writeSides,
} from '../src/compare/sides'
import { UNREAD } from '../src/trial/read/scoring'
import { agreed, inHundred, isOverruled, nextWanted, wantEye } from '../src/trial/read/suggestions'
import { area as MARK, cut as CUT, ofCuts, ofMarks } from './made'

const said = (more: Partial<PhotoScore>): PhotoScore => ({
  patch: 'A1',
  values: { through: 2 },
  confidence: 0.8,
  sure: false,
  ...more,
})
const patch = (id: string, x_mm: number, settings: Record<string, number>): Patch =>
  ({ id, x_mm, y_mm: 5, width_mm: 8, height_mm: 8, burn: true, settings }) as unknown as Patch
const plate = (patches: Patch[], axes: string[], marks: unknown[] = []): Plate =>
  ({
    patches,
    marks,
    plate: { width_mm: 60, height_mm: 40 },
    trial: { axes: axes.map((parameter) => ({ parameter })) },
  }) as unknown as Plate

describe('the photos have spoken', () => {
  const photos = new Map([
    ['A1', said({ patch: 'A1', confidence: 0.95 })],
    ['A2', said({ patch: 'A2', confidence: 0.55 })],
    ['B1', said({ patch: 'B1', confidence: 0.7 })],
  ])
  const order = ['A1', 'A2', 'B1', 'B2']

  it('wants an eye on the least sure first, and last on what no photo shows', () => {
    expect(wantEye(order, (id) => id === 'A1', photos)).toEqual(['A2', 'B1', 'B2'])
    expect(wantEye(order, () => true, photos)).toEqual([])
  })

  it('goes round them, and from elsewhere to the least sure', () => {
    const wanted = ['A2', 'B1', 'B2']
    expect(nextWanted(wanted, 'A2')).toBe('B1')
    expect(nextWanted(wanted, 'B2')).toBe('A2')
    expect(nextWanted(wanted, 'A1')).toBe('A2')
    expect(nextWanted(['A2'], 'A2')).toBeNull()
  })

  it('agrees with their word and leaves what else was said', () => {
    const scores = { ...UNREAD, cannot_tell: true, values: { flame: 1, soot: 3 } }
    expect(agreed(scores, said({ values: { through: 2, char: 1, soot: 1 } }), CUT, ofCuts)).toEqual({
      ...UNREAD,
      values: { through: 2, char: 1, soot: 3, flame: 1 },
    })
    const marked = said({ values: { darkness: 4, evenness: 2, soot: 0 } })
    expect(agreed(UNREAD, marked, MARK, ofMarks).values).toEqual({ darkness: 4, evenness: 2 })
  })

  it('is overruled only by a person who says something else', () => {
    const reading = (said_by: 'person' | 'photo', through: number | null): Reading => ({
      ...{ patch: 'A1', face: 'back', cannot_tell: false, note: '', edit: 1, at: '', by_name: 'Moss' },
      values: through === null ? {} : { through },
      said_by,
    })
    expect(isOverruled(reading('person', 1), said({}), CUT)).toBe(true)
    expect(isOverruled(reading('person', 2), said({}), CUT)).toBe(false)
    expect(isOverruled(reading('photo', 2), said({}), CUT)).toBe(false)
    expect(isOverruled(reading('person', null), said({}), CUT)).toBe(false)
    expect(isOverruled(reading('person', 1), undefined, CUT)).toBe(false)
  })

  it('is never certain', () => {
    expect([0.5, 0.912, 0.9999].map(inHundred)).toEqual([50, 91, 99])
  })
})

describe('plates side by side', () => {
  it('stand in the address', () => {
    expect(readSides('12,13.45')).toEqual([
      { burn: 12, photo: null },
      { burn: 13, photo: 45 },
    ])
    expect(writeSides(readSides('12,13.45'))).toBe('12,13.45')
    expect(readSides('x,1,2,3,4,5').map((side) => side.burn)).toEqual([1, 2, 3, 4])
    expect(readSides(null)).toEqual([])
  })

  it('are registered by what varies, rounding aside, or by place', () => {
    const first = [patch('A1', 0, { speed: 10, power: 40 }), patch('A2', 9, { speed: 20, power: 40 })]
    const other = [patch('A1', 0, { speed: 20.05, power: 40 }), patch('A2', 9, { speed: 40, power: 40 })]
    const varied = variedOn([plate(first, ['speed']), plate(other, ['power', 'speed'])])
    expect(varied).toEqual(['speed', 'power'])
    expect([...matched(first, other, 'settings', varied)]).toEqual([['A2', 'A1']])
    expect([...matched(first, other, 'place', varied)]).toEqual([
      ['A1', 'A1'],
      ['A2', 'A2'],
    ])
  })

  it('say what else they hold apart, and nothing of what only one of them has', () => {
    const one = plate([patch('A1', 0, { speed: 10, focus: 0, air: 1 })], ['speed'])
    const two = plate([patch('A1', 0, { speed: 20, focus: 2, air: 1, khz: 60 })], ['speed'])
    expect(heldApart([one, two], ['speed'])).toEqual(['focus'])
    const burn = { lot: 'autumn', measured_mm: 3.7, focus: '', air: '60 kPa' } as Burn
    const photo = { treatment: 'wiped' } as Photo
    expect(conditionsOf(burn, photo)).toEqual(['lot autumn', '3.7 mm measured', 'air 60 kPa', 'wiped'])
  })

  it('differ by outcome, and by lightness where that was measured', () => {
    const figures = [{ lightness: 60 }, { lightness: 42.5 }] as never
    expect(difference(MARK, [2, 4], figures)).toEqual({ outcome: 2, lightness: -17.5 })
    expect(difference(CUT, [null, 1], figures)).toEqual({
      outcome: null,
      lightness: null,
    })
    expect([2, -1, 0, -0.04].map((value) => signed(value, value === -0.04 ? 1 : 0))).toEqual([
      '+2',
      '−1',
      '0',
      '0',
    ])
  })
})

describe('shades', () => {
  it('stand in the address to a tenth, and are alike in words', () => {
    expect(asShade([37.04, 4.96, -12])).toBe('37.0,5.0,-12.0')
    expect([0.4, 2, 5, 20].map((off) => alike(off))).toEqual([
      'Looks the same',
      'Very near',
      'Akin',
      'Far off',
    ])
    expect([0.4, 2].map((off) => alike(off, true))).toEqual(['As dark', 'Very near'])
  })
})
