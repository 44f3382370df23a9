import { onBeforeUnmount, ref, shallowRef } from 'vue'
import type { Design, Row, Table } from '../../core/design/model.ts'
import type { Wanted } from '../../core/rows/generate.ts'
import type { GenerateAnswer, GenerateQuestion } from '../workers/generate.worker.ts'

/** Rows that are made off the page: how far that has come, and what came of it. */
export function useGenerated() {
  const progress = ref<{ made: number; of: number }>()
  const made = shallowRef<{ rows: readonly Row[]; why: string }>()
  const failure = ref('')
  let worker: Worker | undefined

  function cancel(): void {
    worker?.terminate()
    worker = undefined
    progress.value = undefined
  }

  function make(design: Design, table: Table, wanted: Wanted): void {
    cancel()
    failure.value = ''
    made.value = undefined
    progress.value = { made: 0, of: wanted.rows.get(table.id) ?? 0 }
    worker = new Worker(new URL('../workers/generate.worker.ts', import.meta.url), { type: 'module' })
    worker.onmessage = ({ data }: MessageEvent<GenerateAnswer>) => {
      if ('rows' in data) {
        made.value = data
        cancel()
      } else progress.value = data
    }
    worker.onerror = () => {
      failure.value = 'The rows could not be made.'
      cancel()
    }
    const question: GenerateQuestion = { design: withNeeded(design, table), table: table.id, wanted }
    worker.postMessage(question)
  }

  onBeforeUnmount(cancel)
  return { progress, made, failure, make, cancel }
}

/** The design with no rows but the table's own and those that it may refer to, so that little is handed over. */
function withNeeded(design: Design, table: Table): Design {
  const needed = new Set([table.id, ...table.foreignKeys.map((key) => key.table)])
  return {
    ...design,
    tables: design.tables.map((each) => (needed.has(each.id) ? each : { ...each, rows: [] }))
  }
}
