import { useCallback } from 'react'
// eslint-disable-next-line no-restricted-imports
import { useLocation, useSearchParams } from 'react-router'
import type { SetURLSearchParams } from 'react-router'

/** What the address says of the page, and how the page says it. A page stays until the one that was gone to has come;
 * what it says of itself meanwhile must not lead back to it. */
export function useAddress(): [URLSearchParams, SetURLSearchParams] {
  const [search, setSearch] = useSearchParams()
  const { pathname } = useLocation()
  const say = useCallback<SetURLSearchParams>(
    (next, options) => {
      if (window.location.pathname === pathname) setSearch(next, options)
    },
    [pathname, setSearch],
  )
  return [search, say]
}
