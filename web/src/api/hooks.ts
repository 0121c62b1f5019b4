import {
  type QueryClient,
  skipToken,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query'
import { useCallback } from 'react'
import { staleKeys } from './stale'
import { answer, api, rememberToken } from './client'
import type { BegunAs, Lay, Photo, ProcessKey, Standing } from './types'

/** How one comes in: an empty folder, the demo, or a shop with sign-in. */
export function useDoor() {
  return useQuery({ queryKey: ['door'], queryFn: ({ signal }) => answer(api.GET('/api/door', { signal })) })
}

/** The shop and the tables everything is drawn from. */
export function useInventory() {
  return useQuery({
    queryKey: ['shop'],
    queryFn: ({ signal }) => answer(api.GET('/api/shop', { signal })),
    staleTime: 60_000,
  })
}

export function useMe() {
  return useQuery({
    queryKey: ['me'],
    queryFn: async ({ signal }) => {
      const me = await answer(api.GET('/api/me', { signal }))
      rememberToken(me.form_token)
      return me
    },
    staleTime: 60_000,
  })
}

export function usePickMember() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (member: number) => answer(api.PUT('/api/me', { body: { member } })),
    onSuccess: (me) => client.setQueryData(['me'], me),
  })
}

/** The parts of a question that were said. */
function said<T extends object>(parts: T): { [K in keyof T]?: Exclude<T[K], null | ''> } {
  const given = Object.entries(parts).filter(
    ([, value]) => value !== null && value !== undefined && value !== '',
  )
  return Object.fromEntries(given) as { [K in keyof T]?: Exclude<T[K], null | ''> }
}

export function useAnswer(process: ProcessKey, material: number | null, head: number | null, lay: Lay) {
  return useQuery({
    queryKey: ['ask', process, material, head, lay],
    queryFn:
      material === null || head === null
        ? skipToken
        : ({ signal }) =>
            answer(api.GET('/api/ask', { params: { query: { process, material, head, lay } }, signal })),
    placeholderData: (previous) => previous,
  })
}

export interface FailedFilter {
  head: number | null
  material: number | null
  process: ProcessKey | null
}

/** What was burned and failed. */
export function useFailed(filter: FailedFilter) {
  return useQuery({
    queryKey: ['recipes', 'failed', filter],
    queryFn: ({ signal }) =>
      answer(api.GET('/api/failed-settings', { params: { query: said({ ...filter }) }, signal })).then(
        (answer) => answer.failed,
      ),
  })
}

export interface TrialFilter {
  head?: number | null
  material?: number | null
  bench?: boolean
  text?: string
  shelf?: 'plates' | 'drafts' | 'away' | null
  most?: number
}

export function useTrials(filter: TrialFilter, enabled = true) {
  return useQuery({
    enabled,
    queryKey: ['trials', filter],
    queryFn: ({ signal }) =>
      answer(api.GET('/api/trials', { params: { query: said({ ...filter }) }, signal })).then(
        (answer) => answer.trials,
      ),
  })
}

const A_WALL = 60

/** The wall of trials, page by page. */
export function useTrialWall(filter: TrialFilter) {
  return useInfiniteQuery({
    queryKey: ['trials', 'wall', filter],
    initialPageParam: 0,
    queryFn: ({ signal, pageParam }) =>
      answer(
        api.GET('/api/trials', {
          params: { query: said({ ...filter, skip: pageParam, most: A_WALL }) },
          signal,
        }),
      ).then((answer) => answer.trials),
    getNextPageParam: (last, pages) => (last.length < A_WALL ? undefined : pages.length * A_WALL),
    placeholderData: (previous) => previous,
  })
}

export const isBeingRead = (photo: Photo) => photo.matrix === null && photo.trouble === ''

/** All that is known of a trial; the page of each of its burns stands below it. */
export const trialKey = (id: number) => ['trial', id] as const
export const pageKey = (id: number, { burn, step }: ShownOfTrial) =>
  ['trial', id, burn ?? 'latest', step ?? 'own'] as const

/** One of a trial's burns, and one of several steps; null: the latest, and what the trial set out to do. */
export interface ShownOfTrial {
  burn: number | null
  step: number | null
}

export const liveKey = (trial: number) => ['live', trial] as const

/** A run of a trial has ended: what became of it is in the records, and photographs may follow. */
export function lookUpEnded(client: QueryClient, trial: number) {
  void client.invalidateQueries({ queryKey: trialKey(trial) })
  void client.invalidateQueries({ queryKey: ['trials'] })
}

export function useTrial(id: number, shown: ShownOfTrial) {
  return useQuery({
    queryKey: pageKey(id, shown),
    queryFn: ({ signal }) =>
      answer(api.GET('/api/trials/{id}', { params: { path: { id }, query: said({ ...shown }) }, signal })),
    // Another step of the same plate: the page stays while it comes.
    placeholderData: (previous) => (previous?.id === id ? previous : undefined),
    // A photo that is being read is there within seconds.
    refetchInterval: ({ state }) => (state.data?.photos.some(isBeingRead) ? 1500 : false),
  })
}

export function useNewTrial() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (wanted: { process: ProcessKey; material: number; head: number; begun_as: BegunAs }) =>
      answer(api.POST('/api/trials', { body: wanted })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['trials'] }),
  })
}

export function useDecision(burn: number | null, step: number | undefined, readings: unknown) {
  return useQuery({
    queryKey: ['decision', burn, step, readings],
    queryFn:
      burn === null
        ? skipToken
        : ({ signal }) =>
            answer(
              api.GET('/api/burns/{id}/decision', {
                params: { path: { id: burn }, query: said({ step }) },
                signal,
              }),
            ),
    placeholderData: (previous) => previous,
  })
}

export interface BookFilter {
  text?: string
  head?: number | null
  material?: number | null
  process?: ProcessKey | null
  standing?: Standing | null
}

const A_PAGE = 40

/** The recipes that match, page by page. */
export function useBook(filter: BookFilter, enabled = true) {
  return useInfiniteQuery({
    queryKey: ['recipes', filter],
    initialPageParam: 0,
    queryFn: ({ signal, pageParam }) =>
      answer(
        api.GET('/api/recipes', {
          params: { query: said({ ...filter, skip: pageParam, most: A_PAGE }) },
          signal,
        }),
      ),
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((sum, page) => sum + page.recipes.length, 0)
      return shown < last.total ? shown : undefined
    },
    placeholderData: (previous) => previous,
    enabled,
  })
}

export function useWall(machine: number) {
  return useQuery({
    queryKey: ['recipes', 'wall', machine],
    queryFn: ({ signal }) =>
      answer(api.GET('/api/machines/{id}/wall', { params: { path: { id: machine } }, signal })),
  })
}

export function useMap(process: ProcessKey, enabled = true) {
  return useQuery({
    queryKey: ['map', process],
    queryFn: ({ signal }) => answer(api.GET('/api/map', { params: { query: { process } }, signal })),
    placeholderData: (previous) => previous,
    enabled,
  })
}

export function useRecipe(id: number) {
  return useQuery({
    queryKey: ['recipe', id],
    queryFn: ({ signal }) => answer(api.GET('/api/recipes/{id}', { params: { path: { id } }, signal })),
  })
}

/** Everything that shows recipes or trials is out of date after one was kept, burned or changed. */
export function useForgetLists() {
  const client = useQueryClient()
  return useCallback(() => {
    const [recipes, [, ...trials]] = [staleKeys({ subject: 'recipe' }), staleKeys({ subject: 'trial' })]
    return Promise.all([...recipes, ...trials].map((queryKey) => client.invalidateQueries({ queryKey })))
  }, [client])
}
