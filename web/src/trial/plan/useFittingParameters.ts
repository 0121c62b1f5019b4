import { useMemo } from 'react'
import type { Head, Process } from '../../api/types'
import { useShop } from '../../shared/ShopContext'
import { fittingParameters } from './design'

/** The settings that can vary on a head in a process, the same list from render to render. */
export function useFittingParameters(process: Process, head: Head) {
  const { inventory } = useShop()
  return useMemo(
    () => fittingParameters(inventory.parameters, process, head),
    [inventory.parameters, process, head],
  )
}
