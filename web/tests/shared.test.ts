import { describe, expect, it } from 'vitest'
import {
  addressOf,
  materialNames,
  meantFor,
  sameThickness,
  sentenceOf,
  thicknesses,
} from '../src/ask/sentence'
import type { Inventory } from '../src/api/types'
import { inChosenUnits, inUnit, shown, unitOf, unitSign, written } from '../src/shared/units'
import { capital, clockUnit, day, dayAndTime, minutes, otherSettings, trialName } from '../src/shared/words'
import { grouped } from '../src/trial/plan/warnings'
import { air, cut, focus, parameter, passes, patch, plate, power, speed, wren, sheet } from './made'

const UNITS = {
  speed: [
    { symbol: 'mm/s', factor: 1, inverse: false },
    { symbol: 'mm/min', factor: 1 / 60, inverse: false },
  ],
  spacing: [
    { symbol: 'mm', factor: 1, inverse: false },
    { symbol: 'DPI', factor: 25.4, inverse: true },
  ],
  percent: [{ symbol: '%', factor: 1, inverse: false }],
  count: [{ symbol: '', factor: 1, inverse: false }],
  length: [
    { symbol: 'mm', factor: 1, inverse: false },
    { symbol: 'in', factor: 25.4, inverse: false },
  ],
}

describe('units', () => {
  it('shows a value in my unit and says the others', () => {
    expect(shown(28, speed, UNITS, { speed: 'mm/min' })).toEqual({
      value: '1680',
      unit: 'mm/min',
      others: '28 mm/s',
    })
  })

  it('says sentences in my units', () => {
    const inch = { speed: 'mm/min', length: 'in' }
    const said = (sentence: string, names: string[] = []) => inChosenUnits(sentence, UNITS, inch, names)
    expect(said('A1: 28 mm/s is faster than Wren can go (500 mm/s); go slower.')).toBe(
      'A1: 1680 mm/min is faster than Wren can go (30000 mm/min); go slower.',
    )
    expect(said('It reaches 12.7 mm beyond the field (600 x 400 mm).')).toBe(
      'It reaches 0.5 in beyond the field (23.62 x 15.75 in).',
    )
    expect(said('With 8 to 32 mm/s, 2.5 J/mm and 0.1 mm2 nothing changes at 30 %.')).toBe(
      'With 480 to 1920 mm/min, 2.5 J/mm and 0.1 mm2 nothing changes at 30 %.',
    )
    expect(said('Poplar 4 mm is 4 mm thick.', ['Felt 3 mm', 'Poplar 4 mm'])).toBe(
      'Poplar 4 mm is 0.1575 in thick.',
    )
    expect(inChosenUnits('28 mm/s', UNITS, {})).toBe('28 mm/s')
  })

  it('turns inverse units round', () => {
    const dpi = unitOf(UNITS, 'spacing', { spacing: 'DPI' })
    expect(inUnit(0.1, dpi)).toBeCloseTo(254)
  })

  it('falls back to the inside unit where the chosen one is none of the quantity', () => {
    expect(unitOf(UNITS, 'speed', { speed: 'furlong' })?.symbol).toBe('mm/s')
  })

  it('says levels in words', () => {
    expect(shown(1, air, UNITS, {}).value).toBe('on')
  })

  it('writes four digits at most', () => {
    expect([written(17.6), written(1 / 3), written(12345.6), written(NaN)]).toEqual([
      '17.6',
      '0.3333',
      '12350',
      '',
    ])
    expect(unitSign('us')).toBe('µs')
  })
})

