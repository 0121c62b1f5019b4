import { useMemo } from 'react'
import type { Plate } from '../api/types'
import { useParameter, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { edges } from './edges'
import type { WordedEdge } from './EdgeValues'

/** The values at the edges of a plate in my units, each axis with its name and unit. */
export function useWordedEdges(plate: Pick<Plate, 'trial' | 'patches' | 'drawing'>): WordedEdge[] {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  return useMemo(
    () =>
      edges(plate).map(({ side, parameter: key, values }) => {
        const row = parameter(key)
        const said = values.map((one) => ({ ...one, ...shown(one.value, row, inventory.units, units) }))
        const unit = said[0]?.unit ?? ''
        return {
          side,
          title: unit ? `${row.name}, ${unit}` : row.name,
          values: said.map(({ value, at, room, patches }) => ({ text: String(value), at, room, patches })),
        }
      }),
    [plate, inventory, units, parameter],
  )
}
