import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { Design } from '../../core/design/model.ts'
import { apply } from '../../core/edit/apply.ts'
import { describe } from '../../core/edit/describe.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Offer, Refusal } from '../../core/edit/refusal.ts'
import { Answered, api, Unreachable, type Logged, type VersionInfo } from '../api/client.ts'
import { Histories, type Step } from './history.ts'
import { Outbox } from './outbox.ts'

/** Something said to the person, with what can be done about it. */
export interface Notice { message: string; offers: Refusal['offers'] }

const CLIENT = crypto.randomUUID()
/** Waits between tries (milliseconds), and how often a server that answers with an error of its own is asked again. */
const RETRY = { first: 500, most: 5000, broken: 5 }

/**
 * The open design. What is shown is what the server has confirmed with what is still on its way applied
 * on top; when others' changes come in between, what is on its way is applied again behind them.
 */
export const useDesign = defineStore('design', () => {
  const id = ref('')
  const confirmed = shallowRef<Design>()
  const design = shallowRef<Design>()
  const revision = ref(0)
  const pending = shallowRef<Logged[]>([])
  const versions = ref<VersionInfo[]>([])
  const past = shallowRef<Step[]>([])
  const future = shallowRef<Step[]>([])
  const notice = shallowRef<Notice>()
  const online = ref(true)
  const failure = ref('')
  /** What can be undone and redone in designs that were open before; they may be opened again. */
  const histories = new Histories()
  if (typeof window !== 'undefined') {
    window.addEventListener('pagehide', () => {
      keepHistory()
      histories.store()
    })
  }
  let events: EventSource | undefined
  let outbox: Outbox | undefined
  let sending = false
  /** Ends the wait before what is on its way is sent again. */
  let wake = (): void => {}
  let retryTimer: ReturnType<typeof setTimeout> | undefined

  async function open(wanted: string): Promise<void> {
    if (id.value === wanted && design.value) return
    close()
    id.value = wanted
    try {
      const answer = await api.design(wanted)
      if (id.value !== wanted) return
      confirmed.value = answer.design
      revision.value = answer.revision
      versions.value = answer.versions
      const history = histories.of(wanted)
      if (history) [past.value, future.value] = [history.past, history.future]
      outbox = new Outbox(wanted)
      const left = await outbox.adopt()
      if (id.value !== wanted) return
      pending.value = left
      rebase()
      listen()
      void flush()
    } catch (error) {
      failure.value = error instanceof Error ? error.message : String(error)
      if (error instanceof Unreachable) {
        online.value = false
        retryTimer = setTimeout(() => { id.value = ''; void open(wanted) }, RETRY.first * 2)
      }
    }
  }

  function keepHistory(): void {
    if (id.value !== '' && design.value) histories.keep(id.value, { past: past.value, future: future.value })
  }

  function close(): void {
    events?.close()
    events = undefined
    outbox?.close()
    outbox = undefined
    clearTimeout(retryTimer)
    keepHistory()
    id.value = ''
    confirmed.value = design.value = notice.value = undefined
    pending.value = []
    past.value = []
    future.value = []
    versions.value = []
    failure.value = ''
    online.value = true
    sending = false
  }

  /** Carries out an operation at once and sends it. A refusal is shown with its offers, those of `instead` before them, and given back. */
  function submit(operation: Operation, label?: string, instead: Offer[] = []): Refusal | undefined {
    const refusal = perform({ label: label ?? (design.value ? describe(design.value, operation) : ''), operation }, (undo) => {
      past.value = [...past.value, undo]
      future.value = []
    })
    if (refusal && instead.length > 0) notice.value = { message: refusal.message, offers: [...instead, ...refusal.offers] }
    return refusal
  }

  function undo(): void {
    const step = past.value.at(-1)
    if (!step) return
    past.value = past.value.slice(0, -1)
    perform(step, (redo) => { future.value = [...future.value, redo] })
  }

  function redo(): void {
    const step = future.value.at(-1)
    if (!step) return
    future.value = future.value.slice(0, -1)
    perform(step, (undone) => { past.value = [...past.value, undone] })
  }

  function perform({ label, operation }: Step, remember: (inverse: Step) => void): Refusal | undefined {
    if (!design.value) return undefined
    const result = apply(design.value, operation)
    if (!result.ok) {
      notice.value = { message: result.refusal.message, offers: result.refusal.offers }
      return result.refusal
    }
    notice.value = undefined
    design.value = result.design
    remember({ label, operation: result.inverse })
    enqueue(operation)
    return undefined
  }

  function enqueue(operation: Operation): void {
    pending.value = [...pending.value, { revision: 0, operationId: crypto.randomUUID(), client: CLIENT, operation }]
    keep()
    void flush()
  }

  const keep = (): void => outbox?.keep(pending.value)

  async function flush(): Promise<void> {
    if (sending) return
    sending = true
    const mine = id.value
    try {
      await sendAll(mine)
    } finally {
      if (id.value === mine) sending = false
    }
  }

  /** A page out of sight may be kept from its timers; the stream tells as well when the server is back. */
  const pause = (time: number): Promise<void> => new Promise((resolve) => {
    const timer = setTimeout(resolve, time)
    wake = () => {
      clearTimeout(timer)
      resolve()
    }
  })

  async function sendAll(mine: string): Promise<void> {
    let wait = RETRY.first
    let broken = 0
    for (let next = pending.value[0]; next && id.value === mine; next = pending.value[0]) {
      try {
        const answer = await api.submit(mine, { ...next, revision: revision.value })
        if (id.value !== mine) return
        online.value = true
        wait = RETRY.first
        broken = 0
        answer.between.forEach(take)
        take({ ...next, revision: answer.revision })
      } catch (error) {
        if (id.value !== mine) return
        if (error instanceof Unreachable || (error instanceof Answered && error.status >= 500 && ++broken < RETRY.broken)) {
          online.value = false
          await pause(wait)
          wait = Math.min(wait * 2, RETRY.most)
          continue
        }
        giveUp(next, error)
      }
    }
  }

  /** An operation that the server will not take, because of what others did meanwhile: said, and taken out of the way. */
  function giveUp(refused: Logged, error: unknown): void {
    const what = confirmed.value ? describe(confirmed.value, refused.operation) : 'a change'
    const refusal = error instanceof Answered ? error.body.error?.refusal : undefined
    pending.value = pending.value.filter((each) => each.operationId !== refused.operationId)
    keep()
    if (error instanceof Answered) error.body.between?.forEach(take)
    rebase()
    const why = error instanceof Error ? error.message : String(error)
    notice.value = { message: refusal ? `“${what}” could not be kept, because the design had changed meanwhile. ${why}` : `“${what}” could not be kept. ${why}`, offers: refusal?.offers ?? [] }
  }

  /** Takes in an operation that the server has confirmed: one's own or another's. */
  function take(logged: Logged): void {
    if (!confirmed.value || logged.revision <= revision.value) return
    if (logged.revision > revision.value + 1) return void catchUp()
    const result = apply(confirmed.value, logged.operation)
    if (!result.ok) return void reload()
    confirmed.value = result.design
    revision.value = logged.revision
    if (pending.value[0]?.operationId === logged.operationId) {
      pending.value = pending.value.slice(1)
      keep()
      // With nothing else on its way, what is shown is what is confirmed; sharing the value keeps look-ups warm.
      if (pending.value.length === 0) confirmed.value = design.value
    } else rebase()
  }

  function rebase(): void {
    let current = confirmed.value
    if (!current) return
    const kept: Logged[] = []
    for (const each of pending.value) {
      const result = apply(current, each.operation)
      if (result.ok) {
        current = result.design
        kept.push(each)
      } else notice.value = { message: `“${describe(current, each.operation)}” no longer fits what others have done. ${result.refusal.message}`, offers: result.refusal.offers }
    }
    pending.value = kept
    keep()
    design.value = current
  }

  async function catchUp(): Promise<void> {
    const mine = id.value
    try {
      const missed = await api.after(mine, revision.value)
      if (id.value === mine) missed.forEach(take)
    } catch {
      // The stream tells again where the server stands when it is back.
    }
  }

  async function reload(): Promise<void> {
    const mine = id.value
    const answer = await api.design(mine)
    if (id.value !== mine) return
    confirmed.value = answer.design
    revision.value = answer.revision
    versions.value = answer.versions
    rebase()
  }

  function listen(): void {
    events = new EventSource(`/api/designs/${id.value}/events`)
    const on = <T>(name: string, handle: (data: T) => void): void => events?.addEventListener(name, (event) => handle(JSON.parse((event as MessageEvent<string>).data) as T))
    on<{ revision: number }>('here', (data) => {
      online.value = true
      wake()
      if (data.revision > revision.value) void catchUp()
    })
    on<Logged>('operation', take)
    on<VersionInfo>('version', (version) => {
      if (!versions.value.some((each) => each.number === version.number)) versions.value = [...versions.value, version]
    })
    on('removed', () => { failure.value = 'This design was removed.' })
    events.onerror = () => {
      online.value = false
      // A stream that got a wrong answer is not opened again by itself.
      if (events?.readyState === EventSource.CLOSED) retryTimer = setTimeout(listen, RETRY.most)
    }
  }

  async function saveVersion(note: string): Promise<void> {
    const version = await api.saveVersion(id.value, { note, revision: revision.value })
    if (!versions.value.some((each) => each.number === version.number)) versions.value = [...versions.value, version]
  }

  const say = (message: string): void => { notice.value = { message, offers: [] } }

  return {
    id, design, confirmed, revision, versions, notice, online, failure, pending,
    undoLabel: computed(() => past.value.at(-1)?.label), redoLabel: computed(() => future.value.at(-1)?.label),
    open, close, submit, undo, redo, saveVersion, say
  }
})
