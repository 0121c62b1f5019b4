import { describe, expect, it } from 'vitest'
import type { Change, Design, DesignKey, Inventory, Recipe } from '../src/api/types'
import { staleKeys } from '../src/api/stale'
import { confirmedWords } from '../src/recipes/ConfirmTaps'
import { changedWords } from '../src/book/versions'
import { readLinks } from '../src/book/WordsCard'
import { device } from '../src/me/device'
import { isPlain } from '../src/shared/Markdown'
import { whoMay } from '../src/shared/Allowed'
import { backupMoment } from '../src/shop/Backups'
import { differences, figure, machineFields, sentFacts, typedValues } from '../src/forms/fields'
import type { Field } from '../src/forms/fields'
import { designDifferences, mergedDesign } from '../src/trial/plan/designDifferences'
import { mergedScores, scoreDifferences, UNREAD } from '../src/trial/read/scoring'
import { cut, design, parameter, ofCuts } from './made'

const units = {
  speed: [
    { symbol: 'mm/s', factor: 1, inverse: false },
    { symbol: 'mm/min', factor: 1 / 60, inverse: false },
  ],
  watts: [{ symbol: 'W', factor: 1, inverse: false }],
}
const fields: Field[] = [
  { key: 'name', label: 'Name', kind: 'text' },
  { key: 'max_speed_mm_s', label: 'Top speed', kind: 'quantity', quantity: 'speed' },
  { key: 'hazards', label: 'Hazards', kind: 'checks', options: [] },
]

describe('a form of the shop', () => {
  const stored = { name: 'Wren', max_speed_mm_s: 333.3333333, hazards: ['fire'], edit_me_not: 1 }

  it('shows figures in my unit', () => {
    expect(figure(10, 'speed', units, { speed: 'mm/min' })).toBe('600 mm/min')
    expect(figure(null, 'speed', units, {})).toBe('')
    expect(typedValues(fields, stored, units, {}).max_speed_mm_s).toBe('333.333 mm/s')
  })

  it('sends what was not touched as it is stored, unrounded', () => {
    const began = typedValues(fields, stored, units, {})
    expect(sentFacts(fields, stored, began, { ...began, name: 'Robin' })).toEqual({
      ...stored,
      name: 'Robin',
    })
    expect(sentFacts(fields, stored, began, { ...began, hazards: [] }).hazards).toEqual([])
  })

  it('sends everything of something new', () => {
    expect(sentFacts(fields, {}, null, { name: 'New', max_speed_mm_s: '', hazards: [] })).toEqual({
      name: 'New',
      max_speed_mm_s: '',
      hazards: [],
    })
  })

  it('asks each kind of machine for what it has', () => {
    const facts = [
      { key: 'settle_us', name: 'settling', of: 'machine', motion: 'galvo', help: '', needed: false },
      { key: 'spot_mm', name: 'spot', of: 'head', motion: '', help: '', needed: false },
    ]
    const forms = { sources: [], by_hand: [], airs: [], power_modes: [], file_kinds: [], facts }
    const parameters = [
      { key: 'frequency_khz', sources: ['fibre_mopa', 'uv'], motions: ['gantry', 'galvo'] },
      { key: 'pulse_width_ns', sources: ['fibre_mopa'], motions: ['gantry', 'galvo'] },
    ]
    const inventory = { forms, parameters, units: {} } as unknown as Inventory
    const keys = (source: string, motion: string) =>
      machineFields(inventory, source, motion).map((field) => field.key)
    expect(keys('fibre_mopa', 'galvo')).toEqual(
      expect.arrayContaining(['settle_us', 'frequency_khz', 'pulse_widths']),
    )
    expect(keys('uv', 'galvo')).toContain('frequency_khz')
    expect(keys('uv', 'galvo')).not.toContain('pulse_widths')
    expect(keys('diode', 'gantry')).not.toContain('frequency_khz')
    expect(keys('diode', 'gantry')).not.toContain('spot_mm')
  })

  it('shows the scales of a control a pair a line', () => {
    const curve: Field = { key: 'curves', label: '', kind: 'curves', options: [] }
    const kept = {
      power_pct: {
        unit: 'mA',
        pairs: [
          [3, 12],
          [8.5, 40],
        ],
        step: 0.5,
      },
    }
    expect(typedValues([curve], { curves: kept }, units, {})).toEqual({
      curves: { power_pct: { unit: 'mA', pairs: '3 = 12\n8.5 = 40', step: '0.5' } },
    })
    expect(typedValues([curve], {}, units, {})).toEqual({ curves: {} })
  })

  it('tells two versions apart', () => {
    expect(differences(fields, stored, { ...stored, name: 'Robin', hazards: [] })).toEqual([
      { key: 'name', name: 'Name', theirs: 'Wren', mine: 'Robin' },
      { key: 'hazards', name: 'Hazards', theirs: 'fire', mine: 'none' },
    ])
  })
})

