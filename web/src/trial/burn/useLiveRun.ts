import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback } from 'react'
import { answer, api } from '../../api/client'
import { liveKey, lookUpEnded, trialKey, useForgetLists } from '../../api/hooks'
import type { Correction, LiveRun, Remark, TrialPageData } from '../../api/types'
import { sayFailed } from '../../shared/toast'
import { hasEndedSince, laterRun } from '../../api/runs'

// Where the stream of events cannot be had, the run is asked after.
const ASK_AGAIN_MS = 2000
// Nobody tells of a run by the clock but the clock.
const LOOK_AT_CLOCK_MS = 1000

/** The latest run of a trial, as it goes on. */
export function useLiveRun(page: TrialPageData): LiveRun | null {
  const client = useQueryClient()
  const heard = useQuery({
    queryKey: liveKey(page.id),
    queryFn: async ({ signal }) => {
      const { runs } = await answer(api.GET('/api/live', { signal }))
      const run = runs.filter((one) => one.trial_id === page.id).at(-1) ?? null
      if (run && hasEndedSince(client.getQueryData<LiveRun | null>(liveKey(page.id)), run))
        lookUpEnded(client, page.id)
      return run
    },
    initialData: page.live,
    staleTime: Infinity,
    refetchInterval: ({ state: { data } }) =>
      data && !data.settled ? (data.by_clock ? LOOK_AT_CLOCK_MS : ASK_AGAIN_MS) : false,
  })
  return laterRun(page.live, heard.data)
}

const at = (key: string) => ({ params: { path: { key } } })

/** What is told a run while it goes on. */
export const TOLD = {
  hold: (key: string) => () => answer(api.POST('/api/live/{key}/hold', at(key))),
  stop: (key: string) => () => answer(api.POST('/api/live/{key}/stop', at(key))),
  control: (key: string) => () => answer(api.POST('/api/live/{key}/control', at(key))),
  goOn: (key: string, at_machine: boolean) => () =>
    answer(api.POST('/api/live/{key}/go-on', { ...at(key), body: { at_machine } })),
  turned: (key: string, part: string, shown: Record<string, string>) => () =>
    answer(api.POST('/api/live/{key}/turned', { ...at(key), body: { part, shown, at_machine: true } })),
  correct: (key: string, what: Correction['what'], steps: number) => () =>
    answer(api.POST('/api/live/{key}/correction', { ...at(key), body: { what, steps } })),
  nudge: (key: string, right_mm: number, up_mm: number) => () =>
    answer(api.POST('/api/live/{key}/nudge', { ...at(key), body: { right_mm, up_mm } })),
}

const of = (burn: number) => ({ params: { path: { id: burn } } })
const say =
  (burn: number, what: 'pause' | 'go_on' | 'at', part = '') =>
  () =>
    answer(api.POST('/api/burns/{id}/clock', { ...of(burn), body: { what, part, by_s: 0 } }))

/** What is said of a run that is followed by the clock. */
export const SAID = {
  pause: (burn: number) => say(burn, 'pause'),
  goOn: (burn: number) => say(burn, 'go_on'),
  begins: (burn: number, part: string) => say(burn, 'at', part),
  turned: (burn: number, part: string, shown: Record<string, string>) => () =>
    answer(api.POST('/api/burns/{id}/clock/turned', { ...of(burn), body: { part, shown } })),
  corrected: (burn: number, key: string, way: 'lower' | 'higher' | '', shown: string) => () =>
    answer(api.POST('/api/burns/{id}/clock/corrected', { ...of(burn), body: { key, way, shown } })),
  ended: (burn: number, whole: boolean) => () =>
    answer(api.POST('/api/burns/{id}/clock/ended', { ...of(burn), body: { whole } })),
}

/** Everything one can ask of the machine; what fails is said in the server's own sentence. */
export function useBurnActions(page: TrialPageData) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const refresh = useCallback(async () => {
    await client.invalidateQueries({ queryKey: trialKey(page.id) })
    void forgetLists()
  }, [client, forgetLists, page.id])
  const begin = useMutation({
    mutationFn: (ask: () => Promise<LiveRun>) => ask(),
    onSuccess: async (run) => {
      client.setQueryData(liveKey(page.id), run)
      await refresh()
    },
  })
  const tell = useMutation({ mutationFn: (ask: () => Promise<unknown>) => ask(), onError: sayFailed })
  const takeBack = useMutation({
    mutationFn: (remark: number) =>
      answer(api.DELETE('/api/remarks/{id}', { params: { path: { id: remark } } })),
    onSuccess: refresh,
    onError: sayFailed,
  })
  const clock = useMutation({
    mutationFn: (ask: () => Promise<LiveRun>) => ask(),
    onSuccess: async (run) => {
      client.setQueryData(liveKey(page.id), run.settled ? null : run)
      await refresh()
    },
    onError: sayFailed,
  })
  const burn = page.burn?.id
  const remark = useMutation({
    mutationFn: (said: { kind: Remark['kind']; patch: string | null; note?: string }) =>
      answer(api.POST('/api/burns/{id}/remarks', { params: { path: { id: burn ?? 0 } }, body: said })),
    // It stands in the log, where it can be taken back; nothing may come up over Hold and Stop.
    onSuccess: refresh,
    onError: sayFailed,
  })
  return {
    begin,
    tell: tell.mutate,
    clock: clock.mutate,
    remark: remark.mutate,
    takeBack: takeBack.mutate,
    refresh,
  }
}

export type BurnActions = ReturnType<typeof useBurnActions>
