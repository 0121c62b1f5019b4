import { useCallback } from 'react'
import type { Face } from '../../api/types'
import { useAddress } from '../../shared/useAddress'

/** The face one looks at; the address keeps it. */
export function useFace(): [Face, () => void] {
  const [search, setSearch] = useAddress()
  const face: Face = search.get('face') === 'back' ? 'back' : 'front'
  const flip = useCallback(() => {
    setSearch(
      (before) => {
        before.set('face', before.get('face') === 'back' ? 'front' : 'back')
        return before
      },
      { replace: true },
    )
  }, [setSearch])
  return [face, flip]
}
