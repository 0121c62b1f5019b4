/** Where something stays in this browser: for good, or for as long as its tab is open. Where a browser keeps nothing
 * (private windows may not), it lasts as long as the page. */
class Shelf {
  private readonly lasting = new Map<string, string>()
  private readonly storage: () => Storage

  constructor(storage: () => Storage) {
    this.storage = storage
  }

  read(key: string): unknown {
    try {
      const text = this.storage().getItem(key) ?? this.lasting.get(key)
      return text === undefined ? null : (JSON.parse(text) as unknown)
    } catch {
      // Somebody else wrote what is no JSON, or the browser lets nobody look: there is nothing of ours.
      return null
    }
  }

  write(key: string, value: unknown): void {
    const text = JSON.stringify(value)
    this.lasting.set(key, text)
    try {
      this.storage().setItem(key, text)
    } catch {
      // No room or not allowed: it lasts as long as the page.
    }
  }

  /** The keys that begin so. */
  keysOf(beginning: string): string[] {
    const keys = new Set(this.lasting.keys())
    try {
      for (const key of Object.keys(this.storage())) keys.add(key)
    } catch {
      // Nobody may look there; what lasts as long as the page is known.
    }
    return [...keys].filter((key) => key.startsWith(beginning))
  }

  forget(key: string): void {
    this.lasting.delete(key)
    try {
      this.storage().removeItem(key)
    } catch {
      // Where nothing may be kept there is nothing to forget.
    }
  }
}

export const keptHere = new Shelf(() => localStorage)
export const keptInTab = new Shelf(() => sessionStorage)
