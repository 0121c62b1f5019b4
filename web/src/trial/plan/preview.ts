import { queryOptions, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../../api/client'
import type { Design, Preview, TrialPageData } from '../../api/types'
import type { ChosenUnits } from '../../shared/units'

/** The plate a design would give. */
export function previewOf(trial: number, design: Design, units: ChosenUnits) {
  return queryOptions({
    queryKey: ['preview', trial, design, units],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/trials/{id}/preview', {
          params: { path: { id: trial } },
          body: { design, units },
          signal,
        }),
      ),
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  })
}

/** The plate of a design as it is edited, and the last one that could be planned. */
export function usePreview(page: TrialPageData, design: Design, units: ChosenUnits) {
  const preview = useQuery({
    ...previewOf(page.id, design, units),
    initialData: () =>
      design === page.design && page.plate
        ? { plate: page.plate, texts: page.texts, burnable: page.burnable, against: page.against }
        : undefined,
  })
  // While something is being typed that cannot be, the last good plate stays.
  const [good, setGood] = useState<Preview | undefined>(preview.data)
  if (preview.data && preview.data !== good) setGood(preview.data)
  return { preview, good }
}
