import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import type { Run } from '../src/api/types'
import { inUnit, unitOf } from '../src/shared/units'
import type { UnitTable } from '../src/shared/units'
import { patchStates } from '../src/trial/burn/liveRun'

interface Agreed {
  tables: UnitTable
  units: { quantity: string; unit: string; inside: number; shown: number }[]
  burns: { order: string[]; runs: Run[]; not_burned: string[]; states: Record<string, string> }[]
}

/** What the server says of the same things; a test of the server's keeps it true. */
const agreed = JSON.parse(
  readFileSync(new URL('../../tests/golden/agreement.json', import.meta.url), 'utf8'),
) as Agreed

describe('browser and server agree', () => {
  it('on every unit', () => {
    expect(agreed.units.length).toBeGreaterThan(100)
    for (const { quantity, unit, inside, shown } of agreed.units) {
      const value = inUnit(inside, unitOf(agreed.tables, quantity, { [quantity]: unit }))
      expect(Math.abs(value - shown), `${inside} in ${unit}`).toBeLessThanOrEqual(1e-12 * Math.abs(shown))
    }
  })

  it('on what was burned', () => {
    for (const { order, runs, not_burned, states } of agreed.burns) {
      const shown = patchStates(order, runs, not_burned, true, null)
      const burned = (id: string) => ['done', 'uncertain'].includes(shown.get(id) ?? '')
      for (const id of order) {
        expect(burned(id), id).toBe(states[id] !== 'not_burned')
        expect(shown.get(id) === 'uncertain', id).toBe(states[id] === 'uncertain')
      }
    }
  })
})
