import { useCallback } from 'react'
import { useAddress } from '../../shared/useAddress'

/** Which of several steps one looks at, as the address says it, from 0; `null` where it shows all of them. */
export function useChosenStep(count: number): [number | null, (step: number | null) => void] {
  const [search, setSearch] = useAddress()
  const asked = search.get('step')
  const number = Number(asked ?? 1) - 1
  const chosen = asked === 'all' && count > 1 ? null : Number.isInteger(number) && number < count ? number : 0
  const choose = useCallback(
    (step: number | null) =>
      setSearch(
        (before) => {
          before.set('step', step === null ? 'all' : String(step + 1))
          return before
        },
        { replace: true },
      ),
    [setSearch],
  )
  return [chosen === null ? null : Math.max(chosen, 0), choose]
}
