import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api } from '../api/client.ts'
import { randomId } from '../parts/randomId.ts'
import { Courier, type Reader, type Seen } from './courier.ts'
import { WaitingRoom, type Aside, type Waiting } from './waiting.ts'

/** What the lock of a page is called, before its own name. */
const TAB = 'patient-key tab '

/** What becomes of what is on its way to a design that nobody looks at. */
interface Standing {
  name: string
  waiting: number
  /** Why it does not get on, in words; nothing where it does. */
  why: string
}

/**
 * All that is on its way to the server, of every design, from wherever one is: each design has a courier, which goes
 * on when the design is left. What an earlier page left behind is sent as well; taken twice does no harm, since each
 * operation carries an id.
 */
export const useOutgoing = defineStore('outgoing', () => {
  const room = new WaitingRoom()
  const tab = randomId()
  const couriers = shallowRef<ReadonlyMap<string, Courier>>(new Map())
  const names = ref(new Map<string, string>())
  const whys = ref(new Map<string, string>())
  /** What cannot be sent any more, or was not understood. */
  const aside = shallowRef<readonly Aside[]>([])
  let release = (): void => {}
  /** As long as this page lives, what it has to send is left to it. */
  void navigator.locks
    ?.request(`${TAB}${tab}`, () => new Promise<void>((resolve) => (release = resolve)))
    .catch(() => undefined)

  async function living(): Promise<ReadonlySet<string>> {
    const found = await navigator.locks?.query().catch(() => undefined)
    const names = found?.held?.flatMap(({ name }) => (name?.startsWith(TAB) ? [name.slice(TAB.length)] : []))
    return new Set([...(names ?? []), tab])
  }

  /** Who has a design's operations to send; `reader` is told of them from now on. */
  function courierTo(design: string, reader: Reader): Courier {
    const known = couriers.value.get(design)
    if (known) {
      known.tell(reader)
      return known
    }
    const made = new Courier(design, room, reader)
    couriers.value = new Map([...couriers.value, [design, made]])
    return made
  }

  /** A design is left: what is still on its way goes on by itself. */
  function leave(design: string, name: string, seen: Seen): void {
    const courier = couriers.value.get(design)
    if (!courier) return
    names.value.set(design, name)
    courier.tell(unread(design, seen))
    void courier.send()
  }

  /** Stands in for who looks at a design. */
  function unread(design: string, last?: Seen): Reader {
    let seen = last
    const courier = (): Courier | undefined => couriers.value.get(design)
    const say = (why: string): void => void whys.value.set(design, why)
    return {
      seen: async () => (seen ??= await api.head(design)),
      taken: ({ operationId }, { revision, mark }) => {
        seen = { revision, mark }
        say('')
        courier()?.done(operationId)
      },
      refused: (sent, error) => {
        const { revision, mark } = error.body
        if (revision !== undefined && mark !== undefined) seen = { revision, mark }
        void putAside(sent, error.message)
        courier()?.done(sent.operationId)
      },
      anew: async () => {
        seen = await api.head(design)
      },
      ended: (error) => {
        for (const waiting of courier()?.pending.value ?? []) {
          void putAside(waiting, error.message)
          courier()?.done(waiting.operationId)
        }
      },
      standing: (online, trouble) => say(online ? trouble : 'The server does not answer.')
    }
  }

  async function putAside(what: Waiting, why: string): Promise<void> {
    const said = { design: what.design, what, why }
    aside.value = [...aside.value, said]
    await room.setAside(said).catch(() => undefined)
  }

  /** Pages whose end is waited for, and what ends the waiting. */
  const awaited = new Set<string>()
  const ended = new AbortController()

  /** Another page goes sooner or later, and may be going now: what it has left is sent then. */
  function sendWhenGone(page: string): void {
    if (page === tab || awaited.has(page)) return
    awaited.add(page)
    navigator.locks
      ?.request(`${TAB}${page}`, { signal: ended.signal }, () => void awaited.delete(page))
      .then(sendWhatWasLeft, () => undefined)
  }

  /** Takes over what pages that are gone left behind: of the design that is opened, and of all others. */
  async function sendWhatWasLeft(): Promise<void> {
    try {
      const alive = await living()
      alive.forEach(sendWhenGone)
      if (ended.signal.aborted) return
      const left = await room.takeOver(tab, (each) => alive.has(each))
      // What a page took over that has gone meanwhile is there for the next.
      if (ended.signal.aborted) return
      const designs = new Map<string, [number, Waiting][]>()
      for (const entry of left) designs.set(entry[1].design, [...(designs.get(entry[1].design) ?? []), entry])
      for (const [design, entries] of designs) {
        const courier = couriers.value.get(design) ?? courierTo(design, unread(design))
        courier.adopt(entries)
        void courier.send()
      }
      aside.value = await room.aside()
    } catch {
      // A browser that keeps nothing for pages has nothing to send either.
    }
  }

  const standing = computed((): ReadonlyMap<string, Standing> => {
    const found = new Map<string, Standing>()
    for (const [design, { pending }] of couriers.value) {
      const why = whys.value.get(design) ?? ''
      const name = names.value.get(design) ?? ''
      if (pending.value.length > 0) found.set(design, { name, waiting: pending.value.length, why })
    }
    return found
  })

  async function forgetAside(): Promise<void> {
    aside.value = []
    await room.clearAside()
  }

  /** The operations that would be lost if the page went now. */
  const atRisk = (): string[] => [...couriers.value.values()].flatMap((courier) => courier.atRisk)
  const ask = (event: Event): void => {
    if (atRisk().length > 0) event.preventDefault()
  }
  // A page that is looked at again may be the only one left of several.
  const look = (): void => {
    if (document.visibilityState === 'visible') void sendWhatWasLeft()
  }
  if (typeof window !== 'undefined') {
    window.addEventListener('beforeunload', ask)
    document.addEventListener('visibilitychange', look)
  }

  /** The page goes: others may send what it had. */
  function end(): void {
    for (const courier of couriers.value.values()) courier.end()
    couriers.value = new Map()
    ended.abort()
    release()
  }

  return { tab, courierTo, leave, sendWhatWasLeft, standing, aside, forgetAside, atRisk, end }
})
