import { useCallback, useMemo } from 'react'
import type { Figure, Patch, Plate } from '../api/types'

/** The figure of every patch of a plate. */
export function useFigures(plate: Plate): (patch: Patch) => Figure {
  const { figures } = plate.drawing
  const byId = useMemo(() => new Map(figures.map((figure) => [figure.id, figure])), [figures])
  return useCallback(
    (patch) => {
      const figure = byId.get(patch.figure ?? 'patch')
      if (!figure) throw new Error(`The plate does not say what ${patch.id} looks like.`)
      return figure
    },
    [byId],
  )
}
