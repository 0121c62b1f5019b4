import { useEffect, useRef } from 'react'

const isElement = (target: EventTarget | null): target is HTMLElement => target instanceof HTMLElement

/** Where one types: there a key is a letter. */
export const isTyping = (target: EventTarget | null) =>
  isElement(target) &&
  target.matches(
    'textarea, select, [contenteditable], input:not([type="checkbox"], [type="radio"], [type="button"])',
  )

const isButton = (target: EventTarget | null) =>
  isElement(target) && target.matches('button, [role="button"], [role="radio"], a')

/**
 * Keys that act wherever on the page one is, but for where one types; Escape there, too.
 *
 * Space never presses a button here: a second press of it must not light the beam again. Buttons answer Enter.
 */
export function useBurnKeys(press: (key: string) => boolean) {
  const latest = useRef(press)
  useEffect(() => {
    latest.current = press
  })
  useEffect(() => {
    const plain = (event: KeyboardEvent) => !event.ctrlKey && !event.metaKey && !event.altKey
    // Before anything else can take them: what has the focus must not swallow a hold or a stop.
    const onFirst = (event: KeyboardEvent) => {
      if (!plain(event)) return
      if (event.key === 'Escape') {
        if (latest.current('Escape')) event.preventDefault()
      } else if (event.key === ' ' && !isTyping(event.target)) {
        if (latest.current(' ') || isButton(event.target)) event.preventDefault()
      }
    }
    // Some browsers press a button when the space bar is let go.
    const onKeyUp = (event: KeyboardEvent) => {
      if (event.key === ' ' && isButton(event.target)) event.preventDefault()
    }
    const onKeyDown = (event: KeyboardEvent) => {
      if (!plain(event) || event.defaultPrevented || isTyping(event.target)) return
      if (event.key === ' ' || event.key === 'Escape') return
      if (latest.current(event.key)) event.preventDefault()
    }
    document.addEventListener('keydown', onFirst, true)
    document.addEventListener('keyup', onKeyUp, true)
    document.addEventListener('keydown', onKeyDown)
    return () => {
      document.removeEventListener('keydown', onFirst, true)
      document.removeEventListener('keyup', onKeyUp, true)
      document.removeEventListener('keydown', onKeyDown)
    }
  }, [])
}
