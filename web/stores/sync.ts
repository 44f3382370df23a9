import { computed, ref, shallowRef, type ShallowRef } from 'vue'
import { writeDesignFile } from '../../core/design/file.ts'
import { newId, type Design } from '../../core/design/model.ts'
import { apply, replay } from '../../core/edit/apply.ts'
import { describe } from '../../core/edit/describe.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Refusal } from '../../core/edit/refusal.ts'
import { Answered, api, Unreachable, type Logged, type VersionInfo } from '../api/client.ts'
import { randomId } from '../parts/randomId.ts'
import { isPassing, type Courier, type Reader, type Seen } from './courier.ts'
import { useOutgoing } from './outgoing.ts'
import type { Waiting } from './waiting.ts'

/** Something said to the person, with what can be done about it. */
export interface Notice {
  message: string
  offers: Refusal['offers']
}

const CLIENT = randomId()
/** Waits between tries to open a design, or a stream of it (milliseconds). */
const RETRY = { first: 1000, most: 5000 }
/**
 * A stream that says nothing for so long (milliseconds) is dead, whatever it seems: the server's say so
 * every ten seconds.
 */
const SILENCE = 30_000

/**
 * A design that the server has, kept in step with it. What is shown is what the server has confirmed with
 * what is still on its way applied on top; when others' changes come in between, what is on its way is
 * applied again behind them. Whatever keeps it from getting there is waited out, or said in `notice`.
 */
