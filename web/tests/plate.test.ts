import { describe, expect, it } from 'vitest'
import { nearestPatch, neighbour, placed, ticks } from '../src/plate/geometry'
import { edges, thinned } from '../src/plate/edges'
import { railScale, stacked } from '../src/plate/railScale'
import { along, doseColour, doseRange, doseShare, onDose, outcomeColour } from '../src/plate/scales'
import { dark, doseScale, light, outcomeScale } from '../src/theme/palette'
import { sixPatches } from './made'

/** Relative luminance and contrast as WCAG 2.2 defines them. */
function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5]
    .map((at) => parseInt(hex.slice(at, at + 2), 16) / 255)
    .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
function contrast(a: string, b: string): number {
  const [high = 0, low = 0] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return (high + 0.05) / (low + 0.05)
}

describe('scales', () => {
  it('get steadily darker, so that they read in grey', () => {
    for (const scale of [doseScale, outcomeScale]) {
      const lights = Array.from({ length: 21 }, (_, i) => luminance(along(scale, i / 20)))
      expect(lights).toEqual([...lights].sort((a, b) => b - a))
    }
  })

  it('meet their ends and stay there', () => {
    expect(along(doseScale, 0)).toBe(doseScale[0].toLowerCase())
    expect(along(doseScale, 1.7)).toBe(doseScale[5].toLowerCase())
    expect(outcomeColour(3, 3)).toBe(outcomeScale[3].toLowerCase())
  })

  it('place doses by ratio', () => {
    const range = doseRange([1, 4, 2])
    expect(doseShare(2, range)).toBeCloseTo(0.5)
    expect(doseShare(3, doseRange([3, 3]))).toBe(0.5)
    // The same dose in more passes, its speeds rounded.
    expect(doseShare(5.6044, doseRange([5.6043, 5.6044]))).toBe(0.5)
  })

  it('carry figures with enough contrast for large bold text', () => {
    const range = { low: 1, high: 100 }
    for (let dose = 1; dose <= 100; dose *= 1.05) {
      expect(contrast(doseColour(dose, range), onDose(dose, range))).toBeGreaterThan(3)
    }
  })
})

describe.each([
  ['light', light],
  ['dark', dark],
])('the %s palette', (_, palette) => {
  it('is readable as WCAG AA asks', () => {
    const texts: [string, string][] = [
      [palette.ink, palette.paper],
      [palette.ink, palette.plate],
      [palette.ink2, palette.paper],
      [palette.ink2, palette.card],
      [palette.ink, palette.line],
      [palette.ink3, palette.card],
      [palette.emberOnSoft, palette.emberSoft],
      [palette.emberOnSoft, palette.card],
      [palette.emberOnSoft, palette.paper],
      [palette.card, palette.ember],
      [palette.card, palette.emberOnSoft],
      [palette.steel, palette.steelSoft],
      [palette.moss, palette.mossSoft],
      [palette.moss, palette.card],
      [palette.card, palette.ink],
    ]
    for (const [text, ground] of texts)
      expect(contrast(text, ground), `${text} on ${ground}`).toBeGreaterThan(4.5)
    expect(contrast(palette.control, palette.card)).toBeGreaterThan(3)
    expect(contrast(palette.control, palette.paper)).toBeGreaterThan(3)
  })
})

describe('walking over the plate', () => {
  it('goes where the arrow points, rows upward', () => {
    expect(neighbour(sixPatches, 'A1', 'up')).toBe('B1')
    expect(neighbour(sixPatches, 'B2', 'right')).toBe('B3')
  })

  it('stays at the edge', () => {
    expect(neighbour(sixPatches, 'A1', 'left')).toBe('A1')
    expect(neighbour(sixPatches, 'B3', 'up')).toBe('B3')
  })

  it('turns left and right round on the back', () => {
    expect(neighbour(sixPatches, 'A1', 'left', true)).toBe('A2')
    expect(placed(2, 10, 40, true)).toBe(28)
    expect(placed(2, 10, 40, false)).toBe(2)
  })

  it('takes a place between patches for the nearest, and one far off for none', () => {
    for (const { id, x_mm, y_mm, width_mm, height_mm } of sixPatches) {
      expect(nearestPatch(sixPatches, x_mm + width_mm / 2, y_mm + height_mm / 2)).toBe(id)
      expect(nearestPatch(sixPatches, x_mm + width_mm + 0.4, y_mm + 1)).toBe(id)
      expect(nearestPatch(sixPatches, x_mm + 1, y_mm - 0.4)).toBe(id)
    }
    expect(nearestPatch(sixPatches, 200, 5)).toBeNull()
    expect(nearestPatch([], 5, 5)).toBeNull()
  })

  it('begins anywhere when nothing was chosen', () => {
    expect(neighbour(sixPatches, '', 'up')).toBe('A1')
  })
})

