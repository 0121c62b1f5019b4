import { useQueryClient } from '@tanstack/react-query'
import type { QueryClient, QueryKey } from '@tanstack/react-query'
import { useCallback } from 'react'
import type { Change, TrialPageData } from './types'

export type Changed = Pick<Change, 'subject' | 'subject_id'>

/** The one list of what is out of date after a thing was changed, by me or by others. Without an id: all of its kind. */
export function staleKeys({ subject, subject_id: id }: { subject: Change['subject']; subject_id?: number }) {
  const itself = id === undefined ? [subject] : [subject, id]
  switch (subject) {
    case 'array':
      return [['arrays'], ['changes']]
    case 'figure':
      return [['kept-figures'], ['changes']]
    case 'trial':
      return [itself, ['trials'], ['ask'], ['changes']]
    case 'recipe':
      return [itself, ['recipes'], ['ask'], ['map'], ['changes']]
    case 'member':
      return [['shop'], ['me'], ['changes']]
    default:
      return [['shop'], ['ask'], ['map'], ['changes']]
  }
}

/** Looks up again all that changes make out of date, each once; with a trial that proves something, what it is proven
 * of, too. */
export function lookUp(client: QueryClient, changes: readonly Changed[]) {
  const keys = new Map<string, QueryKey>()
  const add = (key: QueryKey) => keys.set(JSON.stringify(key), key)
  changes.flatMap(staleKeys).forEach(add)
  const trials = new Set(changes.filter(({ subject }) => subject === 'trial').map((one) => one.subject_id))
  for (const [key, page] of client.getQueriesData<TrialPageData>({ queryKey: ['trial'] })) {
    if (!page?.proofs?.some((proof) => trials.has(proof.trial_id))) continue
    add(key)
    if (page.burn) add(['finding', page.burn.id])
  }
  for (const queryKey of keys.values()) void client.invalidateQueries({ queryKey })
}

/** Looks up again what is out of date after a thing was changed. */
export function useForget() {
  const client = useQueryClient()
  return useCallback(
    async (subject: Change['subject'], subject_id?: number): Promise<void> => {
      const keys = staleKeys({ subject, subject_id })
      await Promise.all(keys.map((queryKey) => client.invalidateQueries({ queryKey })))
    },
    [client],
  )
}