describe('what the book says', () => {
  const now = new Date('2026-11-23T12:00:00Z')
  const counts = (held: number, failed: number) =>
    ({
      held,
      held_at: held ? '2026-11-19T12:00:00Z' : null,
      failed,
      failed_at: failed ? '2026-11-03T12:00:00Z' : null,
    }) as Recipe

  it('counts taps with their dates', () => {
    expect(confirmedWords(counts(4, 1), now)).toBe('held 4 times, last on 19 Nov · failed once, on 3 Nov')
    expect(confirmedWords(counts(0, 0), now)).toBe('')
  })

  it('shows what an edit changed, older versions without links included', () => {
    expect(
      changedWords({ note: 'a', standing: 'tried' }, { note: 'b', standing: 'tried', links: [] }),
    ).toEqual([{ name: 'Note', before: 'a', after: 'b' }])
  })

  it('reads links one a line', () => {
    expect(readLinks(' https://example.org/1 the thread\n\nhttps://example.org/2')).toEqual([
      { url: 'https://example.org/1', title: 'the thread' },
      { url: 'https://example.org/2', title: '' },
    ])
  })

  it('knows which notes need no Markdown', () => {
    for (const text of ['Lantern sides. Mask the front; clean edge.', 'at 3.7 mm it held']) {
      expect(isPlain(text), text).toBe(true)
    }
    for (const text of ['**bold**', '- one', '1. first', 'two\nlines', '<b>', 'see https://a.example']) {
      expect(isPlain(text), text).toBe(false)
    }
  })
})

