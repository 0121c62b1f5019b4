import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { trialKey, useForgetLists } from '../api/hooks'
import type { TrialPageData } from '../api/types'
import { sayFailed } from '../shared/toast'

/** Says that a patch of the latest burn stayed bare, or that it was burned after all. */
export function useNotBurned(page: TrialPageData): (patch: string) => void {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const burn = page.burn
  const mark = useMutation({
    mutationFn: (patch: string) =>
      answer(
        api.PUT('/api/burns/{id}/patches/{patch}/not-burned', {
          params: { path: { id: burn?.id ?? 0, patch } },
          body: { not_burned: !page.not_burned.includes(patch) },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: trialKey(page.id) })
      void forgetLists()
    },
    onError: sayFailed,
  })
  return mark.mutate
}
