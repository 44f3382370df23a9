import { describe, expect, it } from 'vitest'
import { columnsIn } from '../design/directory.ts'
import { emptyDesign, type Column, type Design, type Table } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { newTable } from '../relate/propose.ts'
import { addLine, EMPTY_LINE } from './edits.ts'
import {
  bestKey,
  indexOfThem,
  keyOfThem,
  moveThem,
  removeThem,
  requireThem,
  uniqueOfThem,
  type SheetStep
} from './commands.ts'
import { duplicateColumns, duplicateTable } from './duplicate.ts'

const NAMES = ['ward_id', 'ward_code', 'name', 'opens_at', 'beds']

/** A ward with five columns, the first its generated key. */
const start: Design = NAMES.slice(1).reduce(
  (design, name, at) => {
    const taken = addLine(design, design.tables[0] as Table, { ...EMPTY_LINE, name, type: 'text(9)' }, at + 1)
    const result = taken.ok && taken.operation ? apply(design, taken.operation) : expect.fail(name)
    return result.ok ? result.design : expect.fail(result.refusal.message)
  },
  { ...emptyDesign('Fernhollow'), tables: [newTable('ward')] }
)

const table = (design = start): Table => design.tables[0] as Table
const some = (...names: string[]): Column[] => table().columns.filter((column) => names.includes(column.name))
const names = (design: Design): string[] => table(design).columns.map((column) => column.name)

/** The design after a step, or the very same where there is nothing to do. */
function after(step: SheetStep | undefined, design = start): Design {
  if (!step) return design
  const result = apply(design, step.operation)
  return result.ok ? result.design : expect.fail(result.refusal.message)
}

