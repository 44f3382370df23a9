import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { createPinia, setActivePinia } from 'pinia'
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest'
import { writeDesignFile } from '../../core/design/file.ts'
import type { Design } from '../../core/design/model.ts'
import { newTable } from '../../core/relate/propose.ts'
import { serve } from '../../server/serve.ts'
import { choices, Maker } from '../../tests/designs.ts'
import { useDesign } from './design.ts'
import { times } from '../../tests/times.ts'

const streams: Events[] = []
/** The part of EventSource that the store uses, over fetch: Node has none of its own. */
class Events {
  static readonly CLOSED = 2
  private readonly handlers = new Map<string, ((event: { data: string }) => void)[]>()
  private readonly abort = new AbortController()
  onerror: (() => void) | undefined
  constructor(url: string) {
    streams.push(this)
    void this.run(url)
  }
  tell(name: string, data: object): void {
    this.handlers.get(name)?.forEach((handle) => handle({ data: JSON.stringify(data) }))
  }
  addEventListener(name: string, handle: (event: { data: string }) => void): void {
    this.handlers.set(name, [...(this.handlers.get(name) ?? []), handle])
  }
  close(): void {
    this.abort.abort()
  }
  private async run(url: string): Promise<void> {
    try {
      const response = await fetch(url, { signal: this.abort.signal })
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
      this.onerror?.()
    }
  }
}

const folder = mkdtempSync(join(tmpdir(), 'patient-key-web-'))
let server: Awaited<ReturnType<typeof serve>>
let reachable = true
/** The browser's storage, and the locks that its tabs hold. */
const stored: Record<string, string> = {}
const locks = new Set<string>()

beforeAll(async () => {
  server = await serve({ port: 0, host: '127.0.0.1', data: folder })
  const real = globalThis.fetch
  vi.stubGlobal('fetch', (path: string, options?: RequestInit) => (reachable ? real(new URL(path, server.address), options) : Promise.reject(new TypeError('no way there'))))
  vi.stubGlobal('EventSource', Events)
  const methods = { getItem: (key: string) => stored[key] ?? null, setItem: (key: string, value: string) => { stored[key] = value }, removeItem: (key: string) => { delete stored[key] } }
  vi.stubGlobal('localStorage', new Proxy(stored, { get: (_, name: keyof typeof methods) => methods[name] }))
  vi.stubGlobal('navigator', { locks: {
    request: async (name: string, hold: () => Promise<void>) => {
      locks.add(name)
      await hold()
      locks.delete(name)
    },
    query: () => Promise.resolve({ held: [...locks].map((name) => ({ name })) })
  } })
})
afterAll(async () => {
  vi.unstubAllGlobals()
  await server.stop()
  rmSync(folder, { recursive: true, force: true })
})
const open: ReturnType<typeof useDesign>[] = []
afterEach(() => {
  reachable = true
  open.splice(0).forEach((tab) => tab.close())
})

async function make(): Promise<string> {
  const answer = await fetch('/api/designs', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ name: 'Ward book' }) })
  return ((await answer.json()) as { design: Design }).design.id
}
async function onServer(id: string): Promise<string> {
  return writeDesignFile(((await (await fetch(`/api/designs/${id}`)).json()) as { design: Design }).design)
}
/** How many operations the browser keeps for a design. */
const keptFor = (id: string): number => Object.entries(stored).filter(([key]) => key.includes(id)).reduce((sum, [, text]) => sum + (JSON.parse(text) as unknown[]).length, 0)
/** A tab: a store of its own with the design open. */
async function tab(id: string): Promise<ReturnType<typeof useDesign>> {
  setActivePinia(createPinia())
  const store = useDesign()
  open.push(store)
  await store.open(id)
  return store
}
const shows = (store: ReturnType<typeof useDesign>): string => (store.design ? writeDesignFile(store.design) : '')
/** What comes about soon; how soon is the machine's affair. */
const soon = (check: () => void): Promise<void> => vi.waitFor(check, { timeout: 15_000 })
const settled = (...tabs: ReturnType<typeof useDesign>[]): Promise<void> => soon(() => {
  for (const each of tabs) expect([each.pending.length, shows(each)]).toEqual([0, shows(tabs[0] as never)])
})

