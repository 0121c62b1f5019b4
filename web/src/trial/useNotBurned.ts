import { useMutation, useQueryClient } from '@tanstack/react-query'
import { put } from '../api/client'
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
      put(`/api/burns/${burn?.id}/patches/${patch}/not-burned`, {
        not_burned: !page.not_burned.includes(patch),
      }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: trialKey(page.id) })
      void forgetLists()
    },
    onError: sayFailed,
  })
  return mark.mutate
}
