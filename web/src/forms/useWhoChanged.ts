import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import type { Change } from '../api/types'

/** Who changed a row of the shop last, by the log; asked for only where somebody wants to know. */
export function useWhoChanged(subject: Change['subject'], id: number | undefined, now: boolean) {
  const query = useQuery({
    queryKey: ['changes', 'last', subject, id],
    enabled: now && id !== undefined,
    queryFn: ({ signal }) =>
      answer(api.GET('/api/changes', { params: { query: { subject, id, most: 1 } }, signal })),
  })
  return query.data?.changes[0]?.by_name
}
