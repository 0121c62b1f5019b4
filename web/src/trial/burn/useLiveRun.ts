import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback } from 'react'
import { get, post, remove } from '../../api/client'
import { liveKey, lookUpEnded, trialKey, useForgetLists } from '../../api/hooks'
import type { LiveRun, Remark, TrialPageData } from '../../api/types'
import { sayFailed } from '../../shared/toast'
import { hasEndedSince, laterRun } from './liveRun'

// Where the stream of events cannot be had, the run is asked after.
const ASK_AGAIN_MS = 2000

/** The latest run of a trial, as it goes on. */
export function useLiveRun(page: TrialPageData): LiveRun | null {
  const client = useQueryClient()
  const heard = useQuery({
    queryKey: liveKey(page.id),
    queryFn: async ({ signal }) => {
      const { runs } = await get<{ runs: LiveRun[] }>('/api/live', signal)
      const run = runs.filter((one) => one.trial_id === page.id).at(-1) ?? null
      if (run && hasEndedSince(client.getQueryData<LiveRun | null>(liveKey(page.id)), run))
        lookUpEnded(client, page.id)
      return run
    },
    initialData: page.live,
    staleTime: Infinity,
    refetchInterval: ({ state: { data } }) => (data && !data.settled ? ASK_AGAIN_MS : false),
  })
  return laterRun(page.live, heard.data)
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
    mutationFn: ({ url, body }: { url: string; body: unknown }) => post<LiveRun>(url, body),
    onSuccess: async (run) => {
      client.setQueryData(liveKey(page.id), run)
      await refresh()
    },
  })
  const tell = useMutation({
    mutationFn: ({ url, body }: { url: string; body: unknown }) => post<null>(url, body),
    onError: sayFailed,
  })
  const takeBack = useMutation({
    mutationFn: (remark: number) => remove(`/api/remarks/${remark}`),
    onSuccess: refresh,
    onError: sayFailed,
  })
  const burn = page.burn?.id
  const remark = useMutation({
    mutationFn: (said: { kind: string; patch: string | null; note?: string }) =>
      post<Remark>(`/api/burns/${burn}/remarks`, said),
    // It stands in the log, where it can be taken back; nothing may come up over Hold and Stop.
    onSuccess: refresh,
    onError: sayFailed,
  })
  return { begin, tell: tell.mutate, remark: remark.mutate, takeBack: takeBack.mutate, refresh }
}

export type BurnActions = ReturnType<typeof useBurnActions>