describe('drawing', () => {
  it('sets ticks that never crowd', () => {
    expect(ticks(87)).toHaveLength(9)
    expect(ticks(600).length).toBeLessThan(20)
  })
})

describe('the dose rail', () => {
  it('places doses by ratio', () => {
    const { at } = railScale([1, 10], 0, 100)
    expect(at(Math.sqrt(10))).toBeCloseTo(50)
    expect(at(1)).toBeGreaterThan(0)
    expect(at(10)).toBeLessThan(100)
  })

  it('carries marks inside its ends', () => {
    const { marks } = railScale([0.5, 6], 0, 800)
    expect(marks.map((mark) => mark.dose)).toEqual([0.5, 0.7, 1, 1.5, 2, 3, 5])
    for (const mark of marks) expect(mark.x).toBeGreaterThanOrEqual(0)
  })

  it('has room when all doses are one', () => {
    const { at } = railScale([2, 2], 0, 100)
    expect(at(2)).toBeCloseTo(50)
  })

  it('stacks ticks of nearly equal dose', () => {
    expect(stacked([0, 1, 30, 31, 32], 10)).toEqual([0, 1, 0, 1, 2])
    expect(stacked([], 10)).toEqual([])
  })
})

describe('the values at the edges', () => {
  const axis = (parameter: string, along: string, more = {}) => ({ parameter, along, ...more })
  const patch = (id: string, x_mm: number, y_mm: number, settings: Record<string, number>, more = {}) => ({
    ...sixPatches[0]!,
    ...{ id, x_mm, y_mm, width_mm: 10, height_mm: 10, settings, set_by_hand: [] as string[] },
    ...more,
  })
  const of = (axes: object[], patches: object[], planned: number[][] = []) =>
    edges({ trial: { axes }, patches, drawing: { axes: planned } } as unknown as Parameters<typeof edges>[0])

  it('stand in the middle of columns and rows, whatever order the patches come in', () => {
    const patches = [
      patch('B2', 16, 16, { speed_mm_s: 20, power_pct: 60 }),
      patch('A1', 3, 3, { speed_mm_s: 10, power_pct: 40 }),
      patch('A2', 16, 3, { speed_mm_s: 20, power_pct: 40 }),
      patch('B1', 3, 16, { speed_mm_s: 10, power_pct: 60 }),
    ]
    const [below, left] = of([axis('speed_mm_s', 'x'), axis('power_pct', 'y')], patches)
    expect(below?.side).toBe('below')
    expect(below?.values.map(({ value, at }) => [value, at])).toEqual([
      [10, 8],
      [20, 21],
    ])
    expect(left?.values.map(({ value, at }) => [value, at])).toEqual([
      [40, 8],
      [60, 21],
    ])
    expect(below?.values[1]?.patches.sort()).toEqual(['A2', 'B2'])
  })

  it('are those of most of a line, not of a patch set by hand', () => {
    const patches = [
      patch('A1', 3, 3, { speed_mm_s: 99 }, { set_by_hand: ['speed_mm_s'] }),
      patch('B1', 3, 16, { speed_mm_s: 10 }),
      patch('C1', 3, 29, { speed_mm_s: 12 }),
      patch('D1', 3, 42, { speed_mm_s: 10 }),
    ]
    expect(of([axis('speed_mm_s', 'x')], patches)[0]?.values.map(({ value }) => value)).toEqual([10])
  })

  it('stay the planned ones where most of a column was corrected while it burned', () => {
    const patches = [18.36, 18.36, 18].map((speed, i) => patch(`${i}`, 3, 13 * i, { speed_mm_s: speed }))
    const [below] = of([axis('speed_mm_s', 'x')], patches, [[14, 18, 22]])
    expect(below?.values.map(({ value }) => value)).toEqual([18])
  })

  it('span their blocks, and a ladder in lines has none', () => {
    const patches = [0, 1, 2, 3].map((i) => patch(`A${i}`, 13 * i, 0, { passes: i < 2 ? 1 : 2 }))
    const [above] = of([axis('passes', 'block_x')], patches)
    expect(above?.values.map(({ value, at }) => [value, at])).toEqual([
      [1, 11.5],
      [2, 37.5],
    ])
    expect(of([axis('speed_mm_s', 'x', { wrap: 3 })], patches)).toEqual([])
  })

  it('are thinned where they would touch', () => {
    const values = Array.from({ length: 7 }, (_, i) => ({ i, room: 4 }))
    expect(thinned(values, 3).map(({ i }) => i)).toEqual([0, 1, 2, 3, 4, 5, 6])
    expect(thinned(values, 9).map(({ i }) => i)).toEqual([0, 3, 6])
  })
})
