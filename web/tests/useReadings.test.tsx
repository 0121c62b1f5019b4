// @vitest-environment happy-dom
import { act, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { pageKey } from '../src/api/hooks'
import type { Reading, TrialPageData } from '../src/api/types'
import * as toast from '../src/shared/toast'
import type { Scores } from '../src/trial/read/scoring'
import { keptScores, trialsWaiting } from '../src/trial/read/keptScores'
import { useReadings } from '../src/trial/read/useReadings'
import { cut, ofCuts } from './made'
import { later, mounted, served } from './mounted'
import type { Asked } from './mounted'

const failed = vi.spyOn(toast, 'sayFailed').mockReturnValue(undefined)
beforeEach(() => failed.mockClear())
afterEach(() => vi.unstubAllGlobals())

const scores = (through: number): Scores => ({ values: { through }, cannot_tell: false, note: '' })
const reading = (patch: string, through: number, edit: number): Reading => ({
  ...{ patch, face: 'back', said_by: 'person', at: '', by_name: 'Moss', edit },
  ...scores(through),
  values: { through },
})
const page = (readings: Reading[] = []) =>
  ({ id: 7, number: 4, process: 'cut', burn: { id: 70 }, steps: [], readings }) as unknown as TrialPageData

type Sent = { patch: string; edit: number; values: Record<string, number> }
const sent = (asked: Asked) => (asked.body as { readings: Sent[] }).readings
const stores = (asked: Asked) => asked.method === 'PUT'
/** As the server does: what came, with the next edit. */
const stored = (asked: Asked) => ({
  body: {
    readings: sent(asked).map(({ patch, values, edit }) => reading(patch, values.through ?? 0, edit + 1)),
  },
})
const conflict = (theirs: Reading) => ({
  status: 409,
  body: { title: 'Stale', detail: 'Stale', current: theirs },
})

function reads(answer: (asked: Asked) => ReturnType<Parameters<typeof served>[0]>, before: Reading[] = []) {
  const asked = served((one) => (stores(one) ? answer(one) : { body: page(before) }))
  const hook = mounted(useReadings, page(before), { inventory: { scales: ofCuts, processes: [cut] } })
  hook.client.setQueryData(pageKey(7, { burn: null, step: null }), page(before))
  return { ...hook, asked, puts: () => asked.filter(stores).map(sent) }
}

describe('readings', () => {
  it('show a score with the key that gave it, before the server has it', async () => {
    const answer = later<ReturnType<typeof stored>>()
    const { result, client } = reads(() => answer.promise)
    act(() => result.current.score(new Map([['A1', scores(2)]])))
    expect(result.current.scoresFor('A1').values).toEqual({ through: 2 })
    expect(result.current.waiting).toBe(true)
    await act(async () => {
      answer.keep({ body: { readings: [reading('A1', 2, 1)] } })
      await answer.promise
    })
    await waitFor(() => expect(result.current.waiting).toBe(false))
    const known = client.getQueryData<TrialPageData>(pageKey(7, { burn: null, step: null }))
    expect(known?.readings).toEqual([reading('A1', 2, 1)])
  })

  it('are stored one after the other, each with the edit that the one before it gave', async () => {
    const [first, second] = [later<ReturnType<typeof stored>>(), later<ReturnType<typeof stored>>()]
    const held = [first.promise, second.promise]
    const { result, puts, client } = reads((asked) => held.shift() ?? stored(asked))
    const shown = () => result.current.scoresFor('A1').values.through
    act(() => result.current.score(new Map([['A1', scores(1)]])))
    act(() => result.current.score(new Map([['A1', scores(3)]])))
    await waitFor(() => expect(puts()).toHaveLength(1))
    act(() => first.keep({ body: { readings: [reading('A1', 1, 1)] } }))
    await waitFor(() => expect(puts()).toHaveLength(2))
    // The answer to the first does not show the first again.
    expect(shown()).toBe(3)
    act(() => second.keep({ body: { readings: [reading('A1', 3, 2)] } }))
    await waitFor(() => expect(result.current.waiting).toBe(false))
    // An answer that was asked for before these knows nothing of them.
    client.setQueryData(pageKey(7, { burn: null, step: null }), page())
    act(() => void result.current.undo())
    await waitFor(() => expect(puts()).toHaveLength(3))
    expect(puts().map(([one]) => [one?.values.through, one?.edit])).toEqual([
      [1, 0],
      [3, 1],
      [1, 2],
    ])
  })

  it('of several patches go at one stroke, and come back at one', async () => {
    const { result, puts } = reads(stored, [reading('A1', 0, 4)])
    const both = new Map([
      ['A1', scores(2)],
      ['A2', scores(2)],
    ])
    act(() => result.current.score(both))
    await waitFor(() => expect(result.current.waiting).toBe(false))
    expect(puts()[0]?.map(({ patch, edit }) => [patch, edit])).toEqual([
      ['A1', 4],
      ['A2', 0],
    ])
    let undone: string | null = null
    act(() => (undone = result.current.undo()))
    expect(undone).toBe('A1')
    await waitFor(() => expect(puts()).toHaveLength(2))
    expect(puts()[1]?.map(({ values }) => values)).toEqual([{ through: 0 }, {}])
    expect(result.current.canUndo).toBe(false)
  })

  it('are told one by one where one of several clashes, and only that one is asked about', async () => {
    const theirs = reading('A2', 0, 9)
    const { result, puts } = reads((asked) =>
      sent(asked).some(({ patch }) => patch === 'A2') ? conflict(theirs) : stored(asked),
    )
    const both = new Map([
      ['A1', scores(2)],
      ['A2', scores(3)],
    ])
    act(() => result.current.score(both))
    await waitFor(() => expect(result.current.clash?.patch).toBe('A2'))
    expect(puts().map((one) => one.map(({ patch }) => patch))).toEqual([['A1', 'A2'], ['A1'], ['A2']])
    expect(result.current.clash?.theirs.values).toEqual({ through: 0 })
    expect(result.current.clash?.mine.values).toEqual({ through: 3 })
    expect(failed).not.toHaveBeenCalled()
  })

  it('of mine are stored over theirs when somebody says so, and theirs stay when not', async () => {
    const theirs = reading('A1', 0, 9)
    let clashes = true
    const { result, puts, client } = reads((asked) => (clashes ? conflict(theirs) : stored(asked)))
    act(() => result.current.score(new Map([['A1', scores(3)]])))
    await waitFor(() => expect(result.current.clash).not.toBeNull())
    clashes = false
    client.setQueryData(pageKey(7, { burn: null, step: null }), page([theirs]))
    act(() => result.current.settleClash(new Set(['through'])))
    await waitFor(() => expect(puts()).toHaveLength(2))
    expect(puts()[1]).toMatchObject([{ patch: 'A1', edit: 9, values: { through: 3 } }])
    act(() => result.current.settleClash(new Set()))
    expect(puts()).toHaveLength(2)
  })

  it('wait here while there is no connection, and go in their order once it is back', async () => {
    let away = true
    const { result, puts, unmount } = reads((asked) => {
      if (away) throw new TypeError('Failed to fetch')
      return stored(asked)
    })
    act(() => result.current.score(new Map([['A1', scores(1)]])))
    act(() => result.current.score(new Map([['A2', scores(2)]])))
    act(() => result.current.score(new Map([['A1', scores(3)]])))
    await waitFor(() => expect(result.current.away).toBe(2))
    expect(result.current.scoresFor('A1').values.through).toBe(3)
    expect(keptScores(70, 1).map((stroke) => [...stroke.keys()])).toEqual([['A1'], ['A2'], ['A1']])
    expect(trialsWaiting(1)).toEqual([{ id: 7, number: 4 }])
    expect(trialsWaiting(2)).toEqual([])
    // The page is left and opened again: nothing is lost.
    unmount()
    const again = reads((asked) => {
      if (away) throw new TypeError('Failed to fetch')
      return stored(asked)
    })
    await waitFor(() => expect(again.result.current.away).toBe(2))
    const before = again.puts().length
    away = false
    act(() => void window.dispatchEvent(new Event('online')))
    await waitFor(() => expect(again.result.current.waiting).toBe(false))
    const told = again.puts().slice(before)
    expect(told.map(([one]) => [one?.patch, one?.values.through, one?.edit])).toEqual([
      ['A1', 1, 0],
      ['A2', 2, 0],
      ['A1', 3, 1],
    ])
    expect(keptScores(70, 1)).toEqual([])
    expect(trialsWaiting(1)).toEqual([])
    expect(failed).not.toHaveBeenCalled()
    expect(puts().length).toBeGreaterThan(0)
  })

  it('say what went wrong, and show what the server has', async () => {
    const { result } = reads(() => ({ status: 500, body: { title: 'Broken', detail: 'The disk is full.' } }))
    act(() => result.current.score(new Map([['A1', scores(3)]])))
    await waitFor(() => expect(failed).toHaveBeenCalledOnce())
    expect(failed.mock.calls[0]?.[0]).toMatchObject({ message: 'The disk is full.' })
    await waitFor(() => expect(result.current.scoresFor('A1').values).toEqual({}))
    expect(result.current.clash).toBeNull()
  })
})
