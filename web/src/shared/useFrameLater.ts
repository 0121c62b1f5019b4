import { startTransition, useEffect, useState } from 'react'

/** The value as it was drawn a frame ago, for what may follow after the thing one looks at. */
export function useFrameLater<T>(value: T): T {
  const [late, setLate] = useState(value)
  useEffect(() => {
    const frame = requestAnimationFrame(() => startTransition(() => setLate(value)))
    return () => cancelAnimationFrame(frame)
  }, [value])
  return late
}
