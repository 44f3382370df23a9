import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { findingsIn } from '../check/index.ts'
import { readDesignFile } from '../design/file.ts'
import { DIALECTS } from '../dialect/index.ts'
import { writeSql } from '../definitions/create-script.ts'
import { unfitRows } from './unfit.ts'

const read = readDesignFile(
  readFileSync(join(import.meta.dirname, '../../tests/fixtures/faults/text-keys.json'), 'utf8')
)
const { design } = read.ok ? read.value : expect.fail(read.message)

describe('rows that an engine refuses though they break no rule', () => {
  const toldOf = (dialect: keyof typeof DIALECTS): string[] =>
    design.tables.flatMap((table) => unfitRows(table, DIALECTS[dialect]).map(({ message }) => message))

  it('are told where an empty text is no value, and where blanks at the end make no difference', () => {
    expect(toldOf('oracle').join()).toMatch(/empty text is no value: it refuses a row of w with nothing in k/)
    expect(toldOf('sqlserver').join()).toMatch(/blanks at the end .* by k it refuses .* of w/)
    for (const other of ['postgresql', 'mariadb', 'mysql', 'sqlite'] as const)
      expect(toldOf(other)).toEqual([])
  })

  it('are found beside the table, and told at the head of a script with rows', () => {
    const named = { ...design, dialects: ['oracle' as const] }
    const found = [...findingsIn(named).values()].flat().filter(({ rule }) => rule.startsWith('rows that'))
    expect(found.map(({ severity }) => severity)).toContain('wrong')
    const head = (rows: boolean): string => writeSql(design, DIALECTS.oracle, { rows })
    expect(head(true)).toContain('-- To Oracle an empty text is no value: it refuses')
    expect(head(false)).not.toContain('it refuses')
  })
})