export function synced(notice: ShallowRef<Notice | undefined>) {
  const outgoing = useOutgoing()
  const id = ref('')
  const confirmed = shallowRef<Design>()
  const design = shallowRef<Design>()
  const revision = ref(0)
  let mark = ''
  const courier = shallowRef<Courier>()
  const pending = computed((): readonly Waiting[] => courier.value?.pending.value ?? [])
  /** How many of those the browser does not keep, and why. */
  const unkept = computed(() => courier.value?.unkept.value.size ?? 0)
  const whyUnkept = computed(() => courier.value?.whyUnkept.value ?? '')
  const versions = ref<VersionInfo[]>([])
  const online = ref(true)
  /** Why the server, which answers, does not keep what is sent: it waits here until it does. */
  const trouble = ref('')
  const failure = ref('')
  let events: EventSource | undefined
  /** Counts what was opened: whoever waited for an answer meanwhile sees that it is no longer for them. */
  let opened = 0
  let retryTimer: ReturnType<typeof setTimeout> | undefined
  let silence: ReturnType<typeof setTimeout> | undefined

  async function open(wanted: string): Promise<void> {
    close()
    id.value = wanted
    const mine = opened
    try {
      const answer = await api.design(wanted)
      if (opened !== mine) return
      see(answer)
      confirmed.value = answer.design
      versions.value = answer.versions
      courier.value = outgoing.courierTo(wanted, reader)
      await outgoing.sendWhatWasLeft()
      if (opened !== mine) return
      rebase()
      listen()
      void courier.value.send()
    } catch (error) {
      if (opened !== mine) return
      failure.value = sayError(error)
      if (!isPassing(error)) return
      online.value = !(error instanceof Unreachable)
      retryTimer = setTimeout(() => void open(wanted), RETRY.first)
    }
  }

  function see(seen: Seen): void {
    revision.value = seen.revision
    mark = seen.mark
  }

  function close(): void {
    opened++
    events?.close()
    events = undefined
    if (courier.value) outgoing.leave(id.value, design.value?.name ?? '', { revision: revision.value, mark })
    courier.value = undefined
    clearTimeout(retryTimer)
    clearTimeout(silence)
    id.value = ''
    confirmed.value = design.value = notice.value = undefined
    versions.value = []
    failure.value = trouble.value = ''
    online.value = true
  }

  function enqueue(operation: Operation): void {
    const label = confirmed.value ? describe(confirmed.value, operation).slice(0, 1000) : ''
    courier.value?.take({
      design: id.value,
      tab: outgoing.tab,
      label,
      client: CLIENT,
      operationId: randomId(),
      operation
    })
  }

  /** What becomes of the operations of this design while it is looked at. */
  const reader: Reader = {
    seen: () => ({ revision: revision.value, mark }),
    taken(sent, answer) {
      answer.between.forEach(take)
      take({ ...sent, revision: answer.revision, mark: answer.mark })
      // Taken before, and so in what was loaded: it has been done.
      if (answer.revision <= revision.value && courier.value?.has(sent.operationId)) {
        courier.value.done(sent.operationId)
        rebase()
      }
    },
    refused: giveUp,
    anew: (why) => reload(why === 'parted' ? PARTED : BEHIND),
    ended: (error) => {
      failure.value = error.status === 404 ? REMOVED : sayError(error)
    },
    standing(isOnline, said) {
      online.value = isOnline
      trouble.value = said
    }
  }

  /**
   * An operation that the server will not take, because of what others did meanwhile: said, and taken out
   * of the way.
   */
  function giveUp(refused: Waiting, error: Answered): void {
    const what = confirmed.value ? describe(confirmed.value, refused.operation) : 'a change'
    const refusal = error.body.error?.refusal
    courier.value?.done(refused.operationId)
    error.body.between?.forEach(take)
    rebase()
    const why = sayError(error)
    notice.value = {
      message: refusal
        ? `“${what}” could not be kept, because the design had changed meanwhile. ${why}`
        : `“${what}” could not be kept. ${why}`,
      offers: refusal?.offers ?? []
    }
  }

  /** Takes in an operation that the server has confirmed: one's own or another's. */
  function take(logged: Logged): void {
    if (!confirmed.value || logged.revision < revision.value) return
    if (logged.revision === revision.value) return compare(logged)
    if (logged.revision > revision.value + 1) return void catchUp()
    // It was judged when it was taken.
    const result = replay(confirmed.value, logged.operation)
    if (!result.ok) return void reload(PARTED).catch(() => undefined)
    confirmed.value = result.design
    see(logged)
    if (pending.value[0]?.operationId === logged.operationId) {
      courier.value?.done(logged.operationId)
      // With nothing else on its way, what is shown is what is confirmed; sharing the value keeps look-ups
      // warm.
      if (pending.value.length === 0) confirmed.value = design.value
    } else rebase()
  }

  /**
   * Shows what is on its way on top of what is confirmed. What no longer fits there is the server's to
   * refuse: it may have taken it before.
   */
  function rebase(): void {
    let current = confirmed.value
    if (!current) return
    for (const { operation } of pending.value) {
      const result = apply(current, operation)
      if (result.ok) current = result.design
    }
    design.value = current
  }

  /**
   * Where the server stands elsewhere than this page, it is asked: what it said may be older than what it
   * has answered since.
   */
  function compare(server: Seen): void {
    if (server.revision !== revision.value || server.mark !== mark) void catchUp()
  }

  async function catchUp(): Promise<void> {
    const mine = opened
    try {
      const missed = await api.after(id.value, { revision: revision.value, mark })
      if (opened === mine) missed.forEach(take)
    } catch (error) {
      if (opened !== mine) return
      // Unless the histories have parted, the stream tells again where the server stands when it is back.
      const code = error instanceof Answered ? error.body.error?.code : undefined
      if (code === 'parted') await reload(PARTED).catch(() => undefined)
      if (code === 'behind') await reload(BEHIND).catch(() => undefined)
    }
  }

  /** Takes the design as the server has it now, with what is on its way on top, and says why. */
  async function reload(why: string): Promise<void> {
    const mine = opened
    const answer = await api.design(id.value)
    if (opened !== mine) return
    see(answer)
    confirmed.value = answer.design
    versions.value = answer.versions
    notice.value = { message: why, offers: [] }
    rebase()
  }

  function listen(): void {
    events?.close()
    const stream = (events = new EventSource(`/api/designs/${id.value}/events`))
    const again = (): void => {
      if (events === stream) listen()
    }
    const heard = (): void => {
      clearTimeout(silence)
      if (events === stream) silence = setTimeout(again, SILENCE)
    }
    const on = <T>(name: string, handle: (data: T) => void): void =>
      stream.addEventListener(name, (event) => {
        heard()
        if (events === stream) handle(JSON.parse((event as MessageEvent<string>).data) as T)
      })
    heard()
    on('beat', () => undefined)
    on<Seen>('here', (server) => {
      online.value = true
      courier.value?.hurry()
      compare(server)
    })
    on<Logged>('operation', take)
    on<VersionInfo>('version', (version) => {
      takeVersion(version)
    })
    on('removed', () => {
      failure.value = REMOVED
    })
    stream.onerror = () => {
      online.value = false
      // A stream that got a wrong answer is not opened again by itself.
      if (stream.readyState === EventSource.CLOSED) retryTimer = setTimeout(again, RETRY.most)
    }
  }

  /** Saves the draft as a version; with `only`, those of its changes since the last one. */
  async function saveVersion(note: string, only?: readonly string[]): Promise<void> {
    const version = { note, revision: revision.value, ...(only && { only: [...only] }) }
    takeVersion(await api.saveVersion(id.value, version))
  }

  /** Another note on a version; with `amended`, the draft in its place, where it is the last. */
  async function changeVersion(number: number, note: string | undefined, amended: boolean): Promise<void> {
    const changed = {
      ...(note !== undefined && { note }),
      ...(amended && { revision: revision.value })
    }
    takeVersion(await api.changeVersion(id.value, number, changed))
  }

  /** A version that is new, or another than it was. */
  function takeVersion(version: VersionInfo): void {
    const others = versions.value.filter((each) => each.number !== version.number)
    versions.value = [...others, version].sort((one, other) => one.number - other.number)
  }

  /** Makes a new design of what is seen here, where this one is gone from the server. Gives its id. */
  async function keepAsNew(): Promise<string> {
    if (!design.value) throw new Error('There is nothing to keep.')
    const made = await api.create({ file: writeDesignFile({ ...design.value, id: newId('d') }) })
    for (const { operationId } of pending.value) courier.value?.done(operationId)
    return made.design.id
  }

  return {
    id,
    design,
    confirmed,
    revision,
    versions,
    online,
    trouble,
    failure,
    pending,
    unkept,
    whyUnkept,
    open,
    close,
    enqueue,
    saveVersion,
    changeVersion,
    keepAsNew
  }
}

const REMOVED = 'This design was removed.'
const PARTED =
  'The server has another history of this design than this page had: an earlier state was put back, or it was removed and taken in again. What you see now is what the server has.'

const BEHIND =
  'Much was changed by others since this page heard of it last, so the design was loaded anew. What you do is put on top.'

const sayError = (error: unknown): string => (error instanceof Error ? error.message : String(error))
