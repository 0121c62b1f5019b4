import { useCallback } from 'react'
import { useSearchParams } from 'react-router'
import type { Face } from '../../api/types'

/** The face one looks at; the address keeps it. */
export function useFace(): [Face, () => void] {
  const [search, setSearch] = useSearchParams()
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
