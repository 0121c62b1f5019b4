import { useEffect, useRef } from 'react'

type TextField = HTMLInputElement | HTMLTextAreaElement

const isText = (target: EventTarget | null): target is TextField =>
  target instanceof HTMLTextAreaElement ||
  (target instanceof HTMLInputElement &&
    !['checkbox', 'radio', 'button', 'range', 'file'].includes(target.type))

/** Ctrl+Z takes back the last step here, Ctrl+Shift+Z and Ctrl+Y do it again, wherever on the page one is: but for a
 * text field with typing in it that it has not been left with yet, which takes that back itself. */
export function useUndoKeys(undo: () => void, redo?: () => void) {
  const latest = useRef({ undo, redo })
  useEffect(() => {
    latest.current = { undo, redo }
  })
  useEffect(() => {
    // What stood in the field when it was entered, or last taken over with Enter.
    let settled: { field: TextField; text: string } | null = null
    const onSettled = (event: Event) => {
      if (isText(event.target)) settled = { field: event.target, text: event.target.value }
    }
    const onKeyDown = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey || event.defaultPrevented) return
      const key = event.key.toLowerCase()
      const again = key === 'y' || (key === 'z' && event.shiftKey)
      if (key !== 'z' && !again) return
      const { target } = event
      if (isText(target) && settled?.field === target && settled.text !== target.value) return
      const step = again ? latest.current.redo : latest.current.undo
      if (!step) return
      event.preventDefault()
      step()
      if (isText(target)) settled = null
    }
    document.addEventListener('focusin', onSettled)
    document.addEventListener('change', onSettled)
    document.addEventListener('keydown', onKeyDown)
    return () => {
      document.removeEventListener('focusin', onSettled)
      document.removeEventListener('change', onSettled)
      document.removeEventListener('keydown', onKeyDown)
    }
  }, [])
}
