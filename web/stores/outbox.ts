import type { Logged } from '../api/client.ts'

/**
 * What is on its way to the server, kept in the browser's storage: each tab has a place of its own, and
 * holds a lock while it lives. What a tab that is gone left behind is taken over by the next one that
 * opens the design. Taken twice does no harm: each operation carries an id.
 */
export class Outbox {
  private readonly tab = crypto.randomUUID()
  private release: (() => void) | undefined

  constructor(private readonly design: string) {
    // Held until the tab closes, or the design does.
    void navigator.locks
      ?.request(
        this.place(this.tab),
        () =>
          new Promise<void>((resolve) => {
            this.release = resolve
          })
      )
      .catch(() => undefined)
  }

  private place(tab: string): string {
    return `patient-key pending ${this.design} ${tab}`
  }

  /**
   * Keeps what is on its way, or nothing. A browser that stores nothing for pages still works while the
   * page is open.
   */
  keep(pending: readonly Logged[]): void {
    try {
      if (pending.length > 0) localStorage.setItem(this.place(this.tab), JSON.stringify(pending))
      else localStorage.removeItem(this.place(this.tab))
    } catch {
      // See above.
    }
  }

  /** What tabs that are gone have left, in the order that they were made; it is this tab's from now on. */
  async adopt(): Promise<Logged[]> {
    try {
      const alive = new Set((await navigator.locks?.query())?.held?.map((lock) => lock.name))
      const left = Object.keys(localStorage).filter(
        (key) => key.startsWith(this.place('')) && key !== this.place(this.tab) && !alive.has(key)
      )
      const adopted = left.flatMap((key) => JSON.parse(localStorage.getItem(key) ?? '[]') as Logged[])
      this.keep(adopted)
      left.forEach((key) => localStorage.removeItem(key))
      return adopted
    } catch {
      return []
    }
  }

  close(): void {
    this.release?.()
  }
}
