import { Closing } from './trouble.ts'

/** What is done to one design is done one after the other; designs do not wait for each other. */
export class Turns {
  private readonly last = new Map<string, Promise<unknown>>()
  private readonly reading = new Set<Promise<unknown>>()
  private isClosed = false

  get areClosed(): boolean {
    return this.isClosed
  }

  /** Waits for what is being done. What comes after is refused. */
  async close(): Promise<void> {
    this.isClosed = true
    while (this.last.size + this.reading.size > 0)
      await Promise.allSettled([...this.last.values(), ...this.reading])
  }

  /** Work on a design, after all that came before. @throws Closing */
  inTurn<T>(id: string, work: () => Promise<T>): Promise<T> {
    if (this.isClosed) return Promise.reject(new Closing())
    const turn = (this.last.get(id) ?? Promise.resolve()).then(work, work)
    const settled = turn
      .then(
        () => undefined,
        () => undefined
      )
      .then(() => {
        if (this.last.get(id) === settled) this.last.delete(id)
      })
    this.last.set(id, settled)
    return turn
  }

  /** Reads beside the turns; closing waits for it. @throws Closing */
  beside<T>(work: () => Promise<T>): Promise<T> {
    if (this.isClosed) return Promise.reject(new Closing())
    const done = work()
    this.reading.add(done)
    const forget = (): void => {
      this.reading.delete(done)
    }
    done.then(forget, forget)
    return done
  }
}
