import { useCallback, useState } from 'react'

export type Theme = 'light' | 'dark'

const KEY = 'rezept.theme'

/** The theme chosen on this device, else what the device itself prefers. */
export function chosenTheme(): Theme {
  const kept = localStorage.getItem(KEY)
  if (kept === 'light' || kept === 'dark') return kept
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'
}

export function wear(theme: Theme) {
  document.documentElement.classList.toggle('dark', theme === 'dark')
}

export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState(chosenTheme)
  const turn = useCallback(() => {
    const next = theme === 'dark' ? 'light' : 'dark'
    localStorage.setItem(KEY, next)
    wear(next)
    setTheme(next)
  }, [theme])
  return [theme, turn]
}
