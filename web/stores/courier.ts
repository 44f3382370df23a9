import { shallowRef } from 'vue'
import { Answered, api, Unreachable, type Logged } from '../api/client.ts'
import type { WaitingRoom, Waiting } from './waiting.ts'

/** Waits between tries (milliseconds). */
const RETRY = { first: 500, most: 5000 }

/** Where the server stands, as far as this page knows. */
export interface Seen {
  revision: number
  mark: string
}
/** What the server says to an operation that it took: where it stands, and what others did before it. */
export type Taken = Seen & { between: Logged[] }

/** What becomes of a design's operations on their way: who looks at the design is told, or what is in its place. */
export interface Reader {
  /** Where the server was seen last. @throws what the server answers, where it has to be asked */
  seen(): Seen | Promise<Seen>
  taken(sent: Waiting, answer: Taken): void
  /** It will never be taken as things are. */
  refused(sent: Waiting, error: Answered): void
  /** The server has another history than was seen, or this one has gone on for too long to be told. */
  anew(why: 'parted' | 'behind'): Promise<void>
  /** The design cannot be written to any more. */
  ended(error: Answered): void
  /** Whether the server answers, and why it does not keep what is sent where it does. */
  standing(online: boolean, trouble: string): void
}

/**
 * Sends what is done to a design, one operation after the other, and waits out what keeps them. Each is kept in the
 * browser until the server has it; what the browser cannot keep is counted.
 */
export class Courier {
  readonly pending = shallowRef<readonly Waiting[]>([])
  /** Those that the browser could not keep, and why not the last. */
  readonly unkept = shallowRef<ReadonlySet<string>>(new Set())
  readonly whyUnkept = shallowRef('')
  private readonly numbers = new Map<string, number>()
  private readonly keeping = new Map<string, Promise<void>>()
  private sending = false
  private isEnded = false
  private wake = (): void => {}

  constructor(
    readonly design: string,
    private readonly room: WaitingRoom,
    private reader: Reader
  ) {}

  /** Tells another from now on. */
  tell(reader: Reader): void {
    this.reader = reader
    this.isEnded = false
    this.wake()
  }

  /** Takes over what is kept already. */
  adopt(left: readonly (readonly [number, Waiting])[]): void {
    const known = new Set(this.pending.value.map(({ operationId }) => operationId))
    const others = left.filter(([, { operationId }]) => !known.has(operationId))
    for (const [number, { operationId }] of others) this.numbers.set(operationId, number)
    this.pending.value = [...others.map(([, waiting]) => waiting), ...this.pending.value]
  }

  /** Keeps an operation and sends it. */
  take(waiting: Waiting): void {
    this.pending.value = [...this.pending.value, waiting]
    for (const each of this.pending.value)
      if (each === waiting || this.unkept.value.has(each.operationId)) this.keep(each)
    void this.send()
  }

  /** One that is done, or will not be: it waits no more. */
  done(operationId: string): void {
    this.pending.value = this.pending.value.filter((each) => each.operationId !== operationId)
    this.forgetUnkept(operationId)
    const gone = async (): Promise<void> => {
      await this.keeping.get(operationId)
      const number = this.numbers.get(operationId)
      this.numbers.delete(operationId)
      if (number !== undefined) await this.room.remove(number)
    }
    // One that stays kept is sent once more by the next page, and is taken once.
    void gone().catch(() => undefined)
  }

  /** The operations that would be lost if the page went now. */
  get atRisk(): string[] {
    return this.pending.value.map(({ operationId }) => operationId).filter((id) => !this.numbers.has(id))
  }

  has(operationId: string): boolean {
    return this.pending.value.some((each) => each.operationId === operationId)
  }

  /** Tries again now, and not only when the wait is over. */
  hurry(): void {
    this.wake()
  }

  end(): void {
    this.isEnded = true
    this.wake()
  }

  private keep(waiting: Waiting): void {
    const { operationId } = waiting
    if (this.keeping.has(operationId)) return
    const kept = this.room.put(waiting).then(
      (number) => {
        this.numbers.set(operationId, number)
        this.forgetUnkept(operationId)
      },
      (error: unknown) => {
        if (!this.has(operationId)) return
        this.unkept.value = new Set([...this.unkept.value, operationId])
        this.whyUnkept.value = error instanceof Error ? error.message : String(error)
      }
    )
    this.keeping.set(
      operationId,
      kept.finally(() => this.keeping.delete(operationId))
    )
  }

  private forgetUnkept(operationId: string): void {
    if (this.unkept.value.has(operationId))
      this.unkept.value = new Set([...this.unkept.value].filter((each) => each !== operationId))
  }

  /** Sends what waits until nothing does. Whatever does not get on waits longer each time. */
  async send(): Promise<void> {
    if (this.sending) return
    this.sending = true
    try {
      let wait = RETRY.first
      for (let next = this.pending.value[0]; next && !this.isEnded; next = this.pending.value[0]) {
        await this.sendOne(next)
        if (!this.has(next.operationId)) {
          wait = RETRY.first
          continue
        }
        if (this.isEnded) break
        await this.pause(wait)
        wait = Math.min(wait * 2, RETRY.most)
      }
    } finally {
      this.sending = false
    }
  }

  private async sendOne(next: Waiting): Promise<void> {
    const { client, operationId, operation } = next
    try {
      const seen = await this.reader.seen()
      const answer = await api.submit(this.design, { ...seen, client, operationId, operation })
      this.reader.standing(true, '')
      this.reader.taken(next, answer)
    } catch (error) {
      await this.endure(next, error)
    }
  }

  /** Waits, asks where the server stands, stops, or takes the operation out of the way. */
  private async endure(sent: Waiting, error: unknown): Promise<void> {
    const answered = error instanceof Answered ? error : undefined
    this.reader.standing(
      !(error instanceof Unreachable),
      answered && isPassing(error) ? answered.message : ''
    )
    if (!answered || isPassing(error)) return
    const code = answered.body.error?.code
    if (code === 'parted' || code === 'behind') return this.reader.anew(code).catch(() => undefined)
    if (answered.status === 404 || code === 'damaged') {
      this.isEnded = true
      this.reader.ended(answered)
    } else this.reader.refused(sent, answered)
  }

  /** A page out of sight may be kept from its timers; whoever hears that the server is back ends the wait. */
  private pause(time: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, time)
      this.wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }
}

/**
 * Whether waiting may help: nobody answered, or the server cannot keep anything now, or does not know who
 * asks.
 */
export function isPassing(error: unknown): boolean {
  if (error instanceof Unreachable) return true
  return error instanceof Answered && (error.status >= 500 || [401, 403, 408, 429].includes(error.status))
}
