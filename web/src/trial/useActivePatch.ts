import { useCallback, useState } from 'react'
import { useAddress } from '../shared/useAddress'

/** The chosen patch. It changes with the key that is pressed, at once, so that fast typing never hits the wrong
 * patch; the address follows, so that a link restores it. */
export function useActivePatch(exists: (id: string) => boolean): [string | null, (id: string) => void] {
  const [search, setSearch] = useAddress()
  const [active, setActive] = useState(() => {
    const asked = search.get('patch')
    return asked !== null && exists(asked) ? asked : null
  })
  const go = useCallback(
    (id: string) => {
      setActive(id)
      setSearch(
        (before) => {
          before.set('patch', id)
          return before
        },
        { replace: true },
      )
    },
    [setSearch],
  )
  return [active, go]
}
