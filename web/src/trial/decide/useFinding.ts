import { skipToken, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import type { Aim, Wish } from '../../api/types'
import { useBegun } from '../../recipes/useBegun'
import { sayDone, sayFailed } from '../../shared/toast'
import { useAddress } from '../../shared/useAddress'

const KEYS = ['power_at_most_pct', 'piece_mm', 'lightness', 'depth_mm', 'depth_off_mm'] as const
export type WishKey = (typeof KEYS)[number]
export type SetWish = (key: WishKey | 'colour' | 'bounds', value: number | string | null) => void

/** What somebody keeps to; it stands in the address, so that a link restores it. */
export function useWish(): [Wish, SetWish] {
  const [search, setSearch] = useAddress()
  const wish: Wish = {}
  for (const key of KEYS) {
    const value = Number(search.get(key))
    if (search.get(key) !== null && Number.isFinite(value)) wish[key] = value
  }
  for (const key of ['colour', 'bounds'] as const) {
    const said = search.get(key)
    if (said !== null) wish[key] = said
  }
  const set: SetWish = (key, value) =>
    setSearch(
      (before) => {
        if (value === null) before.delete(key)
        else before.set(key, String(value))
        return before
      },
      { replace: true },
    )
  return [wish, set]
}

/** Names with their numbers, from `char=1,kerf_mm=0.2` as it stands in the address. */
function pairsOf(text: string | null | undefined): Map<string, number> {
  const parts = (text ?? '').split(',').filter(Boolean)
  return new Map(parts.map((part) => [part.split('=')[0] ?? '', Number(part.split('=')[1] ?? '')]))
}

/** The same with one of them set, or taken away; null where none is left. */
function withPair(text: string | null | undefined, name: string, value: number | null): string | null {
  const pairs = pairsOf(text)
  if (value === null) pairs.delete(name)
  else pairs.set(name, value)
  return [...pairs].map(([one, number]) => `${one}=${number}`).join(',') || null
}

/** Bounds of what is read, by scale. */
export const boundsOf = (wish: Wish) => pairsOf(wish.bounds)
export const withBound = (wish: Wish, key: string, value: number | null) => withPair(wish.bounds, key, value)

/** Which slice the map shows where more settings vary than it has edges, as `passes=2`; it stands in the address. */
export function useSlice(): [string | undefined, (parameter: string, value: number) => void] {
  const [search, setSearch] = useAddress()
  const slice = search.get('slice') ?? undefined
  const set = (parameter: string, value: number) =>
    setSearch(
      (before) => {
        before.set('slice', withPair(before.get('slice'), parameter, value) ?? '')
        return before
      },
      { replace: true },
    )
  return [slice, set]
}

/** What the plates mean; asked anew when something is read otherwise or somebody keeps to something else. */
export function useFinding(
  burn: number | null,
  step: number | undefined,
  readings: unknown,
  wish: Wish,
  slice?: string,
) {
  return useQuery({
    queryKey: ['finding', burn, step, readings, wish, slice],
    queryFn:
      burn === null
        ? skipToken
        : ({ signal }) =>
            answer(
              api.GET('/api/burns/{id}/finding', {
                params: { path: { id: burn }, query: { ...wish, slice, step } },
                signal,
              }),
            ),
    placeholderData: (previous) => previous,
  })
}

/** One press: the next array as a plan. */
export const usePlanNext = (burn: number, step: number | undefined, wish: Wish) =>
  useBegun(() =>
    answer(api.POST('/api/burns/{id}/next', { params: { path: { id: burn }, query: { step } }, body: wish })),
  )

/** Keeps a candidate: an estimate that rests on the plates, unless a real shape has held with it already. */
export function useKeepCandidate(trial: number, burn: number, step: number | undefined, wish: Wish) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  return useMutation({
    mutationFn: (aim: Aim) =>
      answer(
        api.POST('/api/burns/{id}/candidates', {
          params: { path: { id: burn }, query: { step } },
          body: { aim, wish, purpose: '', note: '' },
        }),
      ),
    onSuccess: async ({ standing }) => {
      sayDone(
        standing === 'estimate'
          ? 'It is in the book, as an estimate until it has held.'
          : 'It is in the book, with the real shape that held.',
      )
      await client.invalidateQueries({ queryKey: trialKey(trial) })
      void forgetLists()
    },
    onError: sayFailed,
  })
}
