import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { apply } from '../../core/edit/apply.ts'
import { describe } from '../../core/edit/describe.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Offer, Refusal } from '../../core/edit/refusal.ts'
import { api } from '../api/client.ts'
import { Histories, type Step } from './history.ts'
import { synced, type Notice } from './sync.ts'

export type { Notice } from './sync.ts'

/** A version as it was saved. */
type Looking = Awaited<ReturnType<typeof api.version>>

/** A step that was taken back or done again. */
export interface Done {
  label: string
  touched: ReadonlySet<string>
}

const asSaved = ({ number }: Looking): Refusal => ({
  code: 'in-use',
  message: `Version ${number} stays as it was saved. Go back to the draft to change something.`,
  where: {},
  offers: []
})

/**
 * The open design, in step with the server (./sync.ts), and what can be done in it, undone and done again; or one of
 * its versions to look at.
 */
export const useDesign = defineStore('design', () => {
  const notice = shallowRef<Notice>()
  const { enqueue, design: draft, ...sync } = synced(notice)
  const { id } = sync
  /** A saved version that is looked at instead of the draft; nothing can be changed in it. */
  const opened = shallowRef<Looking>()
  const looking = computed(() => {
    const now = sync.versions.value.find(({ number }) => number === opened.value?.number)
    return now && now.savedAt === opened.value?.savedAt ? opened.value : undefined
  })
  const past = shallowRef<Step[]>([])
  const future = shallowRef<Step[]>([])
  /** What can be undone and redone in designs that were open before; they may be opened again. */
  const histories = new Histories()
  if (typeof window !== 'undefined') {
    window.addEventListener('pagehide', () => {
      keepHistory()
      histories.store()
    })
  }

  async function open(wanted: string): Promise<void> {
    if (id.value === wanted && draft.value) return
    close()
    const history = histories.of(wanted)
    if (history) [past.value, future.value] = [history.past, history.future]
    await sync.open(wanted)
  }

  function keepHistory(): void {
    if (id.value !== '' && draft.value) histories.keep(id.value, { past: past.value, future: future.value })
  }

  function close(): void {
    keepHistory()
    past.value = []
    future.value = []
    opened.value = undefined
    sync.close()
  }

  /**
   * Carries out an operation at once and sends it. A refusal is shown with its offers, those of `instead`
   * before them, and given back.
   */
  function submit(operation: Operation, label?: string, instead: Offer[] = []): Refusal | undefined {
    const refusal = perform(
      { label: label ?? (draft.value ? describe(draft.value, operation) : ''), operation },
      (undo) => {
        past.value = [...past.value, undo]
        future.value = []
      }
    )
    if (refusal && instead.length > 0)
      notice.value = { message: refusal.message, offers: [...instead, ...refusal.offers] }
    return refusal
  }

  /** What was taken back, and the tables that it was about; nothing where there was nothing or it is refused. */
  function undo(): Done | undefined {
    const step = past.value.at(-1)
    if (!step || !draft.value || staysAsSaved()) return undefined
    past.value = past.value.slice(0, -1)
    return done(step, (redo) => {
      future.value = [...future.value, redo]
    })
  }

  function redo(): Done | undefined {
    const step = future.value.at(-1)
    if (!step || !draft.value || staysAsSaved()) return undefined
    future.value = future.value.slice(0, -1)
    return done(step, (undone) => {
      past.value = [...past.value, undone]
    })
  }

  function done(step: Step, remember: (inverse: Step) => void): Done | undefined {
    const about = new Set<string>()
    return perform(step, remember, about) ? undefined : { label: step.label, touched: about }
  }

  function perform(
    { label, operation }: Step,
    remember: (inverse: Step) => void,
    about = new Set<string>()
  ): Refusal | undefined {
    if (!draft.value) return undefined
    const refusal = staysAsSaved()
    if (refusal) return refusal
    const result = apply(draft.value, operation)
    if (!result.ok) {
      notice.value = { message: result.refusal.message, offers: result.refusal.offers }
      return result.refusal
    }
    notice.value = undefined
    draft.value = result.design
    for (const table of result.touched) about.add(table)
    remember({ label, operation: result.inverse })
    enqueue(operation)
    return undefined
  }

  /** Refuses a change while a saved version is looked at, and says why. */
  function staysAsSaved(): Refusal | undefined {
    const refusal = looking.value && asSaved(looking.value)
    if (refusal) notice.value = { message: refusal.message, offers: [] }
    return refusal
  }

  const say = (message: string): void => {
    notice.value = { message, offers: [] }
  }

  /** Shows a saved version on all screens. @throws in words, where the server does not give it */
  async function look(number: number): Promise<void> {
    const wanted = id.value
    const version = await api.version(wanted, number)
    if (id.value === wanted) opened.value = version
  }
  function lookAtDraft(): void {
    opened.value = undefined
    notice.value = undefined
  }

  return {
    ...sync,
    /** What is shown: the draft, or the saved version that is looked at. */
    design: computed(() => looking.value?.design ?? draft.value),
    draft,
    looking,
    look,
    lookAtDraft,
    notice,
    open,
    close,
    submit,
    undo,
    redo,
    say,
    undoLabel: computed(() => past.value.at(-1)?.label),
    redoLabel: computed(() => future.value.at(-1)?.label)
  }
})