describe('words', () => {
  it('tells time', () => {
    expect([minutes(159.4), minutes(5), minutes(3725)]).toEqual(['2:39', '0:05', '1:02:05'])
    expect([clockUnit(159.4), clockUnit(3599.6), clockUnit(12_707)]).toEqual(['min', 'h', 'h'])
  })

  it('tells days, with the year only where it is another', () => {
    const now = new Date(2026, 10, 23)
    expect(day('2026-11-19T12:00:00', now)).toBe('19 Nov')
    expect(day('2025-11-19T12:00:00', now)).toBe('19 Nov 2025')
    expect(dayAndTime('2026-11-19T09:05:00', now)).toBe('19 Nov, 09:05')
  })

  it('says the other settings as a hand would', () => {
    const line = parameter('line_spacing_mm', { name: 'line spacing', quantity: 'spacing' })
    const angle = parameter('hatch_angle_deg', { name: 'hatch angle' })
    const settings = {
      speed_mm_s: 20,
      power_pct: 40,
      passes: 1,
      line_spacing_mm: 0.1,
      focus_offset_mm: 0,
      air_level: 0,
      hatch_angle_deg: 0,
    }
    const all = [speed, power, passes, line, focus, air, angle]
    expect(otherSettings(settings, all, UNITS, {})).toBe('1 pass · 0.1 mm lines · in focus · air off')
    expect(otherSettings({ passes: 3 }, all, UNITS, {})).toBe('3 passes')
  })

  it('names trials', () => {
    expect([trialName(7), trialName(1234)]).toEqual(['T-007', 'T-1234'])
    expect(capital('more power')).toBe('More power')
  })
})

describe('warnings', () => {
  const hot = { kind: 'hot_end', level: 'warning' as const, path: 'dose', value: 3, limit: 2 }
  const fast = { kind: 'speed', level: 'refusal' as const, path: 'speed_mm_s', value: 900, limit: 500 }

  it('come grouped by kind, the gravest first', () => {
    const patches = [
      patch('A1', 1, 1, { warnings: [{ ...hot, sentence: 'A1: hot' }] }),
      patch('A2', 1, 2, {
        warnings: [
          { ...fast, sentence: 'A2: fast' },
          { ...hot, sentence: 'A2: hot' },
        ],
      }),
    ]
    const note = {
      kind: 'unset',
      level: 'note' as const,
      sentence: 'No frequency.',
      path: '',
      value: null,
      limit: null,
    }
    const groups = grouped(plate(patches, [note]))
    expect(groups.map((group) => group.kind)).toEqual(['speed', 'hot_end', 'unset'])
    expect(groups[1]).toMatchObject({ patches: ['A1', 'A2'], sentence: 'A1: hot' })
  })

  it('count a patch once, whatever is said of each of its steps', () => {
    const of = (id: string) => [1, 2].map((step) => ({ ...fast, sentence: `${id}/${step}: fast` }))
    const patches = [patch('A1', 1, 1, { warnings: of('A1') }), patch('A2', 1, 2, { warnings: of('A2') })]
    expect(grouped(plate(patches, []))).toMatchObject([{ patches: ['A1', 'A2'], sentence: 'A1/1: fast' }])
  })
})

describe('the sentence', () => {
  const materials = [
    sheet(1, 'Poplar', 4, ['cut', 'area']),
    sheet(2, 'Poplar', 6, ['cut']),
    sheet(3, 'Felt', 3, ['cut']),
    sheet(4, 'Token', null, ['surface']),
  ]
  const inventory = {
    materials,
    heads: [wren],
    processes: [cut, { ...cut, key: 'surface' }],
  } as unknown as Inventory
  const read = (address: string) => sentenceOf(new URLSearchParams(address), inventory)

  it('stands in the address', () => {
    expect(read('process=cut&material=2&head=1')).toMatchObject({
      process: 'cut',
      material: { id: 2 },
      head: 1,
    })
    expect(addressOf({ process: 'cut', material: 2, head: 1 })).toEqual({
      process: 'cut',
      material: '2',
      head: '1',
    })
  })

  it('fills what is missing or does not fit with the first that does', () => {
    expect(read('')).toMatchObject({ process: 'cut', material: { id: 1 }, head: 1 })
    expect(read('process=surface&material=2')).toMatchObject({ material: { id: 4 } })
    expect(read('process=melt&material=x&head=99')).toMatchObject({
      process: 'cut',
      material: { id: 1 },
      head: 1,
    })
  })

  it('lists only the materials a process is meant for, each name once', () => {
    expect(materialNames(meantFor(materials, 'cut'))).toEqual(['Poplar', 'Felt'])
    expect(meantFor(materials, 'area').map((one) => one.id)).toEqual([1])
  })

  it('keeps to the nearest thickness when the name changes', () => {
    expect(sameThickness(materials, 'Poplar', 5.5)?.id).toBe(2)
    expect(sameThickness(materials, 'Nothing', 5)).toBeNull()
    expect(thicknesses(materials, 'Poplar').map((one) => one.thickness_mm)).toEqual([4, 6])
  })
})
