import { describe, expect, it } from 'vitest'
import {
  UNREAD,
  isScored,
  changedAs,
  next,
  scoresOf,
  shiftedDigit,
  walk,
  withCannotTell,
  withDigit,
  ownScores,
  withLetter,
  withShiftedDigit,
  withValue,
} from '../src/trial/read/scoring'
import { outcomeOf } from '../src/shared/outcome'
import { area, cut, ofCuts, ofMarks, patch, sixPatches } from './made'

describe('digits', () => {
  it('score what the process is about', () => {
    expect(withDigit(UNREAD, 3, cut, 3)?.values).toEqual({ through: 3 })
    expect(withDigit(UNREAD, 5, area, 5)?.values).toEqual({ darkness: 5 })
  })

  it('beyond the scale mean nothing', () => {
    expect(withDigit(UNREAD, 4, cut, 3)).toBeNull()
    expect(withDigit(UNREAD, 6, area, 5)).toBeNull()
  })

  it('end not being able to tell', () => {
    expect(withDigit(withCannotTell(UNREAD, cut), 0, cut, 3)).toEqual({ ...UNREAD, values: { through: 0 } })
  })

  it('with shift are evenness, for marks only', () => {
    expect(withShiftedDigit(UNREAD, 2, ofMarks)?.values).toEqual({ evenness: 2 })
    expect(withShiftedDigit(UNREAD, 2, ofCuts)).toBeNull()
    expect(withShiftedDigit(UNREAD, 4, ofMarks)).toBeNull()
  })

  it('are found by their place on the keyboard, whatever shift makes of them', () => {
    expect(shiftedDigit({ shiftKey: true, code: 'Digit2' })).toBe(2)
    expect(shiftedDigit({ shiftKey: true, code: 'Numpad3' })).toBe(3)
    expect(shiftedDigit({ shiftKey: false, code: 'Digit2' })).toBeNull()
    expect(shiftedDigit({ shiftKey: true, code: 'KeyA' })).toBeNull()
  })
})

describe('letters', () => {
  it('give the next degree each time, and none after the last', () => {
    let scores = UNREAD
    const seen = [1, 2, 3, 4].map(() => (scores = withLetter(scores, 'c', ofCuts)).values.char)
    expect(seen).toEqual([1, 2, 3, undefined])
  })

  it('tag and untag', () => {
    const tagged = withLetter(UNREAD, 'f', ofCuts)
    expect(tagged.values).toEqual({ flame: 1 })
    expect(withLetter(tagged, 'f', ofCuts).values).toEqual({})
  })

  it('do not change the scores they are given', () => {
    withLetter(UNREAD, 'c', ofCuts)
    withValue(UNREAD, 'kerf_mm', '0.2')
    expect(UNREAD).toEqual(scoresOf(undefined))
  })

  it('that mean nothing change nothing', () => {
    expect(withLetter(UNREAD, 'y', ofCuts)).toBe(UNREAD)
    expect(withLetter(UNREAD, 'c', ofMarks)).toBe(UNREAD)
  })
})

describe('one change for several', () => {
  it('leaves what did not change as each of them has it', () => {
    const from = { ...UNREAD, values: { through: 1, char: 2 } }
    const to = withValue(withValue(from, 'through', 3), 'char', null)
    const before = { ...UNREAD, note: 'mine', values: { through: 0, char: 1, soot: 3 } }
    expect(changedAs(before, from, to)).toEqual({ ...before, values: { through: 3, soot: 3 } })
  })

  it('takes back what a person said, not what the photos say', () => {
    const reading = { ...UNREAD, values: { through: 2, char: 1, flame: 1 }, said_by: 'photo' as const }
    const whole = { ...reading, patch: 'A1', face: 'back' as const, edit: 1, at: '', by_name: 'Moss' }
    expect(ownScores(whole, ofCuts).values).toEqual({ flame: 1 })
    expect(ownScores({ ...whole, said_by: 'person' }, ofCuts).values).toEqual(reading.values)
    expect(ownScores(undefined, ofCuts)).toBe(UNREAD)
  })

  it('is decided by the scale of the process', () => {
    expect(outcomeOf({ values: { through: 0 } }, cut)).toBe(0)
    expect(outcomeOf({ values: { through: 0 } }, area)).toBeNull()
    expect(outcomeOf(undefined, cut)).toBeNull()
  })
})

describe('walking', () => {
  const order = walk([...sixPatches].reverse(), ['A2'])

  it('goes row by row from the bottom over what was burned', () => {
    expect(order).toEqual(['A1', 'A3', 'B1', 'B2', 'B3'])
    expect(walk([patch('A1', 1, 1, { burn: false })], [])).toEqual([])
  })

  it('stays at the ends', () => {
    expect(next(order, 'B3')).toBe('B3')
    expect(next(order, 'A1', -1)).toBe('A1')
    expect(next(order, 'A1')).toBe('A3')
  })

  it('counts not being able to tell as read', () => {
    expect(isScored(withCannotTell(UNREAD, cut), cut)).toBe(true)
    expect(isScored({ ...UNREAD, values: { char: 2 } }, cut)).toBe(false)
  })
})
