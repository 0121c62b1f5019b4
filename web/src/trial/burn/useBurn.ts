import { createContext, useContext } from 'react'
import type { TrialPageData } from '../../api/types'
import type { BurnActions } from './useLiveRun'

/** The trial that is burned, and everything one can ask of its machine. */
export interface Burning {
  page: TrialPageData
  actions: BurnActions
}

export const BurnContext = createContext<Burning | null>(null)

export function useBurn(): Burning {
  const burning = useContext(BurnContext)
  if (!burning) throw new Error('useBurn needs a BurnContext above it; BurnStage provides one.')
  return burning
}
