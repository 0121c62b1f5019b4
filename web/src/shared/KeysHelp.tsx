import { Suspense, memo, useEffect, useState } from 'react'
import { later } from './later'

const KeysDialog = later(() => import('./KeysDialog').then((part) => part.KeysDialog))

export interface KeyHint {
  keys: string[]
  does: string
}

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]')

/** `?` shows what the keys of this page do. */
export const KeysHelp = memo(function KeysHelp({ hints }: { hints: KeyHint[] }) {
  const [open, setOpen] = useState(false)
  useEffect(() => {
    // Whichever keys a keyboard needs for it, what counts is that a question mark comes out.
    const press = (event: KeyboardEvent) => {
      if (event.key === '?' && !isTyping(event.target)) setOpen(true)
    }
    document.addEventListener('keydown', press)
    return () => document.removeEventListener('keydown', press)
  }, [])
  if (!open) return null
  return (
    <Suspense fallback={null}>
      <KeysDialog hints={hints} onClose={() => setOpen(false)} />
    </Suspense>
  )
})
