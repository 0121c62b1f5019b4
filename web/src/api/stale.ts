import { useQueryClient } from '@tanstack/react-query'
import type { QueryClient, QueryKey } from '@tanstack/react-query'
import { useCallback } from 'react'
import type { Change, TrialPageData } from './types'

/** Without an id: all of its kind. */
export type Changed = Pick<Change, 'subject'> & Partial<Pick<Change, 'subject_id'>>

/** The one list of what is out of date after a thing was changed, by me or by others. */
export function staleKeys({ subject, subject_id: id }: Changed) {
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
export async function lookUp(client: QueryClient, changes: readonly Changed[]): Promise<void> {
  const keys = new Map<string, QueryKey>()
  const add = (key: QueryKey) => keys.set(JSON.stringify(key), key)
  changes.flatMap(staleKeys).forEach(add)
  const trials = new Set(changes.filter(({ subject }) => subject === 'trial').map((one) => one.subject_id))
  for (const [key, page] of client.getQueriesData<TrialPageData>({ queryKey: ['trial'] })) {
    if (!page?.proofs?.some((proof) => trials.has(proof.trial_id))) continue
    add(key)
    if (page.burn) add(['finding', page.burn.id])
  }
  await Promise.all([...keys.values()].map((queryKey) => client.invalidateQueries({ queryKey })))
}

/** Looks up again what is out of date after a thing was changed. */
export function useForget() {
  const client = useQueryClient()
  return useCallback(
    (subject: Change['subject'], subject_id?: number) => lookUp(client, [{ subject, subject_id }]),
    [client],
  )
}
