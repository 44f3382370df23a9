import fc from 'fast-check'
import { createPinia, setActivePinia, type Pinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { newTable } from '../../core/relate/propose.ts'
import { pretendPage, type Page } from '../../tests/page.ts'
import { StandIn } from '../../tests/stand-in.ts'
import { times } from '../../tests/times.ts'
import { useDesign } from './design.ts'
import { useOutgoing } from './outgoing.ts'
import { WaitingRoom } from './waiting.ts'

const DESIGNS = ['d_ward', 'd_pen', 'd_store']

let page: Page
let server: StandIn
/** How the server is for the page just now. */
let standing: 'there' | 'away' | 'answers lost' | 'disk full'

beforeEach(() => {
  page = pretendPage(() => 'http://127.0.0.1:9')
  server = new StandIn()
  standing = 'there'
  for (const id of DESIGNS) server.make(id)
  page.through = async (path, options) => {
    await Promise.resolve()
    if (standing === 'away') throw new TypeError('no way there')
    if (standing === 'disk full' && options?.method === 'POST')
      return new Response(JSON.stringify({ error: { message: 'The disk is full.', code: 'not-kept' } }), {
        status: 507
      })
    const answer = server.answer(path, options?.method ?? 'GET', options?.body as string | undefined)
    if (standing === 'answers lost' && options?.method === 'POST') throw new TypeError('lost on the way back')
    return answer
  }
  // Nobody is told what others do: a page finds out by its answers.
  vi.stubGlobal('EventSource', SilentEvents)
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
})
afterEach(() => {
  vi.useRealTimers()
  vi.restoreAllMocks()
  page.end()
})

class SilentEvents {
  static readonly CLOSED = 2
  addEventListener(): void {}
  close(): void {}
}

/** A page of the browser, which may go at any moment. */
class Tab {
  private readonly pinia: Pinia = createPinia()
  readonly made: string[] = []

  private within<T>(work: () => T): T {
    setActivePinia(this.pinia)
    return work()
  }
  get store(): ReturnType<typeof useDesign> {
    return this.within(() => useDesign())
  }
  get outgoing(): ReturnType<typeof useOutgoing> {
    return this.within(() => useOutgoing())
  }
  /** The page goes, as when its window is closed. */
  async vanish(): Promise<void> {
    this.outgoing.end()
    this.store.close()
    await turns(1)
  }
  /** Makes a table, and notes under which id it is sent. */
  edit(name: string): void {
    const before = new Set(this.store.pending.map(({ operationId }) => operationId))
    if (this.store.submit({ kind: 'table.add', table: newTable(name) })) return
    for (const { operationId } of this.store.pending)
      if (!before.has(operationId)) this.made.push(operationId)
  }
}

const turns = async (count: number): Promise<void> => {
  for (let n = 0; n < count; n++) await new Promise((resolve) => setImmediate(resolve))
}
const wait = (time: number): Promise<unknown> => vi.advanceTimersByTimeAsync(time)

describe('what is on its way', () => {
  it('goes out when its design is left, and is told of until it has', async () => {
    const tab = new Tab()
    await tab.store.open('d_ward')
    standing = 'away'
    for (let n = 0; n < 40; n++) tab.edit(`table ${n}`)
    await turns(20)
    await tab.store.open('d_pen')
    expect(tab.outgoing.standing.get('d_ward')?.waiting).toBe(40)
    standing = 'there'
    await wait(10_000)
    await vi.waitFor(() => expect(tab.outgoing.standing.size).toBe(0))
    expect(server.design('d_ward').tables).toHaveLength(40)
    await vi.waitFor(async () => expect(await page.waiting()).toEqual([]))
  })

  it('of designs that are not opened is sent by the next page', async () => {
    const tab = new Tab()
    await tab.store.open('d_ward')
    standing = 'away'
    tab.edit('left behind')
    await vi.waitFor(async () => expect(await page.waiting('d_ward')).toHaveLength(1))
    await tab.vanish()
    standing = 'there'
    await new Tab().outgoing.sendWhatWasLeft()
    await vi.waitFor(() => expect(server.design('d_ward').tables).toHaveLength(1))
  })

  it('of a page that goes while another is open is sent by that one', async () => {
    const tab = new Tab()
    await tab.store.open('d_ward')
    standing = 'away'
    tab.edit('left behind')
    await vi.waitFor(async () => expect(await page.waiting('d_ward')).toHaveLength(1))
    // The next page is there before this one is gone, as when one goes on to another address.
    const next = new Tab()
    await next.outgoing.sendWhatWasLeft()
    standing = 'there'
    await tab.vanish()
    await vi.waitFor(() => expect(server.design('d_ward').tables).toHaveLength(1))
    await next.vanish()
  })

  it('is told not to be kept where the browser has no room, and the page asks before it goes', async () => {
    const tab = new Tab()
    await tab.store.open('d_ward')
    standing = 'away'
    const put = vi.spyOn(WaitingRoom.prototype, 'put').mockRejectedValue(new Error('no room'))
    tab.edit('large')
    await vi.waitFor(() => expect([tab.store.unkept, tab.store.whyUnkept]).toEqual([1, 'no room']))
    expect(tab.outgoing.atRisk()).toEqual(tab.made)
    put.mockRestore()
    tab.edit('small')
    await vi.waitFor(() => expect(tab.store.unkept).toBe(0))
    expect(await page.waiting('d_ward')).toHaveLength(2)
    expect(tab.outgoing.atRisk()).toEqual([])
  })

  it('that nobody understands holds up nothing else, and can be saved', async () => {
    page.stored['patient-key pending d_ward one'] = '{ broken'
    page.stored['patient-key pending d_ward two'] = JSON.stringify([
      { operationId: 'o-1', client: 'c', operation: { kind: 'design.explode' } },
      { operationId: 'o-2', client: 'c', operation: { kind: 'design.rename', name: 'Kept' } }
    ])
    const tab = new Tab()
    await tab.store.open('d_ward')
    await vi.waitFor(() => expect(server.design('d_ward').name).toBe('Kept'))
    expect(tab.store.failure).toBe('')
    expect(tab.outgoing.aside.map(({ design }) => design)).toEqual(['d_ward', 'd_ward'])
    expect(Object.keys(page.stored)).toEqual([])
    expect(await new WaitingRoom().aside()).toHaveLength(2)
  })

  it('is lost in no story that was not told so', async () => {
    const told = { made: 0, away: 0, unkept: 0, tabs: 0, left: 0, aside: 0 }
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(999), { minLength: 30, maxLength: 60 }), async (steps) => {
        vi.restoreAllMocks()
        page.end()
        const { through } = page
        page = pretendPage(() => 'http://127.0.0.1:9')
        page.through = through
        vi.stubGlobal('EventSource', SilentEvents)
        server = new StandIn()
        for (const id of DESIGNS) server.make(id)
        standing = 'there'
        const made = new Set<string>()
        const risked = new Set<string>()
        let tabs: Tab[] = []
        let isRoom = true
        const put = WaitingRoom.prototype.put
        const stored = vi.spyOn(WaitingRoom.prototype, 'put').mockImplementation(function (
          this: WaitingRoom,
          waiting
        ) {
          return isRoom ? put.call(this, waiting) : Promise.reject(new Error('no room'))
        })
        const goes = async (tab: Tab): Promise<void> => {
          tab.made.forEach((id) => made.add(id))
          // What is at risk when a page goes was told: it asks before it goes.
          for (const id of tab.outgoing.atRisk()) risked.add(id)
          await tab.vanish()
          tabs = tabs.filter((each) => each !== tab)
        }
        for (const [at, step] of steps.entries()) {
          const tab = tabs[step % Math.max(1, tabs.length)]
          const kind = step % 12
          if (!tab || kind === 0) {
            const opened = new Tab()
            tabs.push(opened)
            told.tabs++
            await opened.outgoing.sendWhatWasLeft()
            await opened.store.open(DESIGNS[step % 3] as string)
          } else if (kind <= 5) tab.edit(`t${at}`)
          else if (kind === 6) await tab.store.open(DESIGNS[(step >> 3) % 3] as string)
          else if (kind === 7) standing = (['there', 'away', 'answers lost', 'disk full'] as const)[step % 4]!
          else if (kind === 8) isRoom = step % 3 !== 0
          else if (kind === 9) await goes(tab)
          else if (kind === 10) await wait(step * 10)
          else if (kind === 11 && step % 5 === 0) server.rewrite(DESIGNS[step % 3] as string)
          if (standing !== 'there') told.away++
          await turns(step % 4)
        }
        for (const tab of tabs) told.left += tab.outgoing.standing.size
        isRoom = true
        standing = 'there'
        const last = new Tab()
        for (const tab of [...tabs]) await goes(tab)
        await last.outgoing.sendWhatWasLeft()
        for (const id of DESIGNS) await last.store.open(id)
        for (let n = 0; n < 60 && last.outgoing.standing.size > 0; n++) {
          await wait(6000)
          await turns(4)
        }
        const aside = JSON.stringify(await new WaitingRoom().aside())
        for (const id of made) {
          const isTold = risked.has(id) || aside.includes(id)
          expect([id, server.taken.has(id) || isTold]).toEqual([id, true])
          told.made++
          if (risked.has(id)) told.unkept++
          if (aside.includes(id)) told.aside++
        }
        stored.mockRestore()
        await last.vanish()
      }),
      { numRuns: times(500) }
    )
    expect(told.made).toBeGreaterThan(1000)
    expect(Math.min(told.away, told.unkept, told.tabs, told.left)).toBeGreaterThan(50)
  })
})
