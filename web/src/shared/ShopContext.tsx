import { createContext, useCallback, useContext } from 'react'
import type { Inventory, Me, Parameter, Process, ProcessKey } from '../api/types'
import type { ChosenUnits } from './units'

/** What every page needs: the shop's tables, who I am, my units. */
export interface ShopHere {
  inventory: Inventory
  me: Me
  units: ChosenUnits
  setUnit: (quantity: string, symbol: string) => void
}

export const ShopContext = createContext<ShopHere | null>(null)

export function useShop(): ShopHere {
  const here = useContext(ShopContext)
  if (!here)
    throw new Error('useShop needs a ShopContext above it; App provides one once the shop is loaded.')
  return here
}

export function useProcess(key: ProcessKey): Process {
  const { inventory } = useShop()
  const process = inventory.processes.find((one) => one.key === key)
  if (!process) throw new Error(`no process ${key}`)
  return process
}

export function useParameter(): (key: string) => Parameter {
  const { parameters } = useShop().inventory
  return useCallback(
    (key) => {
      const parameter = parameters.find((one) => one.key === key)
      if (!parameter) throw new Error(`no parameter ${key}`)
      return parameter
    },
    [parameters],
  )
}
