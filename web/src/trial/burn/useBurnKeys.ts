import { useEffect, useRef } from 'react'

const isControl = (target: EventTarget | null) =>
  target instanceof HTMLElement && target.matches('input, textarea, select, button, a, [contenteditable]')

/** Keys that act wherever on the page one is, but for where one types or presses something else. */
export function useBurnKeys(press: (key: string) => boolean) {
  const latest = useRef(press)
  useEffect(() => {
    latest.current = press
  })
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return
      // To stop, no key may be swallowed by what has the focus.
      if (event.key !== 'Escape' && isControl(event.target)) return
      if (latest.current(event.key)) event.preventDefault()
    }
    document.addEventListener('keydown', onKeyDown)
    return () => document.removeEventListener('keydown', onKeyDown)
  }, [])
}
