import { describe, expect, it } from 'vitest'
import { boundsOf, withBound } from '../src/trial/decide/useFinding'

describe('bounds in the address', () => {
  it('are read by scale', () => {
    expect([...boundsOf({ bounds: 'char=1,kerf_mm=0.2' })]).toEqual([
      ['char', 1],
      ['kerf_mm', 0.2],
    ])
    expect(boundsOf({}).size).toBe(0)
  })
  it('are set, changed and taken away one by one', () => {
    expect(withBound({}, 'back_burn', 0)).toBe('back_burn=0')
    expect(withBound({ bounds: 'char=1,back_burn=0' }, 'char', 2)).toBe('char=2,back_burn=0')
    expect(withBound({ bounds: 'char=1,back_burn=0' }, 'char', null)).toBe('back_burn=0')
    expect(withBound({ bounds: 'char=1' }, 'char', null)).toBeNull()
  })
})
