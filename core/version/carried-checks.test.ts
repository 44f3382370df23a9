import { describe, expect, it } from 'vitest'
import { helpers, places } from '../../tests/alike.ts'
import { made } from '../../tests/made.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import { DIALECTS } from '../dialect/index.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { offersFor } from '../restructure/index.ts'
import { planMigration } from './plan.ts'

const demo = fernhollow().versions[3]?.design as Design

function after(design: Design, ...operations: Operation[]): Design {
  const result = apply(design, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}

function changed(design: Design, id: string, kind: string): Design {
  const table = tableOf(design, id) as Table
  const offer = offersFor(design, { table }).find((each) => each.kind === kind)
  return after(design, made(offer?.operation() ?? expect.fail(`${kind} is not offered`)))
}

/** What is told of checks on the way. */
function told(from: Design, to: Design): { up: string[]; down: string[] } {
  const { up, down } = planMigration(from, to, DIALECTS.postgresql).warnings
  const ofChecks = (all: typeof up): string[] =>
    all.flatMap(({ message }) => (message.includes(' has the check ') ? [message.split(':')[0] ?? ''] : []))
  return { up: ofChecks(up), down: ofChecks(down) }
}

describe('checks that rows come under', () => {
  it('are not told of where they are said for all, or hold where the rows come from', () => {
    const start = after(demo, ...helpers, ...places)
    expect(told(start, changed(start, 't_driver', 'one table'))).toEqual({ up: [], down: [] })
    expect(told(start, changed(start, 't_place', 'apart'))).toEqual({ up: [], down: [] })
  })

  it('are told of where nothing holds the rows to them before', () => {
    const start = after(demo, ...helpers)
    const merged = changed(start, 't_driver', 'one table')
    const [table] = merged.tables.filter(({ id }) => tableOf(start, id) === undefined)
    const freed = after(
      merged,
      ...(table?.checks ?? []).map((check): Operation => ({
        kind: 'check.remove',
        table: table?.id ?? '',
        check: check.id
      }))
    )
    expect(told(start, freed)).toEqual({ up: [], down: ["driver has the check town <> 'none'"] })
  })
})
