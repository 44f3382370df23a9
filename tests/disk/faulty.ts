import { closeSync, openSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { newTable } from '../../core/relate/propose.ts'
import { openStore } from '../../server/store/open.ts'
import type { Store } from '../../server/store/store.ts'
import { copyFolder } from './disk.ts'

/**
 * Makes the disk fail at one call after the other while a store is opened and written to, and says for
 * each what was acknowledged, what was said, and what is there when the disk is well again.
 */
const [
  base = '',
  work = '',
  control = '',
  kindText = '1',
  errorText = '28',
  timesText = '0',
  fromText = '0',
  toText = '10'
] = process.argv.slice(2)
const [kind, error, times] = [Number(kindText), Number(errorText), Number(timesText)]
let generation = 1

function fail(after: number | undefined): void {
  const numbers = Int32Array.of(after === undefined ? 0 : kind, after ?? 0, error, times, ++generation)
  const file = openSync(control, 'r+')
  writeSync(file, new Uint8Array(numbers.buffer), 0, numbers.byteLength, 0)
  closeSync(file)
}

interface Report {
  at: number
  acknowledged: string[]
  errors: string[]
  opened: boolean
  wentOn: boolean
  found: string[]
  damage: string[]
  notices: string[]
}

async function write(
  store: Store,
  id: string,
  label: string,
  count: number,
  report: Report
): Promise<number> {
  let taken = 0
  for (let n = 0; n < count; n++) {
    const name = `table_${label}_${n}`
    try {
      const draft = await store.draft(id)
      const answer =
        draft &&
        (await store.submit(id, {
          revision: draft.revision,
          mark: draft.mark,
          operationId: `operation-${label}-${n}`,
          client: 'faulty',
          operation: { kind: 'table.add', table: newTable(name) }
        }))
      if (answer?.kind !== 'taken') continue
      report.acknowledged.push(name)
      taken++
    } catch (problem) {
      report.errors.push(`${(problem as Error).name}: ${(problem as Error).message}`)
    }
  }
  return taken
}

for (let at = Number(fromText); at < Number(toText); at++) {
  const folder = copyFolder(base, join(work, `${kind}-${times}-${at}`))
  const report: Report = {
    at,
    acknowledged: [],
    errors: [],
    opened: false,
    wentOn: false,
    found: [],
    damage: [],
    notices: []
  }
  let store: Store | undefined
  fail(at)
  try {
    store = await openStore(folder)
    report.opened = true
    const [first] = await store.list()
    if (first) await write(store, first.id, 'while', 4, report)
  } catch (problem) {
    report.errors.push(`${(problem as Error).name}: ${(problem as Error).message}`)
  }
  fail(undefined)
  if (store) {
    const [first] = await store.list()
    report.wentOn = first !== undefined && (await write(store, first.id, 'after', 2, report)) === 2
    await store.close().catch((problem: unknown) => report.errors.push(`close: ${String(problem)}`))
  }
  const again = await openStore(folder)
  report.notices.push(...again.notices)
  for (const { id, damage } of await again.list()) {
    if (damage !== undefined) report.damage.push(damage)
    else report.found.push(...((await again.draft(id))?.design.tables.map(({ name }) => name) ?? []))
  }
  await again.close()
  writeSync(1, `${JSON.stringify(report)}\n`)
}
