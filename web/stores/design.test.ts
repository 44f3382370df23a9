import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { createPinia, setActivePinia, type Pinia } from 'pinia'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest'
import { writeDesignFile } from '../../core/design/file.ts'
import type { Design } from '../../core/design/model.ts'
import { newTable } from '../../core/relate/propose.ts'
import { serve } from '../../server/serve.ts'
import { choices, Maker } from '../../tests/designs.ts'
import { Events, pretendPage, type Page } from '../../tests/page.ts'
import { useDesign } from './design.ts'
import { useOutgoing } from './outgoing.ts'
import { times } from '../../tests/times.ts'

const folder = mkdtempSync(join(tmpdir(), 'patient-key-web-'))
let server: Awaited<ReturnType<typeof serve>>
let page: Page
/** Whether the server is there for the page. */
let reachable = true

beforeAll(async () => {
  server = await serve({ port: 0, host: '127.0.0.1', data: folder })
  page = pretendPage(() => server.address)
})
afterAll(async () => {
  page.end()
  await server.stop()
  rmSync(folder, { recursive: true, force: true })
})
beforeEach(() => {
  page.through = (_path, _options, go) => (reachable ? go() : Promise.reject(new TypeError('no way there')))
})
const open: ReturnType<typeof useDesign>[] = []
const pinias = new WeakMap<ReturnType<typeof useDesign>, Pinia>()
afterEach(() => {
  reachable = true
  open.splice(0).forEach((tab) => tab.close())
})

async function make(): Promise<string> {
  const answer = await fetch('/api/designs', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ name: 'Ward book' })
  })
  return ((await answer.json()) as { design: Design }).design.id
}
async function onServer(id: string): Promise<string> {
  return writeDesignFile(((await (await fetch(`/api/designs/${id}`)).json()) as { design: Design }).design)
}
const streams = (): Events[] => Events.opened
async function markOf(id: string): Promise<string> {
  return ((await (await fetch(`/api/designs/${id}`)).json()) as { mark: string }).mark
}
/** How many operations the browser keeps for a design. */
const keptFor = async (id: string): Promise<number> => (await page.waiting(id)).length
/** A tab: a store of its own with the design open. */
async function tab(id: string): Promise<ReturnType<typeof useDesign>> {
  const pinia = createPinia()
  setActivePinia(pinia)
  const store = useDesign()
  pinias.set(store, pinia)
  open.push(store)
  await store.open(id)
  return store
}
const shows = (store: ReturnType<typeof useDesign>): string =>
  store.design ? writeDesignFile(store.design) : ''
/** What comes about soon; how soon is the machine's affair. */
const soon = (check: () => void): Promise<void> => vi.waitFor(check, { timeout: 15_000 })
const soonAsync = (check: () => Promise<void>): Promise<void> => vi.waitFor(check, { timeout: 15_000 })
/** The page with a tab goes: nothing of it is sent by it any more. */
const vanish = (store: ReturnType<typeof useDesign>): void => {
  useOutgoing(pinias.get(store)).end()
  store.close()
}
const settled = (...tabs: ReturnType<typeof useDesign>[]): Promise<void> =>
  soon(() => {
    for (const each of tabs) expect([each.pending.length, shows(each)]).toEqual([0, shows(tabs[0] as never)])
  })

