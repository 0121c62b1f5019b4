import { describe, expect, it } from 'vitest'
import type { Candidate, OutcomeMapData } from '../src/api/types'
import { cardsOf, expectedOf, inHundred, marginOf, titleOf } from '../src/recipes/aims'
import {
  aroundPatches,
  contour,
  guessedPath,
  isGuess,
  levelsOf,
  mapBox,
  mapColour,
  namesApart,
  probe,
  probeOn,
  secondsWords,
  shownOf,
} from '../src/trial/decide/outcomeMap'

const rows = (of: (i: number, j: number) => number) => [0, 1].map((j) => [0, 1, 2].map((i) => of(i, j)))
/** Three columns by two rows: what is expected is x + 10 y in mm over a hundred. */
const MAP: OutcomeMapData = {
  key: 'p_drops_out',
  held: { passes: 1 },
  same_dose_mm: [],
  x: { parameter: 'speed_mm_s', mm: [0, 10, 20], setting: [8, 16, 32] },
  y: { parameter: 'power_pct', mm: [0, 4], setting: [30, 50] },
  expected: rows((i, j) => (10 * i + 40 * j) / 100),
  low: rows((i) => (i === 2 ? 0 : 0.4)),
  high: rows((i) => (i === 2 ? 0.9 : 0.5)),
  dose: rows((i, j) => 1 + i + j),
  seconds: rows(() => 5),
  turns: [],
}
const CANDIDATE: Candidate = {
  aim: 'fastest',
  settings: { speed_mm_s: 20, power_pct: 80 },
  predicted: { p_drops_out: 0.984, low: 0.93, high: 0.999 },
  margin: { power_down_pct: 9.6, speed_up_pct: null },
  seconds: 5,
  certain: false,
  why: '',
  place_mm: null,
  depth: [],
  shapes: [],
}

describe('probe', () => {
  it('gives what stands at a point of the map', () => {
    expect(probe(MAP, 10, 4)).toMatchObject({ x: 16, y: 50, expected: 0.5, dose: 3, seconds: 5 })
  })
  it('lies on a straight line between points', () => {
    expect(probe(MAP, 5, 1)?.expected).toBeCloseTo((5 + 10) / 100)
    expect(probe(MAP, 15, 0)?.x).toBeCloseTo(24)
  })
  it('says nothing beside the map', () => {
    expect(probe(MAP, -1, 2)).toBeNull()
    expect(probe(MAP, 5, 5)).toBeNull()
  })
  it('reads edges that fall, too', () => {
    const turned = { ...MAP, x: { ...MAP.x, mm: [20, 10, 0] } }
    expect(probe(turned, 15, 0)?.x).toBeCloseTo(12)
  })
})

describe('candidates of one setting', () => {
  it('stand on one card', () => {
    const gentlest = { ...CANDIDATE, aim: 'gentlest' as const }
    const other = { ...CANDIDATE, aim: 'cleanest' as const, settings: { speed_mm_s: 18, power_pct: 80 } }
    const cards = cardsOf([CANDIDATE, other, gentlest])
    expect(cards.map(({ first, others }) => [first.aim, ...others.map((one) => one.aim)])).toEqual([
      ['fastest', 'gentlest'],
      ['cleanest'],
    ])
  })
})

