import { appendFileSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { newTable } from '../../core/relate/propose.ts'
import { openStore } from '../../server/store/open.ts'

/**
 * Writes to several designs in a folder at once, until it is ended or has done so many operations: each
 * that is acknowledged is said on standard output, and in a file of the folder, after it was.
 */
const [folder = '', mostText = 'Infinity', label = 'x'] = process.argv.slice(2)
const most = Number(mostText)
const store = await openStore(folder)
const summaries = await store.list()
const ids =
  summaries.length > 0
    ? summaries.map(({ id }) => id)
    : await Promise.all(
        ['Ward book', 'Night book', 'Release book'].map(
          async (name) => (await store.create({ name })).design.id
        )
      )
let done = 0

function acknowledge(line: string): void {
  appendFileSync(join(folder, 'acknowledged'), line)
  writeSync(1, line)
}
acknowledge(`ready ${ids.join(' ')}\n`)

await Promise.all(
  ids.map(async (id) => {
    for (let n = 0; done < most; n++) {
      const draft = await store.draft(id)
      if (!draft) throw new Error(`${id} is gone`)
      const operationId = `${label}-${id}-${n}`
      const answer = await store.submit(id, {
        revision: draft.revision,
        mark: draft.mark,
        operationId,
        client: label,
        operation: { kind: 'table.add', table: newTable(`table_${label}_${n}`) }
      })
      if (answer?.kind !== 'taken') throw new Error(`not taken: ${JSON.stringify(answer)}`)
      done++
      acknowledge(`${id} ${answer.logged.revision} ${operationId}\n`)
    }
  })
)
await store.close()