describe('an open design', () => {
  it('shows in every tab, after whatever they do at once, what the server has', async () => {
    await fc.assert(fc.asyncProperty(choices(15), choices(15), async (first, second) => {
      const id = await make()
      const tabs = [await tab(id), await tab(id)] as const
      await Promise.all([first, second].map(async (taken, at) => {
        const maker = new Maker()
        const store = tabs[at as 0 | 1]
        for (const choice of taken) {
          if (!store.design) continue
          const operation = JSON.parse(JSON.stringify(maker.operation(store.design, choice)).replaceAll(/_x(\d+)"/g, `_${'ab'[at]}$1"`)) as Parameters<typeof store.submit>[0]
          store.submit(operation)
          if (choice[3] % 4 === 0) await new Promise((resolve) => setTimeout(resolve, choice[3] % 9))
        }
      }))
      await settled(...tabs)
      expect(shows(tabs[0])).toBe(await onServer(id))
      open.splice(0).forEach((each) => each.close())
    }), { numRuns: times(15) })
  })

  it('undoes and redoes with names, and a new step ends what could be redone', async () => {
    const id = await make()
    const store = await tab(id)
    store.submit({ kind: 'table.add', table: { ...newTable('ward'), id: 't_ward' } })
    store.submit({ kind: 'table.rename', table: 't_ward', name: 'unit' })
    expect(store.undoLabel).toBe('rename ward to unit')
    store.undo()
    expect([store.design?.tables[0]?.name, store.undoLabel, store.redoLabel]).toEqual(['ward', 'make ward', 'rename ward to unit'])
    store.redo()
    expect(store.design?.tables[0]?.name).toBe('unit')
    store.undo()
    store.undo()
    expect(store.design?.tables).toEqual([])
    store.submit({ kind: 'table.add', table: newTable('pen') })
    expect(store.redoLabel).toBeUndefined()
    await settled(store)
    expect(shows(store)).toBe(await onServer(id))
  })

  it('says why an operation is refused, with what could be done, and takes an offer', async () => {
    const store = await tab(await make())
    store.submit({ kind: 'table.add', table: { ...newTable('ward'), id: 't_ward' } })
    expect(store.submit({ kind: 'table.add', table: newTable('WARD') })?.code).toBe('name-taken')
    expect(store.notice?.message).toContain('already a table called ward')
    expect(store.design?.tables).toHaveLength(1)
    store.submit({ kind: 'table.rename', table: 't_ward', name: 'unit' })
    expect(store.notice).toBeUndefined()
  })

  it('goes on without the server, keeps what is done in the browser, and sends it from another tab later', async () => {
    const id = await make()
    const store = await tab(id)
    reachable = false
    store.submit({ kind: 'table.add', table: newTable('ward') })
    store.submit({ kind: 'table.add', table: newTable('pen') })
    await soon(() => expect(store.online).toBe(false))
    expect(store.design?.tables).toHaveLength(2)
    expect(keptFor(id)).toBe(2)
    store.close()
    reachable = true
    const later = await tab(id)
    expect(later.design?.tables.map((table) => table.name)).toEqual(['ward', 'pen'])
    await settled(later)
    expect(keptFor(id)).toBe(0)
    expect(shows(later)).toBe(await onServer(id))
  })

  it('sends what waits when the stream says that the server is back, though the page is kept from its timers', async () => {
    const until = async (check: () => boolean): Promise<void> => { while (!check()) await new Promise((resolve) => setImmediate(resolve)) }
    const store = await tab(await make())
    const real = setTimeout
    vi.stubGlobal('setTimeout', (_: () => void, time: number) => real(() => {}, time).unref())
    try {
      reachable = false
      store.submit({ kind: 'table.add', table: newTable('ward') })
      await until(() => !store.online)
      reachable = true
      streams.at(-1)?.tell('here', { revision: 0 })
      await until(() => store.pending.length === 0)
      expect(store.online).toBe(true)
    } finally {
      vi.stubGlobal('setTimeout', real)
    }
  })

  it('explains what cannot be kept because another came first, and shows what the server has', async () => {
    const id = await make()
    const [first, second] = [await tab(id), await tab(id)]
    second.close()
    reachable = false
    first.submit({ kind: 'table.add', table: { ...newTable('ward'), id: 't_mine' } })
    await soon(() => expect(first.online).toBe(false))
    reachable = true
    const other = await tab(id)
    other.submit({ kind: 'table.add', table: { ...newTable('Ward'), id: 't_theirs' } })
    await settled(other)
    await soon(() => expect(first.notice?.message).toMatch(/“make ward” .*already a table called Ward/))
    expect(first.design?.tables.map((table) => table.id)).toEqual(['t_theirs'])
  })

  it('saves a version of what is seen', async () => {
    const store = await tab(await make())
    store.submit({ kind: 'table.add', table: newTable('ward') })
    await settled(store)
    await store.saveVersion('first')
    expect(store.versions.map(({ number, note }) => [number, note])).toEqual([[1, 'first']])
  })

  it('says that a design is gone', async () => {
    const id = await make()
    const store = await tab(id)
    await new Promise((resolve) => setTimeout(resolve, 100))
    await fetch(`/api/designs/${id}`, { method: 'DELETE' })
    await soon(() => expect(store.failure).toBe('This design was removed.'))
    const nowhere = await tab('d_nowhere')
    expect(nowhere.failure).toContain('There is no such design here')
  })
})
