import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { apply } from '../../core/edit/apply.ts'
import { describe } from '../../core/edit/describe.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Offer, Refusal } from '../../core/edit/refusal.ts'
import { Histories, type Step } from './history.ts'
import { synced, type Notice } from './sync.ts'

export type { Notice } from './sync.ts'

/**
 * The open design, in step with the server (./sync.ts), and what can be done in it, undone and done again.
 */
/** A step that was taken back or done again. */
export interface Done {
  label: string
  touched: ReadonlySet<string>
}

export const useDesign = defineStore('design', () => {
  const notice = shallowRef<Notice>()
  const { enqueue, ...sync } = synced(notice)
  const { id, design } = sync
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
    if (id.value === wanted && design.value) return
    close()
    const history = histories.of(wanted)
    if (history) [past.value, future.value] = [history.past, history.future]
    await sync.open(wanted)
  }

  function keepHistory(): void {
    if (id.value !== '' && design.value) histories.keep(id.value, { past: past.value, future: future.value })
  }

  function close(): void {
    keepHistory()
    past.value = []
    future.value = []
    sync.close()
  }

  /**
   * Carries out an operation at once and sends it. A refusal is shown with its offers, those of `instead`
   * before them, and given back.
   */
  function submit(operation: Operation, label?: string, instead: Offer[] = []): Refusal | undefined {
    const refusal = perform(
      { label: label ?? (design.value ? describe(design.value, operation) : ''), operation },
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
    if (!step || !design.value) return undefined
    past.value = past.value.slice(0, -1)
    return done(step, (redo) => {
      future.value = [...future.value, redo]
    })
  }

  function redo(): Done | undefined {
    const step = future.value.at(-1)
    if (!step || !design.value) return undefined
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
    if (!design.value) return undefined
    const result = apply(design.value, operation)
    if (!result.ok) {
      notice.value = { message: result.refusal.message, offers: result.refusal.offers }
      return result.refusal
    }
    notice.value = undefined
    design.value = result.design
    for (const table of result.touched) about.add(table)
    remember({ label, operation: result.inverse })
    enqueue(operation)
    return undefined
  }

  const say = (message: string): void => {
    notice.value = { message, offers: [] }
  }

  return {
    ...sync,
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