describe('lines of one outcome', () => {
  /** Log odds that fall by 4 from the left edge to the right, whatever the row. */
  const odds = (i: number) => 1 / (1 + Math.exp(2 * i - 2))
  const FALLING: OutcomeMapData = { ...MAP, expected: rows(odds) }
  it('run where the level is, in mm with y down, by the odds', () => {
    const { path, places: on } = contour(FALLING, 0.5, 40)
    const places = path
      .split(/[ML]/)
      .filter(Boolean)
      .map((one) => one.split(',').map(Number))
    expect(places.length).toBeGreaterThan(1)
    for (const [x] of places) expect(x).toBeCloseTo(10, 1)
    expect(Math.min(...places.map(([, y]) => y ?? 0))).toBeCloseTo(36)
    expect(Math.max(...places.map(([, y]) => y ?? 0))).toBeCloseTo(40)
    expect(on).toHaveLength(places.length)
    for (const [x] of contour(FALLING, 1 / (1 + Math.exp(1)), 40).places) expect(x).toBeCloseTo(15, 1)
  })
  it('are none where the level is not', () => {
    expect(contour(FALLING, 0.99, 40)).toEqual({ path: '', places: [] })
  })
  it('are named on the line, over no other name, at another height where one is in the way', () => {
    const upright = (name: string, x: number) => ({
      name,
      places: [0, 10, 20].map((y): [number, number] => [x, y]),
      heights: [10, 20],
    })
    const box = { x: 0, y: 0, width: 100, height: 30 }
    const lines = [upright('holds', 50), upright('90', 52), upright('50', 51), upright('far', 99)]
    const names = namesApart(lines, box, 3, (name) => 2 * name.length)
    expect(Object.fromEntries(names)).toEqual({ holds: [50, 10], '90': [52, 20], far: [97, 10] })
  })
  it('are named by fresh sheets in 100, or by lightness', () => {
    expect(levelsOf(MAP, 0.98).map((one) => one.name)).toEqual(['50', '90', 'holds'])
    expect(levelsOf(MAP, null)).toHaveLength(2)
    const grey: OutcomeMapData = { ...MAP, key: 'lightness', expected: rows((i, j) => 35 + 10 * i + j) }
    expect(levelsOf(grey, null).map((one) => one.name)).toEqual(['L* 40', 'L* 50'])
  })
  it('are asked of whichever map lies there', () => {
    const beside: OutcomeMapData = { ...MAP, x: { ...MAP.x, mm: [30, 40, 50] } }
    expect(probeOn([MAP, beside], 35, 2)?.map).toBe(beside)
    expect(probeOn([MAP, beside], 25, 2)).toBeNull()
  })
})

describe('the map', () => {
  it('is a guess where the 80 % reach too far', () => {
    expect(isGuess(MAP, 0.4, 0.5)).toBe(false)
    expect(isGuess(MAP, 0, 0.9)).toBe(true)
    expect(isGuess({ ...MAP, key: 'lightness' }, 40, 50)).toBe(false)
  })
  it('hatches only that, half a step around each point', () => {
    expect(guessedPath(MAP, 10)).toBe('M15,10H20V8H15zM15,8H20V6H15z')
  })
  it('lies where its points do', () => {
    expect(mapBox(MAP, 10)).toEqual({ x: 0, y: 6, width: 20, height: 4 })
  })
  it('is shown as far as there are patches', () => {
    const patches = [
      { x_mm: 5, y_mm: 6, width_mm: 8, height_mm: 8 },
      { x_mm: 16, y_mm: 6, width_mm: 8, height_mm: 8 },
    ] as never
    expect(aroundPatches({ patches })).toEqual({ x: 5, y: 6, width: 19, height: 8 })
  })
  it('is to be seen as far as both reach', () => {
    const patches = [{ x_mm: 5, y_mm: 1, width_mm: 30, height_mm: 2 }] as never
    const plate = { height_mm: 10 } as never
    expect(shownOf(MAP, { patches, plate })).toEqual({ x: 5, y: 7, width: 15, height: 2 })
  })
  it('colours cuts on the outcome scale and marks as grey as they are', () => {
    expect(mapColour(MAP, 0)).not.toBe(mapColour(MAP, 1))
    const marks: OutcomeMapData = { ...MAP, key: 'lightness' }
    expect(mapColour(marks, 0)).toBe('#000000')
    expect(mapColour(marks, 100)).toBe('#ffffff')
    // L* 53.6 is the middle grey of screens.
    expect(mapColour(marks, 53.585)).toBe('#808080')
  })
})

describe('words', () => {
  it('never says 100 of what is only expected', () => {
    expect(inHundred(0.9999)).toBe(99)
    expect(inHundred(0.984)).toBe(98)
    expect(expectedOf(CANDIDATE.predicted)).toBe('Drops out on 98 of 100 fresh sheets (93 to 100).')
    expect(expectedOf({ lightness: 40.4, low: 36, high: 45 })).toBe('L* 40 on a fresh sheet (36 to 45).')
  })
  it('calls the fastest one that holds only from 99 in 100', () => {
    expect(titleOf(CANDIDATE)).toBe('Fastest so far, not yet certain')
    expect(titleOf({ ...CANDIDATE, certain: true })).toBe('Fastest that holds')
  })
  it('says how far it may be off, as far as that is known', () => {
    expect(marginOf(CANDIDATE)).toBe('Up to 10 % less power it still drops out on 9 of 10.')
    expect(marginOf({ ...CANDIDATE, margin: { power_down_pct: null, speed_up_pct: null } })).toBe('')
  })
  it('counts seconds, then minutes', () => {
    expect(secondsWords(5.12)).toBe('5.1 s')
    expect(secondsWords(80)).toBe('1:20 min')
  })
})
