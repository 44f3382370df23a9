import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { parseDesignFile, writeDesignFile } from '../design/file.ts'
import type { Design, Table } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { readStanding, standingLine, type StandingLine } from '../typing/standing.ts'
import { compareDesigns } from '../version/compare.ts'
import { isJunction } from './junction.ts'
import { proposeJunction, tableCalled } from './propose.ts'
import { giveStanding, lackingStanding } from './standing.ts'

const { design: demo } = fernhollow()
function done(design: Design, ...operations: Operation[]): Design {
  const result = apply(design, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}
const MADE: StandingLine = { name: 'made_at', type: 'timestamp zone', required: true, default: 'now' }
const BY: StandingLine = { name: 'noted_by', type: 'text(80)', required: false, default: '' }
function read(...lines: StandingLine[]) {
  const found = readStanding(lines)
  return found.ok ? found.value : expect.fail(found.message)
}
const standing = { tables: read(MADE, BY), junctions: read(BY), key: 'big' as const }
const set: Operation = { kind: 'design.setStanding', standing }
const names = ({ columns }: Pick<Table, 'columns'>): string[] => columns.map(({ name }) => name)

describe('what every table begins with', () => {
  it('stands in new tables beside the key, and in new junctions beside the sides', () => {
    const design = done(demo, set)
    const { table } = tableCalled(design, 'incubator')
    expect(names(table)).toEqual(['incubator_id', 'made_at', 'noted_by'])
    expect(table.columns[0]?.type).toEqual({ kind: 'integer', size: 'big' })
    const [one, other] = ['t_ward', 't_volunteer'].map((id) => tableOf(design, id) ?? expect.fail(id))
    const junction = proposeJunction(design, one as Table, other as Table)
    const made = done(design, { kind: 'relationship.addJunction', junction })
    expect(names(made.tables.at(-1) ?? expect.fail())).toEqual(['ward_code', 'volunteer_id', 'noted_by'])
  })

  it('is given to tables that lack it, with their rows, as one step, and another system is left alone', () => {
    const lacking = lackingStanding({ ...demo, standing })
    const own = demo.tables.filter(({ external }) => !external)
    expect(lacking.map(({ table }) => table.id)).toEqual(own.map(({ id }) => id))
    const design = done(demo, set, giveStanding(lacking))
    expect(lackingStanding(design)).toEqual([])
    for (const table of own) {
      const added = names(tableOf(design, table.id) ?? expect.fail()).slice(table.columns.length)
      expect(added).toEqual(isJunction(table) ? ['noted_by'] : ['made_at', 'noted_by'])
    }
  })

  it('is no change of the schema by itself, and outlives a file and undo', () => {
    const result = apply(demo, set)
    if (!result.ok) expect.fail(result.refusal.message)
    expect(compareDesigns(demo, result.design)).toEqual([])
    const file = parseDesignFile(JSON.parse(writeDesignFile(result.design)) as unknown)
    expect(file.ok && file.value.design.standing).toEqual(standing)
    expect(writeDesignFile(done(result.design, result.inverse))).toBe(writeDesignFile(demo))
  })

  it('is read as it is shown, and what cannot be a column is told of', () => {
    expect(standing.tables.map(standingLine)).toEqual([MADE, BY])
    const told = (...lines: StandingLine[]): string => {
      const found = readStanding(lines)
      return found.ok ? '' : found.message
    }
    expect(told(MADE, { ...BY, name: 'Made_At' })).toBe('Two of them are called Made_At.')
    expect(told({ ...BY, type: 'integer', default: 'generated' })).toContain('cannot be generated')
    expect(told({ ...BY, type: 'date', default: 'soon' })).toMatch(/^noted_by: /)
    expect(told({ ...BY, name: '', type: 'date' })).toContain('no name yet')
    const bad = { ...standing, tables: [...standing.tables, ...standing.tables] }
    expect(apply(demo, { kind: 'design.setStanding', standing: bad }).ok).toBe(false)
  })
})
