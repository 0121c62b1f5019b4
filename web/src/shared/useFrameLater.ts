import { startTransition, useEffect, useState } from 'react'

/** The value as it was drawn a frame ago, for what may follow after the thing one looks at. */
export function useFrameLater<T>(value: T): T {
  const [late, setLate] = useState(value)
  useEffect(() => {
    let drawn: ReturnType<typeof setTimeout>
    // A frame is asked for before it is drawn; what is set then would be worked out before it, too.
    const frame = requestAnimationFrame(() => {
      drawn = setTimeout(() => startTransition(() => setLate(value)))
    })
    return () => {
      cancelAnimationFrame(frame)
      clearTimeout(drawn)
    }
  }, [value])
  return late
}
