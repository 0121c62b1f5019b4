import { useMemo } from 'react'
import { useParams } from 'react-router'
import type { TrialPageData } from '../api/types'
import { useAddress } from '../shared/useAddress'

/** What of a trial the address names: one of its burns, and where what was read is shown one of several steps, from 1;
 * null is the latest burn, and what the trial set out to do. */
export interface Shown {
  burn: number | null
  step: number | null
}

const counted = (text: string | null) => {
  const number = Number(text)
  return Number.isInteger(number) && number > 0 ? number : null
}

export function useShownBurn(): Shown {
  const [search] = useAddress()
  const { stage } = useParams()
  const [burn, step] = [search.get('burn'), search.get('step')]
  // A plan shows its steps by itself.
  const read = stage === 'read' || stage === 'decide'
  return useMemo(() => ({ burn: counted(burn), step: read ? counted(step) : null }), [burn, step, read])
}

/** The step what was read is shown of, where the plate has several. */
export const shownStep = ({ steps }: Pick<TrialPageData, 'steps'>): number | undefined =>
  steps.find((one) => one.shown)?.step

/** Whether something kept or failed of a plate is of the step that is shown. */
export function isOfShown({ steps }: Pick<TrialPageData, 'steps'>, readAs: number | null): boolean {
  const shown = steps.find((one) => one.shown)
  return !shown || readAs === null || readAs === shown.read_as
}

/** What a link within a trial carries on, so that one stays with the burn and the step one looks at. */
export function burnQuery({ burn, step }: Shown): string {
  const said = new URLSearchParams()
  if (burn !== null) said.set('burn', String(burn))
  if (step !== null) said.set('step', String(step))
  return said.size > 0 ? `?${said}` : ''
}
