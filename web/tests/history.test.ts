import { describe, expect, it } from 'vitest'
import type { Design } from '../src/api/types'
import { begun, edited, redone, replaced, understood, undone } from '../src/trial/plan/history'
import { design } from './made'

const named = (title: string) => design({ title })
const titles = (all: Design[]) => all.map((one) => one.title)
const start = begun(named('a'))

describe('the history of a design', () => {
  it('makes typing on in one field one step, and going to another a new one', () => {
    let history = start
    for (const [title, field] of [
      ['b', 'from'],
      ['c', 'from'],
      ['d', 'to'],
    ] as const)
      // prettier-ignore
      history = edited(history, named(title), field)
    expect(titles(history.past)).toEqual(['a', 'c'])
    expect(history.now.title).toBe('d')
  })

  it('makes every press of a button a step', () => {
    const history = edited(edited(start, named('b'), null), named('c'), null)
    expect(titles(history.past)).toEqual(['a', 'b'])
  })

  it('goes back and forth without losing anything', () => {
    const two = edited(edited(start, named('b'), null), named('c'), null)
    const back = undone(undone(two))
    expect([titles(back.past), back.now.title, titles(back.future)]).toEqual([[], 'a', ['b', 'c']])
    expect(redone(redone(back))).toEqual({ ...two, field: null })
  })

  it('stays where it is at its ends', () => {
    expect(undone(start)).toBe(start)
    expect(redone(start)).toBe(start)
  })

  it('forgets what was undone once something else is done', () => {
    const history = edited(undone(edited(start, named('b'), null)), named('c'), null)
    expect([titles(history.past), titles(history.future)]).toEqual([['a'], []])
  })

  it('takes what was typed as understood without a step, and the next typing as another', () => {
    const typed = edited(start, named('b'), 'from')
    const read = understood(typed, named('B'))
    expect([titles(read.past), read.now.title]).toEqual([['a'], 'B'])
    expect(titles(edited(read, named('c'), 'from').past)).toEqual(['a', 'B'])
  })

  it('keeps mine one step back where theirs takes its place', () => {
    expect(undone(replaced(edited(start, named('mine'), 'x'), named('theirs'))).now.title).toBe('mine')
  })

  it('changes no history it was given', () => {
    const before = structuredClone(start)
    edited(start, named('b'), 'x')
    replaced(start, named('c'))
    understood(start, named('d'))
    expect(start).toEqual(before)
  })
})
