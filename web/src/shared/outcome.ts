import type { Process } from '../api/types'

/** How it came out, as a degree of the scale that decides. */
export function outcomeOf(
  said: { values: Readonly<Record<string, number | string>> } | undefined,
  process: Process,
): number | null {
  const value = said?.values[process.outcome]
  return typeof value === 'number' ? value : null
}
