import { describe, expect, it } from 'vitest'
import type { ListedBurn, LiveRun, Run } from '../src/api/types'
import { burnWords } from '../src/trial/BurnChoice'
import { hasEndedSince, laterRun } from '../src/api/runs'
import { correctionWords, logOf, patchStates } from '../src/trial/burn/liveRun'

const live = (more: Partial<LiveRun> = {}): LiveRun => ({
  key: 'k1',
  version: 3,
  trial_id: 1,
  machine_id: 1,
  title: 'T-001',
  how: 'whole',
  by_clock: false,
  burn_id: 1,
  state: 'running',
  reason: '',
  settled: false,
  parts: ['labels', 'A1', 'A2', 'A3'],
  done: [],
  mixed: [],
  current: null,
  stop: null,
  uncertain: null,
  share: 0,
  seconds_left: 10,
  seconds_gone: 0,
  takes: [],
  corrections: {},
  nudged: [0, 0],
  head: null,
  holder: null,
  log: [],
  ...more,
})

const run = (states: Record<string, Run['parts'][number]['state']>, kind: Run['kind'] = 'whole'): Run => ({
  id: 1,
  burn_id: 1,
  kind,
  via: 'link',
  state: 'interrupted',
  reason: '',
  at: '',
  ended_at: '',
  by_clock: false,
  put_back: 'still',
  doubtful: false,
  by_name: 'Moss',
  lines: [],
  parts: Object.entries(states).map(([name, state]) => ({
    name,
    kind: 'patch',
    state,
    passes: 1,
    power: 1,
    speed: 1,
    focus_mm: 0,
    mixed: false,
    read_off: {},
  })),
})

const IDS = ['A1', 'A2', 'A3']
const states = (...rest: [Run[], string[], boolean, LiveRun | null]) =>
  Object.fromEntries(patchStates(IDS, ...rest))

describe('patchStates', () => {
  it('waits before anything is burned, and is done when somebody says so', () => {
    expect(states([], [], false, null)).toEqual({ A1: 'waiting', A2: 'waiting', A3: 'waiting' })
    expect(states([], ['A2'], true, null)).toEqual({ A1: 'done', A2: 'bare', A3: 'done' })
  })
  it('follows a run', () => {
    const now = live({ done: ['labels', 'A1'], current: 'A2' })
    expect(states([], [], false, now)).toEqual({ A1: 'done', A2: 'burning', A3: 'waiting' })
  })
  it('says what an interrupted run left', () => {
    const broken = run({ A1: 'done', A2: 'uncertain', A3: 'waiting' })
    expect(states([broken], ['A3'], true, null)).toEqual({ A1: 'done', A2: 'uncertain', A3: 'waiting' })
    const rest = run({ A3: 'done' }, 'rest')
    expect(states([broken, rest], [], true, null)).toEqual({ A1: 'done', A2: 'uncertain', A3: 'done' })
  })
  it('keeps what is there while some is burned again', () => {
    const whole = run({ A1: 'done', A2: 'done', A3: 'done' })
    const again = live({ how: 'again', parts: ['A3'], current: 'A3' })
    expect(states([whole], [], true, again)).toEqual({ A1: 'done', A2: 'done', A3: 'burning' })
  })
})

describe('laterRun', () => {
  it('takes the later picture of one run, and the run that goes on of two', () => {
    expect(laterRun(live({ version: 2 }), live({ version: 5 }))?.version).toBe(5)
    expect(laterRun(live({ version: 7 }), live({ version: 5 }))?.version).toBe(7)
    expect(laterRun(null, live())?.key).toBe('k1')
    expect(laterRun(live({ key: 'new' }), live({ key: 'old', state: 'done' }))?.key).toBe('new')
    expect(laterRun(live({ key: 'old', state: 'done' }), live({ key: 'new' }))?.key).toBe('new')
    expect(laterRun(null, undefined)).toBeNull()
  })
})

describe('hasEndedSince', () => {
  it('is asked again when the end has come into the records', () => {
    const ended = live({ version: 5, state: 'stopped' })
    const settled = { ...ended, version: 6, settled: true }
    expect(hasEndedSince(live({ version: 4 }), live({ version: 5 }))).toBe(false)
    expect(hasEndedSince(live({ version: 4 }), ended)).toBe(true)
    expect(hasEndedSince(ended, ended)).toBe(false)
    expect(hasEndedSince(ended, settled)).toBe(true)
    expect(hasEndedSince(null, settled)).toBe(true)
    expect(hasEndedSince({ ...settled, key: 'earlier' }, settled)).toBe(true)
  })
})

describe('words', () => {
  it('says corrections in their own unit', () => {
    expect(correctionWords({ step: 2, unit: '%' }, -2)).toBe('−4 %')
    expect(correctionWords({ step: 0.1, unit: 'mm' }, 3)).toBe('+0.3 mm')
    expect(correctionWords({ step: 2, unit: '%' }, 0)).toBe('±0')
  })
  it('puts run and remarks into one log, the latest first', () => {
    const begins = { at: '2026-11-25T09:00:00Z', sentence: 'begins' }
    const before = { at: '2026-11-24T09:00:00Z', sentence: 'stopped: by Tess' }
    const remarked = { at: '2026-11-25T09:00:05Z', by_name: 'Moss', by_clock: false }
    const log = logOf(
      live({ log: [begins] }),
      [{ lines: [before] }, { lines: [begins] }],
      [
        { ...{ id: 4, kind: 'flame', patch: 'A2', note: '' }, ...remarked },
        { ...{ id: 5, kind: 'note', patch: 'A3', note: 'smells' }, ...remarked, by_clock: true },
      ],
    )
    expect(log.map((entry) => entry.sentence)).toEqual([
      'smells at A3 by the clock, Moss',
      'flame at A2, Moss',
      'begins',
      'stopped: by Tess',
    ])
    expect(log[1]?.remark).toBe(4)
  })
})

describe('burnWords', () => {
  const burn: ListedBurn = {
    id: 2,
    revision_id: 1,
    revision: 1,
    trial_id: 3,
    lot_id: null,
    lot: null,
    measured_mm: null,
    focus: '',
    air: '',
    cleaning: '',
    hold_down: '',
    lay: 'flat',
    roller_mm: null,
    stack_of: null,
    tabs: '',
    treatment: 'burned',
    below: '',
    note: '',
    at: '2026-11-19T10:42:00',
    by_member: 1,
    by_name: 'Moss',
    corrected_by: null,
    corrected_at: null,
    taken_back_at: null,
    scored: 0,
    photos: 0,
    piece: null,
  }
  it('says what tells one burn from another', () => {
    expect(burnWords(burn)).toMatch(/^19 Nov.*10:42, Moss · not read$/)
    const more = { ...burn, revision: 2, piece: 'offcut', lot: 'autumn', scored: 12, photos: 2 }
    expect(burnWords(more)).toMatch(/Moss · revision 2 · offcut · autumn · 12 read · 2 photos$/)
  })
})
