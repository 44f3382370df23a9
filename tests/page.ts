import 'fake-indexeddb/auto'
import { IDBFactory } from 'fake-indexeddb'
import { openDB, type IDBPDatabase } from 'idb'
import { vi } from 'vitest'

/**
 * What a page's store uses of a browser, in Node: streams of events, storage, and the locks that its tabs
 * hold.
 */

/** The part of EventSource that the store uses, over fetch: Node has none of its own. */
export class Events {
  static readonly CLOSED = 2
  /** Every stream that was opened, the newest last. */
  static readonly opened: Events[] = []
  private readonly handlers = new Map<string, ((event: { data: string }) => void)[]>()
  private readonly abort = new AbortController()
  onerror: (() => void) | undefined
  readyState = 0

  constructor(private readonly url: string) {
    Events.opened.push(this)
    void this.run()
  }

  tell(name: string, data: object): void {
    this.handlers.get(name)?.forEach((handle) => handle({ data: JSON.stringify(data) }))
  }

  addEventListener(name: string, handle: (event: { data: string }) => void): void {
    this.handlers.set(name, [...(this.handlers.get(name) ?? []), handle])
  }

  close(): void {
    this.readyState = Events.CLOSED
    this.abort.abort()
  }

  /** Ends without a word, as a connection that is lost does; nobody is told, and nothing more is heard. */
  fallSilent(): void {
    this.handlers.clear()
  }

  private async run(): Promise<void> {
    while (this.readyState !== Events.CLOSED) {
      try {
        const response = await fetch(this.url, { signal: this.abort.signal })
        let rest = ''
        for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
          const blocks = (rest + new TextDecoder().decode(chunk)).split('\n\n')
          rest = blocks.pop() ?? ''
          for (const block of blocks) {
            const [, name = '', data = ''] = /^event: (.*)\ndata: (.*)$/s.exec(block) ?? []
            this.handlers.get(name)?.forEach((handle) => handle({ data }))
          }
        }
      } catch {
        // Told below, as when the server ends it.
      }
      if (this.readyState === Events.CLOSED) return
      this.onerror?.()
      // A browser opens a stream that was lost again after a second, as the server asked.
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }
}

export interface Page {
  /** The browser's small storage. */
  stored: Record<string, string>
  /** What the browser's database holds of what waits to be sent, of one design or of all. */
  waiting(design?: string): Promise<unknown[]>
  /** Stands between the page and the server: answers in its place, or hands on. */
  through: (path: string, options: RequestInit | undefined, go: () => Promise<Response>) => Promise<Response>
  /** How many requests were made, by method and path. */
  asked: string[]
  end(): void
}

/** As the page makes them, where a test looks before it has. */
function makeStores(database: Pick<IDBPDatabase, 'createObjectStore'>): void {
  for (const name of ['waiting', 'aside']) database.createObjectStore(name, { autoIncrement: true })
}

/** Puts a page's surroundings in place, with the server at an address. */
export function pretendPage(address: () => string): Page {
  const stored: Record<string, string> = {}
  const locks = new Locks()
  vi.stubGlobal('indexedDB', new IDBFactory())
  const page: Page = {
    stored,
    waiting: async (design) => {
      const database = await openDB('patient-key', 1, { upgrade: makeStores })
      const all = (await database.getAll('waiting')) as { design?: unknown }[]
      database.close()
      return all.filter((each) => design === undefined || each.design === design)
    },
    through: (_path, _options, go) => go(),
    asked: [],
    end: () => vi.unstubAllGlobals()
  }
  const real = globalThis.fetch
  vi.stubGlobal('fetch', (path: string, options?: RequestInit) => {
    page.asked.push(`${options?.method ?? 'GET'} ${path}`)
    return page.through(path, options, () => real(new URL(path, address()), options))
  })
  vi.stubGlobal('EventSource', Events)
  const methods = {
    getItem: (key: string) => stored[key] ?? null,
    setItem: (key: string, value: string) => {
      stored[key] = value
    },
    removeItem: (key: string) => {
      delete stored[key]
    }
  }
  vi.stubGlobal('localStorage', new Proxy(stored, { get: (_, name: keyof typeof methods) => methods[name] }))
  vi.stubGlobal('navigator', { locks })
  return page
}

type Hold = () => unknown

/** The part of a browser's locks that the store uses: each is held by one at a time, in the order they ask. */
class Locks {
  private readonly held = new Map<string, Promise<unknown>>()

  async request(name: string, ...rest: [Hold] | [{ signal: AbortSignal }, Hold]): Promise<unknown> {
    const hold = rest.at(-1) as Hold
    const signal = rest.length > 1 ? (rest[0] as { signal: AbortSignal }).signal : undefined
    for (let holder = this.held.get(name); holder; holder = this.held.get(name)) await holder
    signal?.throwIfAborted()
    const held = Promise.resolve(hold()).finally(() => this.held.delete(name))
    this.held.set(name, held)
    return held
  }

  query(): Promise<{ held: { name: string }[] }> {
    return Promise.resolve({ held: [...this.held.keys()].map((name) => ({ name })) })
  }
}