describe('together', () => {
  const event = (subject: Change['subject']) => ({ id: 1, subject, subject_id: 7, by_member: 2 })

  it('knows what is out of date after somebody else did something', () => {
    expect(staleKeys(event('trial'))).toContainEqual(['trial', 7])
    expect(staleKeys(event('recipe'))).toContainEqual(['map'])
    expect(staleKeys(event('member'))).toContainEqual(['me'])
    expect(staleKeys(event('material'))).toContainEqual(['shop'])
  })

  it('shows every key in which two designs differ', () => {
    const row = (key: string) => parameter(key, { name: key, unit: '' })
    const key = (key: string, kind: DesignKey['kind'], unit = ''): DesignKey => ({
      key,
      name: key,
      kind,
      unit,
    })
    const LINE = { speed_mm_s: 120, power_pct: '20' }
    const samples: [DesignKey, Partial<Design>, string][] = [
      [key('title', 'text'), { title: 'Lid' }, 'Lid'],
      [key('hold', 'settings'), { hold: { passes: 3 } }, 'passes 3'],
      [key('order', 'choice'), { order: 'weakest_first' }, 'weakest first'],
      [key('cut_out', 'flag'), { cut_out: true }, 'yes'],
      [key('hang_hole_mm', 'number', 'mm'), { hang_hole_mm: '4' }, '4 mm'],
      [key('off', 'list'), { off: ['A1', 'B2'] }, 'A1, B2'],
      [key('overrides', 'by_patch'), { overrides: { B2: { power_pct: 55 } } }, 'B2: power_pct 55'],
      [
        key('place', 'object'),
        { place: { at: 'centre', x_mm: 1, y_mm: '2', turn_deg: 90 } },
        'at centre, x 1 mm, y 2 mm, turn 90 °',
      ],
      [
        key('labels', 'object'),
        { labels: { on: true, height_mm: 2, qr: false, marks: true, settings: LINE } },
        'on, height 2 mm, marks, power_pct 20, speed_mm_s 120',
      ],
      [
        key('axes', 'axes'),
        { axes: [{ parameter: 'speed_mm_s', along: 'block_x', values: [1, 2], wrap: 3 }] },
        'speed_mm_s 1, 2 along block x in lines of 3',
      ],
    ]
    const keys = samples.map(([one]) => one)
    for (const [one, change, words] of samples) {
      const rows = designDifferences(design(), design(change), keys, row)
      expect(rows.map(({ name, mine }) => [name, mine])).toEqual([[one.key, words]])
    }
    expect(designDifferences(design(), design(), keys, row)).toEqual([])
    // Even steps and even ratios are not the same.
    const even = { parameter: 'speed_mm_s', along: 'x' as const, from: 1, to: 9, count: 3 }
    const [differs] = designDifferences(
      design({ axes: [{ ...even, spacing: 'linear' }] }),
      design({ axes: [{ ...even, spacing: 'geometric' }] }),
      keys,
      row,
    )
    expect(differs?.mine).toContain('of even ratios')
  })

  it('keeps some parts of mine and the rest of theirs', () => {
    const theirs = design({ title: 'Theirs', order: 'rows', hang_hole_mm: 4 })
    const mine = design({ title: 'Mine', order: 'scattered' })
    const merged = mergedDesign(theirs, mine, new Set(['title', 'hang_hole_mm']))
    expect([merged.title, merged.order, merged.hang_hole_mm]).toEqual(['Mine', 'rows', undefined])
    const scores = mergedScores(
      { values: { through: 3, flame: 1 }, cannot_tell: false, note: 'theirs' },
      { values: { kerf_mm: 0.2 }, cannot_tell: true, note: 'mine' },
      new Set(['through', 'kerf_mm']),
      'through',
    )
    expect(scores).toEqual({ values: { flame: 1, kerf_mm: 0.2 }, cannot_tell: true, note: 'theirs' })
  })

  it('shows where two readings differ', () => {
    const words = ['not', 'partly', 'with a push', 'drops out']
    const rows = scoreDifferences(
      { ...UNREAD, values: { through: 3, kerf_mm: '0.2 mm' } },
      { ...UNREAD, values: { through: 1, flame: 1 } },
      words,
      cut,
      ofCuts,
    )
    expect(rows).toEqual([
      { key: 'through', name: 'Outcome', theirs: '3 drops out', mine: '1 partly' },
      { key: 'flame', name: 'Flame', theirs: 'no', mine: 'yes' },
      { key: 'kerf_mm', name: 'Kerf_mm', theirs: '0.2 mm', mine: 'not said' },
    ])
  })

  it('says who may', () => {
    const members = [
      { name: 'Kay', role: 'keeper', retired: false },
      { name: 'Tess', role: 'technician', retired: false },
      { name: 'Old', role: 'technician', retired: true },
      { name: 'Moss', role: 'member', retired: false },
    ]
    const roles = [
      { key: 'member', reach: ['guest', 'member'] },
      { key: 'technician', reach: ['guest', 'member', 'technician'] },
      { key: 'keeper', reach: ['guest', 'member', 'technician', 'keeper'] },
    ]
    expect(whoMay({ members, roles } as unknown as Inventory, 'technician')).toEqual(['Kay', 'Tess'])
  })
})

describe('names of moments and devices', () => {
  it('reads the stamp of a backup', () => {
    expect(new Date(backupMoment('20261123T104500Z')).toISOString()).toBe('2026-11-23T10:45:00.000Z')
  })

  it('names a device as one would', () => {
    expect(device('Mozilla/5.0 (X11; Linux x86_64)')).toBe('a Linux PC')
    expect(device('Mozilla/5.0 (Linux; Android 14)')).toBe('an Android phone')
    expect(device('')).toBe('some device')
  })
})
