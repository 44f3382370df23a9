import { onBeforeUnmount, shallowRef, toRaw, watch, type Ref } from 'vue'
import type { Design, Version } from '../../core/design/model.ts'
import type { OutputOptions } from '../../core/definitions/output.ts'
import type { Changed, OutputAnswer, OutputQuestion } from '../workers/output.worker.ts'

/** What a worker is sent is nothing that is watched. */
const plain = <T extends object>(all: T): T =>
  Object.fromEntries(Object.entries(all).map(([name, value]) => [name, toRaw(value) as unknown])) as T

/** The number of a question for all at once; those for one begin at 1. */
const PACKING = 0

/** What a design comes to as an output, written off the main thread whenever one of them changes. */
export function useWritten(
  design: Ref<Design | undefined>,
  output: Ref<string>,
  options: Ref<OutputOptions>,
  /** The last version, by which is told which state it is, and what it is compared with. */
  versions: Ref<{ last?: Pick<Version, 'number' | 'design'> | undefined; before?: Design | undefined }>
): {
  text: Ref<string>
  failure: Ref<string>
  isOld: Ref<boolean>
  /** Where it is otherwise than before. */
  changed: Ref<readonly Changed[]>
  /** A folder of files, packed: all that the design gives an application, or those of one output. */
  pack: (which: { all: true } | { folder: string }) => Promise<Uint8Array<ArrayBuffer> | undefined>
} {
  const text = shallowRef('')
  const failure = shallowRef('')
  const changed = shallowRef<readonly Changed[]>([])
  /** Whether a newer one is being written. */
  const isOld = shallowRef(false)
  const worker = new Worker(new URL('../workers/output.worker.ts', import.meta.url), { type: 'module' })
  let asked = 0

  let packed: ((folder: Uint8Array<ArrayBuffer> | undefined) => void) | undefined
  worker.onmessage = ({ data }: MessageEvent<OutputAnswer>) => {
    if (data.number === PACKING) {
      packed?.('packed' in data ? data.packed : undefined)
      if ('failure' in data) failure.value = data.failure
      return
    }
    if (data.number !== asked) return
    isOld.value = false
    text.value = 'text' in data ? data.text : ''
    changed.value = 'changed' in data ? data.changed : []
    failure.value = 'failure' in data ? data.failure : ''
  }
  worker.onerror = () => {
    isOld.value = false
    failure.value = 'It could not be written.'
  }

  function write(): void {
    if (!design.value) return void (text.value = '')
    const question: OutputQuestion = {
      number: ++asked,
      output: output.value,
      design: toRaw(design.value),
      options: options.value,
      ...plain(versions.value)
    }
    isOld.value = true
    worker.postMessage(question)
  }

  function pack(which: { all: true } | { folder: string }): Promise<Uint8Array<ArrayBuffer> | undefined> {
    if (!design.value) return Promise.resolve(undefined)
    const question: OutputQuestion = {
      number: PACKING,
      output: which,
      design: toRaw(design.value),
      options: options.value,
      ...plain(versions.value)
    }
    worker.postMessage(question)
    return new Promise((resolve) => {
      packed = resolve
    })
  }

  // What was written as another output is not shown as this one.
  watch(output, () => (text.value = ''), { flush: 'sync' })
  watch([design, output, options, versions], write, { immediate: true })
  onBeforeUnmount(() => worker.terminate())
  return { text, failure, changed, isOld, pack }
}
