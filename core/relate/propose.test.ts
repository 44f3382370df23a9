import { describe, expect, it } from 'vitest'
import { fullName } from '../design/directory.ts'
import { emptyDesign, type Design, type Table } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { newTable, renameTable, tableCalled } from './propose.ts'

describe('a table as a person calls it', () => {
  const design = { ...emptyDesign('Ward book', 'd_w'), schemas: [{ id: 's_staff', name: 'staff' }] }
  const made = (of: Design, typed: string): [string, string] => {
    const result = apply(of, tableCalled(of, typed).operation)
    if (!result.ok) return ['refused', result.refusal.message]
    const table = result.design.tables.at(-1) as Table
    return [fullName(result.design, table), table.name]
  }

  it.each([
    ['person', 'person', 'person'],
    ['staff.person', 'staff.person', 'person'],
    ['Staff. person', 'staff.person', 'person'],
    ['birds.nest', 'birds.nest', 'nest'],
    ['v1.2 of it', 'v1.2 of it', 'v1.2 of it'],
    ['.x', '.x', '.x']
  ])('%s is %s', (typed, full, name) => {
    expect(made(design, typed)).toEqual([full, name])
  })

  it('says which schema it makes with it, in one step', () => {
    const { operation, newSchema } = tableCalled(design, 'birds.nest')
    expect([newSchema, operation.kind]).toEqual(['birds', 'batch'])
    expect(tableCalled(design, 'staff.person').newSchema).toBeUndefined()
    expect(made(design, 'staff.')).toEqual(['staff.', 'staff.'])
  })

  it('is called otherwise, and goes to the schema that is named', () => {
    const table = newTable('person')
    const tables = { ...design, tables: [table] }
    const after = (typed: string): string => {
      const operation = renameTable(tables, table, typed)
      const result = operation && apply(tables, operation)
      return result?.ok ? fullName(result.design, result.design.tables[0] as Table) : 'nothing'
    }
    const taken = { ...tables, tables: [table, { ...newTable('person'), schema: 's_staff' }] }
    const moved = apply(taken, renameTable(taken, table, 'staff.keeper') as Operation)
    expect(moved.ok && moved.design.tables.map((each) => fullName(moved.design, each))).toEqual([
      'staff.keeper',
      'staff.person'
    ])
    expect(['person', 'keeper', 'staff.person', 'staff.keeper', 'birds.keeper'].map(after)).toEqual([
      'nothing',
      'keeper',
      'staff.person',
      'staff.keeper',
      'birds.keeper'
    ])
  })
})
