import { describe, expect, it } from 'vitest'
import {
  UNREAD,
  isScored,
  lettersFor,
  next,
  nextUnscored,
  scoresOf,
  shiftedDigit,
  walk,
  withCannotTell,
  withDigit,
  withEvenness,
  withLetter,
} from '../src/trial/read/scoring'
import { area, cut, patch, sixPatches } from './made'

const DEGREES = [
  { key: 'char', processes: ['cut' as const] },
  { key: 'soot', processes: ['cut' as const, 'area' as const] },
]
const TAGS = [
  { key: 'back_burn', processes: ['cut' as const] },
  { key: 'blurred', processes: ['area' as const] },
]

describe('digits', () => {
  it('score what the process is about', () => {
    expect(withDigit(UNREAD, 3, cut, 3)?.through).toBe(3)
    expect(withDigit(UNREAD, 5, area, 5)?.darkness).toBe(5)
  })

  it('beyond the scale mean nothing', () => {
    expect(withDigit(UNREAD, 4, cut, 3)).toBeNull()
    expect(withDigit(UNREAD, 6, area, 5)).toBeNull()
  })

  it('end not being able to tell', () => {
    expect(withDigit(withCannotTell(UNREAD), 0, cut, 3)).toMatchObject({ through: 0, cannot_tell: false })
  })

  it('with shift are evenness, for marks only', () => {
    expect(withEvenness(UNREAD, 2, area)?.evenness).toBe(2)
    expect(withEvenness(UNREAD, 2, cut)).toBeNull()
    expect(withEvenness(UNREAD, 4, area)).toBeNull()
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
    const seen = [1, 2, 3, 4].map(() => (scores = withLetter(scores, 'c')).char)
    expect(seen).toEqual([1, 2, 3, null])
  })

  it('tag and untag', () => {
    const tagged = withLetter(UNREAD, 'f')
    expect(tagged.tags).toEqual(['flame'])
    expect(withLetter(tagged, 'f').tags).toEqual([])
  })

  it('are those that mean something for the process', () => {
    expect(lettersFor('cut', DEGREES, TAGS)).toEqual(['c', 's', 'b'])
    expect(lettersFor('area', DEGREES, TAGS)).toEqual(['s', 'r'])
  })

  it('do not change the scores they are given', () => {
    withLetter(UNREAD, 'c')
    withLetter(UNREAD, 'b')
    expect(UNREAD).toEqual(scoresOf(undefined))
  })

  it('that mean nothing change nothing', () => {
    expect(withLetter(UNREAD, 'y')).toBe(UNREAD)
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

  it('finds the next unread, going round once', () => {
    const read = new Set(['B1', 'B2', 'B3'])
    expect(nextUnscored(order, 'A3', (id) => read.has(id))).toBe('A1')
    expect(nextUnscored(order, 'A1', () => true)).toBeNull()
  })

  it('counts not being able to tell as read', () => {
    expect(isScored(withCannotTell(UNREAD))).toBe(true)
    expect(isScored({ ...UNREAD, char: 2 })).toBe(false)
  })
})
