import { useSearchParams } from 'react-router'

/** The burn of a trial the address names; null is the latest. */
export function useShownBurn(): number | null {
  const [search] = useSearchParams()
  const asked = Number(search.get('burn'))
  return Number.isInteger(asked) && asked > 0 ? asked : null
}

/** What a link within a trial carries on, so that one stays with the burn one looks at. */
export const burnQuery = (burn: number | null) => (burn === null ? '' : `?burn=${burn}`)
