// @vitest-environment happy-dom
import { act, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { liveKey, trialKey } from '../src/api/hooks'
import type { LiveRun, TrialPageData } from '../src/api/types'
import * as toast from '../src/shared/toast'
import { TOLD, useBurnActions, useLiveRun } from '../src/trial/burn/useLiveRun'
import { mounted, served } from './mounted'

const failed = vi.spyOn(toast, 'sayFailed').mockReturnValue(undefined)
beforeEach(() => {
  failed.mockClear()
  vi.useFakeTimers({ shouldAdvanceTime: true })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const run = (more: Partial<LiveRun> = {}) =>
  ({ key: 'k1', version: 1, trial_id: 7, state: 'running', settled: false, ...more }) as LiveRun
const page = (live: LiveRun | null) => ({ id: 7, burn: { id: 70 }, live }) as unknown as TrialPageData

describe('the run of a trial', () => {
  it('is the one the page came with until something later is heard', async () => {
    served(() => ({ body: { runs: [] } }))
    const { result, client } = mounted(useLiveRun, page(run()))
    expect(result.current?.version).toBe(1)
    act(() => void client.setQueryData(liveKey(7), run({ version: 5, state: 'held' })))
    await waitFor(() => expect(result.current?.state).toBe('held'))
    act(() => void client.setQueryData(liveKey(7), run({ version: 0 })))
    await waitFor(() => expect(result.current?.version).toBe(1))
  })

  it('is asked after while it goes on, and no more once its end is in the records', async () => {
    let now = run({ version: 2 })
    const asked = served(() => ({ body: { runs: [run({ key: 'other', trial_id: 8 }), now] } }))
    const { result, client } = mounted(useLiveRun, page(run()))
    const stale = vi.spyOn(client, 'invalidateQueries')
    await act(() => vi.advanceTimersByTimeAsync(2100))
    await waitFor(() => expect(result.current?.version).toBe(2))
    expect(stale).not.toHaveBeenCalled()
    now = run({ version: 9, state: 'done', settled: true })
    await act(() => vi.advanceTimersByTimeAsync(2100))
    await waitFor(() => expect(result.current?.state).toBe('done'))
    expect(stale).toHaveBeenCalledWith({ queryKey: trialKey(7) })
    const before = asked.length
    await act(() => vi.advanceTimersByTimeAsync(10_000))
    expect(asked).toHaveLength(before)
  })

  it('that does not exist is not asked after', async () => {
    const asked = served(() => ({ body: { runs: [] } }))
    const { result } = mounted(useLiveRun, page(null))
    await act(() => vi.advanceTimersByTimeAsync(10_000))
    expect(result.current).toBeNull()
    expect(asked).toHaveLength(0)
  })
})

describe('what is told the machine', () => {
  it('is shown at once where it begins a run', async () => {
    served(() => ({ body: {} }))
    const { result, client } = mounted(useBurnActions, page(null))
    act(() => result.current.begin.mutate(() => Promise.resolve(run({ key: 'new' }))))
    await waitFor(() => expect(client.getQueryData<LiveRun>(liveKey(7))?.key).toBe('new'))
  })

  it('goes to its run, and is said where it does not arrive', async () => {
    const asked = served(() => ({
      status: 409,
      body: { title: 'Refused', detail: 'Tess holds the control.' },
    }))
    const { result } = mounted(useBurnActions, page(run()))
    act(() => result.current.tell(TOLD.correct('k1', 'power', -1)))
    await waitFor(() => expect(failed).toHaveBeenCalledOnce())
    expect(asked[0]).toMatchObject({
      ...{ method: 'POST', path: '/api/live/k1/correction' },
      body: { what: 'power', steps: -1 },
    })
    expect(failed.mock.calls[0]?.[0]).toMatchObject({ message: 'Tess holds the control.' })
  })

  it('is a remark on the burn of the page', async () => {
    const asked = served(() => ({ status: 201, body: { id: 1 } }))
    const { result } = mounted(useBurnActions, page(run()))
    act(() => result.current.remark({ kind: 'flame', patch: 'B2' }))
    await waitFor(() => expect(asked).toHaveLength(1))
    expect(asked[0]).toEqual({
      ...{ method: 'POST', path: '/api/burns/70/remarks' },
      body: { kind: 'flame', patch: 'B2' },
    })
    expect(failed).not.toHaveBeenCalled()
  })
})