describe('an open design', () => {
  it('shows in every tab, after whatever they do at once, what the server has', async () => {
    await fc.assert(
      fc.asyncProperty(choices(15), choices(15), async (first, second) => {
        const id = await make()
        const tabs = [await tab(id), await tab(id)] as const
        await Promise.all(
          [first, second].map(async (taken, at) => {
            const maker = new Maker()
            const store = tabs[at as 0 | 1]
            for (const choice of taken) {
              if (!store.design) continue
              const operation = JSON.parse(
                JSON.stringify(maker.operation(store.design, choice)).replaceAll(
                  /_x(\d+)"/g,
                  `_${'ab'[at]}$1"`
                )
              ) as Parameters<typeof store.submit>[0]
              store.submit(operation)
              if (choice[3] % 4 === 0) await new Promise((resolve) => setTimeout(resolve, choice[3] % 9))
            }
          })
        )
        await settled(...tabs)
        expect(shows(tabs[0])).toBe(await onServer(id))
        open.splice(0).forEach((each) => each.close())
      }),
      { numRuns: times(15) }
    )
  })

  it('undoes and redoes with names, and a new step ends what could be redone', async () => {
    const id = await make()
    const store = await tab(id)
    store.submit({ kind: 'table.add', table: { ...newTable('ward'), id: 't_ward' } })
    store.submit({ kind: 'table.rename', table: 't_ward', name: 'unit' })
    expect(store.undoLabel).toBe('rename ward to unit')
    store.undo()
    expect([store.design?.tables[0]?.name, store.undoLabel, store.redoLabel]).toEqual([
      'ward',
      'make ward',
      'rename ward to unit'
    ])
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
    await soonAsync(async () => expect(await keptFor(id)).toBe(2))
    vanish(store)
    reachable = true
    const later = await tab(id)
    expect(later.design?.tables.map((table) => table.name)).toEqual(['ward', 'pen'])
    await settled(later)
    await soonAsync(async () => expect(await keptFor(id)).toBe(0))
    expect(shows(later)).toBe(await onServer(id))
  })

  it('sends what waits when the stream says that the server is back, though the page is kept from its timers', async () => {
    const until = async (check: () => boolean): Promise<void> => {
      while (!check()) await new Promise((resolve) => setImmediate(resolve))
    }
    const store = await tab(await make())
    const real = setTimeout
    vi.stubGlobal('setTimeout', (_: () => void, time: number) => real(() => {}, time).unref())
    try {
      reachable = false
      store.submit({ kind: 'table.add', table: newTable('ward') })
      await until(() => !store.online)
      reachable = true
      streams()
        .at(-1)
        ?.tell('here', { revision: 0, mark: await markOf(store.id) })
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
    await fetch(`/api/designs/${id}`, { method: 'DELETE', headers: { 'Content-Type': 'application/json' } })
    await soon(() => expect(store.failure).toBe('This design was removed.'))
    // What is seen can still be kept, with what was changed since.
    store.submit({ kind: 'table.add', table: newTable('ward') })
    const kept = await tab(await store.keepAsNew())
    expect([kept.id === id, kept.design?.tables.map((table) => table.name)]).toEqual([false, ['ward']])
    await soonAsync(async () => expect(await keptFor(id)).toBe(0))
    const nowhere = await tab('d_nowhere')
    expect(nowhere.failure).toContain('There is no such design here')
  })

  it('waits with what it has while the server cannot keep it, says why, and throws nothing away', async () => {
    const id = await make()
    const store = await tab(id)
    let refusals = 0
    page.through = (path, options, go) => {
      if (options?.method !== 'POST' || !path.endsWith('/operations') || refusals >= 8) return go()
      refusals++
      return Promise.resolve(
        new Response(
          JSON.stringify({ error: { message: 'The disk is full. Make room.', code: 'not-kept' } }),
          { status: 507 }
        )
      )
    }
    store.submit({ kind: 'table.add', table: newTable('ward') })
    store.submit({ kind: 'table.add', table: newTable('pen') })
    // The stream says that the server is there each time, so that the test need not wait as long as a page
    // does.
    while (refusals < 8) {
      await soon(() => expect(store.trouble).toBe('The disk is full. Make room.'))
      expect([store.pending.length, store.design?.tables.length, store.notice]).toEqual([2, 2, undefined])
      await soonAsync(async () => expect(await keptFor(id)).toBe(2))
      streams()
        .at(-1)
        ?.tell('here', { revision: store.revision, mark: await markOf(id) })
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
    await settled(store)
    expect(store.trouble).toBe('')
    await soonAsync(async () => expect(await keptFor(id)).toBe(0))
    expect(shows(store)).toBe(await onServer(id))
  })

  it('takes the design as it is when it went back on the server, puts what waits on top, and says so', async () => {
    const id = await make()
    const store = await tab(id)
    store.submit({ kind: 'table.add', table: { ...newTable('ward'), id: 't_ward' } })
    await settled(store)
    const earlier = await onServer(id)
    for (const name of ['unit', 'place', 'hall'])
      store.submit({ kind: 'table.rename', table: 't_ward', name })
    await settled(store)
    expect(store.revision).toBe(4)
    // As with an older backup: the same id, a revision that went back, another history.
    reachable = false
    streams().at(-1)?.close()
    reachable = true
    await fetch(`/api/designs/${id}`, { method: 'DELETE', headers: { 'Content-Type': 'application/json' } })
    await fetch('/api/files', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: earlier
    })
    page.asked.length = 0
    store.submit({ kind: 'table.add', table: newTable('pen') })
    await soon(() => expect(store.pending).toEqual([]))
    expect(store.notice?.message).toContain('another history of this design')
    expect(store.design?.tables.map((table) => table.name)).toEqual(['ward', 'pen'])
    expect(shows(store)).toBe(await onServer(id))
    expect(page.asked.length).toBeLessThan(8)
  })

  it('is told apart from another that came as far, and not from itself when the stream tells late', async () => {
    const id = await make()
    const store = await tab(id)
    const empty = await onServer(id)
    const [first] = [{ revision: store.revision, mark: await markOf(id) }]
    store.submit({ kind: 'table.add', table: newTable('ward') })
    await settled(store)
    page.asked.length = 0
    streams().at(-1)?.tell('here', first)
    await soon(() => expect(page.asked).toHaveLength(1))
    await new Promise((resolve) => setTimeout(resolve, 50))
    expect([store.notice, store.design?.tables.length]).toEqual([undefined, 1])
    const other = async (method: string, path: string, body?: object): Promise<unknown> =>
      fetch(`/api/designs${path}`, {
        method,
        headers: { 'Content-Type': 'application/json' },
        ...(body && { body: JSON.stringify(body) })
      })
    streams().at(-1)?.fallSilent()
    await other('DELETE', `/${id}`)
    await fetch('/api/files', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: empty
    })
    await other('POST', `/${id}/operations`, {
      revision: 0,
      operationId: crypto.randomUUID(),
      client: 'other',
      operation: { kind: 'table.add', table: newTable('pen') }
    })
    expect(store.revision).toBe(1)
    store.submit({ kind: 'table.add', table: newTable('hall') })
    await soon(() => expect(store.notice?.message).toContain('another history'))
    await settled(store)
    expect(store.design?.tables.map((table) => table.name)).toEqual(['pen', 'hall'])
    expect(shows(store)).toBe(await onServer(id))
  })

  it('sends nothing over and over that was taken before the page was loaded', async () => {
    const id = await make()
    const first = await tab(id)
    first.submit({ kind: 'table.add', table: newTable('ward') })
    await settled(first)
    const [taken] = (
      (await (await fetch(`/api/designs/${id}/operations?after=0`)).json()) as { operations: unknown[] }
    ).operations
    vanish(first)
    // Its answer never came, so the page that was closed left it behind.
    page.stored[`patient-key pending ${id} gone`] = JSON.stringify([taken])
    page.asked.length = 0
    const later = await tab(id)
    await settled(later)
    expect(later.design?.tables.map((table) => table.name)).toEqual(['ward'])
    expect(page.asked.filter((each) => each.startsWith('POST'))).toHaveLength(1)
  })

  it('opens another stream when the one that it has says nothing any more', async () => {
    const id = await make()
    const store = await tab(id)
    await soon(() => expect(streams().at(-1)?.readyState).toBe(0))
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    try {
      const dead = streams().at(-1)
      dead?.tell('beat', {})
      dead?.fallSilent()
      vi.advanceTimersByTime(29_000)
      expect(streams().at(-1)).toBe(dead)
      vi.advanceTimersByTime(2000)
      expect(streams().at(-1)).not.toBe(dead)
      expect(dead?.readyState).toBe(Events.CLOSED)
    } finally {
      vi.useRealTimers()
    }
    const other = await tab(id)
    other.submit({ kind: 'table.add', table: newTable('ward') })
    await settled(store, other)
  })

  it('has the same bytes in every tab though rows say that they are empty, and that they say nothing', async () => {
    const id = await make()
    const [one, two] = [await tab(id), await tab(id)]
    const table = { ...newTable('ward'), id: 't_ward' }
    const column = { id: 'c_note', name: 'note', type: { kind: 'text' as const }, required: false }
    const key = table.columns[0]?.id ?? ''
    one.submit({ kind: 'table.add', table: { ...table, columns: [...table.columns, column] } })
    one.submit({
      kind: 'table.setRows',
      table: 't_ward',
      rows: [{ [key]: 1, c_note: null }, { [key]: 2 }, { [key]: 3, c_note: 'x' }]
    })
    one.submit({ kind: 'column.remove', table: 't_ward', column: 'c_note' })
    one.undo()
    await settled(one, two)
    const raw = (await (await fetch(`/api/designs/${id}`)).json()) as { design: Design }
    const rows = (of: Design | undefined): string => JSON.stringify(of?.tables.map((each) => each.rows))
    expect([rows(one.design), rows(two.design)]).toEqual([rows(raw.design), rows(raw.design)])
    expect(raw.design.tables[0]?.rows).toEqual([{ [key]: 1 }, { [key]: 2 }, { [key]: 3, c_note: 'x' }])
  })
})
