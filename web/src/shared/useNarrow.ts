import { useSyncExternalStore } from 'react'

const narrow = () => matchMedia('(max-width: 640px)')

function listen(changed: () => void) {
  const query = narrow()
  query.addEventListener('change', changed)
  return () => query.removeEventListener('change', changed)
}

/** Whether the screen is as narrow as a phone's. */
export const useNarrow = () => useSyncExternalStore(listen, () => narrow().matches)
