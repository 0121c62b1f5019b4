import { useCallback, useState } from 'react'
import type { Dispatch, SetStateAction } from 'react'
import { keptInTab } from './keptHere'

/** Like `useState`, and what was set is there again after the page is loaded afresh, until it is forgotten. What is
 * kept must be JSON, and of the shape of `initial`: whoever changes a form's shape changes its key. */
export function useTabState<T>(
  key: string,
  initial: T | (() => T),
): [T, Dispatch<SetStateAction<T>>, () => void] {
  const place = `rezept.form.${key}`
  const [value, setValue] = useState<T>(() => {
    const kept = keptInTab.read(place)
    if (kept !== null) return kept as T
    return initial instanceof Function ? initial() : initial
  })
  const set = useCallback<Dispatch<SetStateAction<T>>>(
    (next) =>
      setValue((before) => {
        const after = next instanceof Function ? next(before) : next
        keptInTab.write(place, after)
        return after
      }),
    [place],
  )
  const forget = useCallback(() => keptInTab.forget(place), [place])
  return [value, set, forget]
}

/** Whether a form is open; one that is open when the page is loaded afresh opens again. */
export function useOpenForm(key: string): [boolean, (open: boolean) => void] {
  const [open, setOpen] = useTabState(`open.${key}`, false)
  return [open, setOpen]
}
