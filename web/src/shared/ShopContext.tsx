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

/** What the degrees of an outcome are called, and how one asks for them: some marks are lighter than their ground. */
export function useOutcomeWords(process: Process, materialId: number): { words: string[]; question: string } {
  const { words, materials } = useShop().inventory
  if (process.passes_through) return { words: words.through, question: 'Did it go through?' }
  const lighter = materials.find((one) => one.id === materialId)?.mark === 'lighter'
  return lighter
    ? { words: words.brightness, question: 'How bright is it?' }
    : { words: words.darkness, question: 'How dark is it?' }
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
