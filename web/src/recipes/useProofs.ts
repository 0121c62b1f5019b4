import { useMutation } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { useForget } from '../api/stale'
import type { Aim, FailedBecause, Wish } from '../api/types'
import { sayDone, sayFailed } from '../shared/toast'
import { useBegun } from './useBegun'

/** What of a burn is to be proven: what was chosen for an aim, or what a patch got. */
type Proved = { aim: Aim; wish: Wish } | { patch: string }

/** Begins the proof of something of a burn. */
export const useProve = (burn: number, step: number | undefined, proved: Proved) =>
  useBegun(() =>
    answer(
      api.POST('/api/burns/{id}/proof', { params: { path: { id: burn }, query: { step } }, body: proved }),
    ),
  )

/** Begins the proof of a recipe. */
export const useProveRecipe = (recipe: number) =>
  useBegun(() => answer(api.POST('/api/recipes/{id}/proof', { params: { path: { id: recipe } } })))

/** Begins the slots and tab that tell how wide the cut of a recipe is. */
export const useFindKerf = (recipe: number) =>
  useBegun(() => answer(api.POST('/api/recipes/{id}/kerf', { params: { path: { id: recipe } } })))

/** Begins the small array of the same dose in more and faster passes. */
export const useMorePasses = (burn: number, step: number | undefined, patch: string) =>
  useBegun(() =>
    answer(
      api.POST('/api/burns/{id}/more-passes', {
        params: { path: { id: burn }, query: { step } },
        body: { patch },
      }),
    ),
  )

interface Said {
  held: boolean
  note: string
  reason: FailedBecause | null
}

/** Says of a recipe that it held or failed on a real shape. */
export function useSayInBook(trial: number, recipe: number) {
  const forget = useForget()
  return useMutation({
    mutationFn: (said: Said) =>
      answer(
        api.POST('/api/recipes/{id}/confirmations', {
          params: { path: { id: recipe } },
          body: said,
        }),
      ),
    onSuccess: async () => {
      sayDone('The book says so now.')
      await Promise.all([forget('trial', trial), forget('recipe', recipe)])
    },
    onError: sayFailed,
  })
}
