import { useSyncExternalStore } from 'react'

const AGAIN_AFTER_MS = 4000

/** `done` is kept once the browser says that it is back on the net, after a while (it does not always know), or `now`. */
export function backOnline(): { done: Promise<void>; now: () => void } {
  let now: () => void = () => undefined
  const done = new Promise<void>((resolve) => {
    now = () => {
      clearTimeout(timer)
      removeEventListener('online', now)
      resolve()
    }
    const timer = setTimeout(now, AGAIN_AFTER_MS)
    addEventListener('online', now)
  })
  return { done, now }
}

const onNet = (listener: () => void) => {
  addEventListener('online', listener)
  addEventListener('offline', listener)
  return () => {
    removeEventListener('online', listener)
    removeEventListener('offline', listener)
  }
}

/** Whether the browser thinks that it is on the net. */
export const useOnline = () => useSyncExternalStore(onNet, () => navigator.onLine)
