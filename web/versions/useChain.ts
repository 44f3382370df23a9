import { onBeforeUnmount, ref } from 'vue'
import type { Version } from '../../core/design/model.ts'
import type { DialectName } from '../../core/dialect/dialect.ts'
import { api } from '../api/client.ts'
import { download } from '../parts/files.ts'
import type { ChainAnswer, ChainQuestion } from '../workers/chain.worker.ts'

/** All versions of a design as one packed folder of scripts, made off the main thread. */
export function useChain() {
  /** How many of how many versions are worked out, while they are. */
  const progress = ref<{ done: number; of: number }>()
  const failure = ref('')
  let worker: Worker | undefined

  function cancel(): void {
    worker?.terminate()
    worker = undefined
    progress.value = undefined
  }

  async function take(id: string, numbers: number[], dialect: DialectName, name: string): Promise<void> {
    cancel()
    failure.value = ''
    progress.value = { done: 0, of: numbers.length }
    const own = (worker = new Worker(new URL('../workers/chain.worker.ts', import.meta.url), {
      type: 'module'
    }))
    try {
      const versions: Version[] = []
      for (const number of numbers) versions.push(await api.version(id, number))
      if (worker !== own) return
      const packed = await answered(own, { versions, dialect }, (done) => {
        if (worker === own) progress.value = { done, of: numbers.length }
      })
      download(`${name} ${dialect}.zip`, packed, 'application/zip')
    } catch (error) {
      if (worker === own) failure.value = error instanceof Error ? error.message : String(error)
    }
    if (worker === own) cancel()
  }

  onBeforeUnmount(cancel)
  return { progress, failure, take, cancel }
}

function answered(
  worker: Worker,
  question: ChainQuestion,
  tell: (done: number) => void
): Promise<Uint8Array<ArrayBuffer>> {
  return new Promise((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<ChainAnswer>) =>
      'done' in data ? tell(data.done) : resolve(data.packed)
    worker.onerror = () => reject(new Error('The versions could not be written as scripts.'))
    worker.postMessage(question)
  })
}
