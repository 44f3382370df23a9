import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import { DIALECTS } from '../dialect/index.ts'
import { apply } from '../edit/apply.ts'
import { offersFor } from '../restructure/index.ts'
import { planMigration } from './plan.ts'

const start = fernhollow().versions[2]?.design as Design

/** What is said of rows that are made of several, one way and back, where a change of mind is taken. */
function saidOf(id: string, kind: string, refersTo?: string): { up: string[]; down: string[] } {
  const table = tableOf(start, id) as Table
  const foreignKey = table.foreignKeys.find((each) => each.table === refersTo)
  const offer = offersFor(start, { table, foreignKey }).find((each) => each.kind === kind)
  const operation = offer?.operation()
  if (!operation?.ok) return expect.fail(`${kind} is not offered for ${id}.`)
  const result = apply(start, operation.value)
  const { warnings } = planMigration(
    start,
    result.ok ? result.design : expect.fail(result.refusal.message),
    DIALECTS.sqlite
  )
  const said = (way: 'up' | 'down'): string[] =>
    warnings[way].map(({ message }) => message).filter((message) => message.includes('is made of rows of'))
  return { up: said('up'), down: said('down') }
}

describe('rows that are made of several', () => {
  it('are said where they may contradict one another: and which of them it has', () => {
    expect(saidOf('t_admission', 'merged into each', 't_reason')).toEqual({
      up: [],
      down: [
        'A row of reason is made of rows of admission. Where these differ in description, it has that of the first by admission_id.'
      ]
    })
  })

  it('are not spoken of where each is made of one', () => {
    expect(saidOf('t_finder', 'split off')).toEqual({ up: [], down: [] })
  })
})