describe('a command on the chosen lines of a sheet', () => {
  it('makes them the key, in the order of the lines, and the same again takes the key away', () => {
    const chosen = some('ward_code', 'beds')
    const keyed = after(keyOfThem(start, table(), chosen))
    expect(
      columnsIn(table(keyed), table(keyed).primaryKey?.columns ?? []).map((column) => column.name)
    ).toEqual(['ward_code', 'beds'])
    expect(
      table(after(keyOfThem(keyed, table(keyed), [...chosen].reverse()), keyed)).primaryKey
    ).toBeUndefined()
  })

  it('lets what refers to the table follow to the new key, where it would otherwise be refused', () => {
    const demo = fernhollow().design
    const skill = demo.tables.find((each) => each.name === 'skill') as Table
    const step =
      keyOfThem(
        demo,
        skill,
        skill.columns.filter((column) => column.name === 'name')
      ) ?? expect.fail()
    expect(apply(demo, step.operation).ok).toBe(false)
    expect(step.instead?.map((offer) => offer.label)).toEqual([
      'Make name the key, and let what refers follow'
    ])
    const done = apply(demo, step.instead?.[0]?.operation ?? expect.fail())
    expect(
      done.ok &&
        done.design.tables.find((each) => each.name === 'shift')?.columns.map((column) => column.name)
    ).toContain('skill_name')
    // One that was neither unique nor required is made both first.
    const condition = demo.tables.find((each) => each.name === 'medicine') as Table
    const unit = keyOfThem(
      demo,
      condition,
      condition.columns.filter((column) => column.name === 'name')
    )?.instead?.[0]
    expect(unit && apply(demo, unit.operation).ok).toBe(true)
  })

  it('finds a key for a table without one, and says which', () => {
    const bare = after(keyOfThem(start, table(), some('ward_id')))
    const step = bestKey(table(bare), bare.policy)
    expect(table(after(step, bare)).primaryKey?.columns).toEqual([table().columns[0]?.id])
    expect(step.label).toMatch(/^[a-z]/)
  })

  it('makes them unique, and the same again lets them repeat', () => {
    const chosen = some('name', 'opens_at')
    const unique = after(uniqueOfThem(table(), chosen))
    expect(table(unique).uniques.map((key) => key.columns)).toEqual([chosen.map((column) => column.id)])
    expect(table(after(uniqueOfThem(table(unique), chosen), unique)).uniques).toEqual([])
  })

  it('indexes them, requires all or none of them, and removes them as one step', () => {
    const chosen = some('name', 'beds')
    expect(table(after(indexOfThem(table(), chosen))).indexes).toMatchObject([
      { columns: chosen.map((column) => ({ column: column.id, descending: false })), unique: false }
    ])
    const required = after(requireThem(table(), chosen))
    expect(
      table(required)
        .columns.filter((column) => column.required)
        .map((column) => column.name)
    ).toEqual(['ward_id', 'name', 'beds'])
    // The first of them decides: it is required, so that none is after.
    const mixed = table(required).columns.filter((column) => ['name', 'opens_at'].includes(column.name))
    expect(
      table(after(requireThem(table(required), mixed), required))
        .columns.filter((column) => column.required)
        .map((column) => column.name)
    ).toEqual(['ward_id', 'beds'])
    const gone = removeThem(table(), chosen)
    expect(names(after(gone))).toEqual(['ward_id', 'ward_code', 'opens_at'])
    expect(gone?.operation).toMatchObject({ kind: 'batch', label: 'remove 2 columns of ward' })
    expect(removeThem(table(), some('name'))?.operation.kind).toBe('column.remove')
  })

  it.each<[string[], -1 | 1, string[] | undefined]>([
    [['ward_code', 'name'], 1, ['ward_id', 'opens_at', 'ward_code', 'name', 'beds']],
    [['ward_code', 'name'], -1, ['ward_code', 'name', 'ward_id', 'opens_at', 'beds']],
    [['ward_id', 'name'], 1, ['ward_code', 'ward_id', 'opens_at', 'name', 'beds']],
    [['ward_id', 'name'], -1, undefined],
    [['name', 'beds'], 1, undefined],
    [['beds'], -1, ['ward_id', 'ward_code', 'name', 'beds', 'opens_at']],
    [[], 1, undefined]
  ])('moves %j by %i', (chosen, by, expected) => {
    const step = moveThem(table(), some(...chosen), by)
    expect(step && names(after(step))).toEqual(expected)
  })

  it('does nothing where nothing is chosen', () => {
    expect(keyOfThem(start, table(), [])).toBeUndefined()
    for (const command of [uniqueOfThem, indexOfThem, removeThem, requireThem])
      expect(command(table(), [])).toBeUndefined()
    expect(duplicateColumns(table(), [], 1)).toBeUndefined()
  })

  it('duplicates columns under free names, without what the engine counts', () => {
    const design = after(duplicateColumns(table(), some('ward_id', 'name'), 3))
    expect(names(design)).toEqual(['ward_id', 'ward_code', 'name', 'ward_id_2', 'name_2', 'opens_at', 'beds'])
    expect(table(design).columns[3]?.default).toBeUndefined()
    expect(new Set(table(design).columns.map((column) => column.id)).size).toBe(7)
  })

  it('duplicates a table with its keys and rules, and shares no id with it', () => {
    const full = after(
      uniqueOfThem(table(after(indexOfThem(table(), some('beds')))), some('name')),
      after(indexOfThem(table(), some('beds')))
    )
    const design = after({ operation: duplicateTable(full, table(full)) }, full)
    const [one, other] = design.tables as [Table, Table]
    expect(other.name).toBe('ward_2')
    const shape = (of: Table): unknown => [
      of.columns.map((column) => column.name),
      of.primaryKey?.columns.map((id) => of.columns.findIndex((column) => column.id === id)),
      of.uniques.map((key) => columnsIn(of, key.columns).map((column) => column.name)),
      of.indexes.map((index) => index.columns.map((each) => columnsIn(of, [each.column])[0]?.name))
    ]
    expect(shape(other)).toEqual(shape(one))
    const ids = (of: Table): string[] => JSON.stringify(of).match(/"[a-z]{1,4}_[a-z0-9]{10}"/g) ?? []
    expect(ids(one).filter((id) => ids(other).includes(id))).toEqual([])
  })
})
