import { useCallback, useEffect, useState } from 'react'

const WHOLE_PLAY_MS = 5000
const SHORTEST_STEP_MS = 40

/** Playing the burn order: how many patches have burned so far, null while it is not played. */
export function useOrderPlay(count: number) {
  const [done, setDone] = useState<number | null>(null)
  const playing = done !== null
  useEffect(() => {
    if (!playing) return
    const step = Math.max(SHORTEST_STEP_MS, WHOLE_PLAY_MS / Math.max(count, 1))
    const timer = setInterval(() => setDone((now) => (now === null || now >= count ? null : now + 1)), step)
    return () => clearInterval(timer)
  }, [playing, count])
  const toggle = useCallback(() => setDone((now) => (now === null ? 0 : null)), [])
  return { done, toggle }
}
