import { useQueries, useQuery, skipToken } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { readBy } from '../api/photos'
import type { BurnPage, Face, Measured, Photo, Process } from '../api/types'
import type { SideKey } from './sides'

export interface Side extends BurnPage {
  key: SideKey
  measured: Measured | undefined
}

/** The plates that lie side by side, as far as they are there. */
export function useSides(keys: SideKey[]) {
  const burns = useQueries({
    queries: keys.map(({ burn }) => ({
      queryKey: ['burn', burn],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        answer(api.GET('/api/burns/{id}', { params: { path: { id: burn } }, signal })),
    })),
  })
  const measured = useQueries({
    queries: keys.map(({ burn, photo }) => ({
      queryKey: ['measured', burn, 'compare', photo],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        answer(
          api.GET('/api/burns/{id}/measured', {
            params: { path: { id: burn }, query: photo === null ? {} : { photo } },
            signal,
          }),
        ),
    })),
  })
  const sides: Side[] = keys.flatMap((key, i) => {
    const page = burns[i]?.data
    return page ? [{ ...page, key, measured: measured[i]?.data }] : []
  })
  return { sides, failed: burns.find((burn) => burn.isError), waiting: burns.some((burn) => burn.isPending) }
}

/** How a patch of a side came out: its score, or what the photo that was asked for says of it. */
export const outcomeOf = (side: Side, outcome: Process['outcome'], patch: string): number | null =>
  valuesOf(side, patch)?.[outcome] ?? null

/** All that is known of it. */
export function valuesOf({ key, readings, measured }: Side, patch: string) {
  const said = key.photo === null ? readings : (measured?.scores ?? [])
  return said.find((one) => one.patch === patch)?.values
}

/** What may be laid beside a burn. */
export function useComparable(burn: number | undefined) {
  return useQuery({
    queryKey: ['comparable', burn],
    queryFn:
      burn === undefined
        ? skipToken
        : ({ signal }) =>
            answer(api.GET('/api/burns/{id}/comparable', { params: { path: { id: burn } }, signal })),
  })
}

/** The photo a side shows: the one that was asked for, else the one its face is read by. */
export function photoOf(side: Side, face: Face): Photo | undefined {
  const asked = side.photos.find((photo) => photo.id === side.key.photo && photo.face === face)
  return asked ?? readBy(side.photos, face)
}
