/**
 * The browser's small storages, which hold what is convenient and nothing more: a browser may refuse them, have no room,
 * or hold what another program has put there.
 */
type Storages = 'localStorage' | 'sessionStorage'

/** What was kept under a name; nothing where there is none, or the browser gives none out. */
export function remembered(storage: Storages, name: string): string | undefined {
  try {
    return globalThis[storage].getItem(name) ?? undefined
  } catch {
    return undefined
  }
}

/** Keeps a text under a name, where the browser takes it. */
export function remember(storage: Storages, name: string, text: string): void {
  try {
    globalThis[storage].setItem(name, text)
  } catch {
    // It is not remembered then.
  }
}
