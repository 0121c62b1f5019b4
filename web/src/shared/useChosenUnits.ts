import { useCallback, useState } from 'react'
import { isRecord } from './records'
import type { ChosenUnits } from './units'

const KEY = 'rezept.units'

function remembered(): ChosenUnits {
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(KEY) ?? '{}')
    if (!isRecord(stored)) return {}
    const chosen: ChosenUnits = {}
    for (const [quantity, symbol] of Object.entries(stored))
      if (typeof symbol === 'string') chosen[quantity] = symbol
    return chosen
  } catch {
    return {}
  }
}

/** The person's units, remembered on this device. */
export function useChosenUnits(): [ChosenUnits, (quantity: string, symbol: string) => void] {
  const [units, setUnits] = useState(remembered)
  const setUnit = useCallback((quantity: string, symbol: string) => {
    setUnits((before) => {
      const after = { ...before, [quantity]: symbol }
      localStorage.setItem(KEY, JSON.stringify(after))
      return after
    })
  }, [])
  return [units, setUnit]
}
