// @vitest-environment happy-dom
import type { QueryClient } from '@tanstack/react-query'
import { act } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { Design, Preview, TrialPageData } from '../src/api/types'
import { useDesign } from '../src/trial/plan/useDesign'
import { later, mounted, served } from './mounted'

afterEach(() => vi.unstubAllGlobals())

const axis = (from: unknown, count: number) => ({ parameter: 'speed_mm_s', along: 'x', from, to: 20, count })
const designOf = (from: unknown, count = 5) => ({ axes: [axis(from, count)], title: '' }) as unknown as Design
const planned = (from: number, count = 5) =>
  ({ plate: { trial: designOf(from, count) }, texts: [], files: [], against: null }) as unknown as Preview

const hasPlan = (client: QueryClient) =>
  client.getQueriesData<Preview>({ queryKey: ['preview'] }).some(([, data]) => data)

function edits() {
  const first = later<{ body: Preview }>()
  const previews: unknown[] = []
  served(({ path, body }) => {
    if (!path.endsWith('/preview')) return { body: { edit: 2, design: designOf(8) } }
    previews.push(body)
    return previews.length === 1 ? first.promise : new Promise(() => undefined)
  })
  const page = { id: 7, edit: 1, design: designOf(8), plate: planned(8).plate } as unknown as TrialPageData
  const hook = mounted((one: TrialPageData) => useDesign(one, {}), page, {
    inventory: { materials: [], units: {} },
  })
  return { ...hook, first, from: () => hook.result.current.handle.design.axes[0]?.from }
}

describe('what was typed in a field that was left', () => {
  it('becomes the number it was understood as', async () => {
    const { result, first, from } = edits()
    act(() => result.current.handle.change(() => designOf('600 mm/min'), 'axes[0].from'))
    act(() => result.current.handle.settle())
    expect(from()).toBe('600 mm/min')
    await act(async () => {
      first.keep({ body: planned(10) })
      await vi.waitFor(() => expect(result.current.handle.designNow()).not.toEqual(designOf('600 mm/min')))
    })
    expect(from()).toBe(10)
  })

  it('stays that number where the next press comes before it is drawn', async () => {
    const { result, client, first, from } = edits()
    act(() => result.current.handle.change(() => designOf('600 mm/min'), 'axes[0].from'))
    act(() => result.current.handle.settle())
    await act(async () => {
      first.keep({ body: planned(10) })
      await vi.waitFor(() => expect(hasPlan(client)).toBe(true), { interval: 1 })
      // Whoever waits for the plan hears of it a few turns later; nothing is drawn until all of this act is over.
      for (let i = 0; i < 50; i++) await Promise.resolve()
      result.current.handle.change((now) => ({ ...now, title: 'pressed' }))
    })
    expect(result.current.handle.design.title).toBe('pressed')
    expect(from()).toBe(10)
  })
})
