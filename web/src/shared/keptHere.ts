/** What stays in this browser until the server has it. Where a browser keeps nothing (private windows may not), it lasts
 * as long as the page. */
const lasting = new Map<string, string>()

export function keptHere(key: string): unknown {
  try {
    const text = localStorage.getItem(key) ?? lasting.get(key)
    return text === undefined ? null : (JSON.parse(text) as unknown)
  } catch {
    // Somebody else wrote what is no JSON, or the browser lets nobody look: there is nothing of ours.
    return null
  }
}

export function keepHere(key: string, value: unknown): void {
  const text = JSON.stringify(value)
  lasting.set(key, text)
  try {
    localStorage.setItem(key, text)
  } catch {
    // No room or not allowed: it lasts as long as the page.
  }
}

export function forgetHere(key: string): void {
  lasting.delete(key)
  try {
    localStorage.removeItem(key)
  } catch {
    // Where nothing may be kept there is nothing to forget.
  }
}
