import { defaultFits } from '../design/default.ts'
import { idSchema } from '../design/ids.ts'
import { enumSchema, type Design, type Table } from '../design/model.ts'
import { shorten, type Type } from '../design/type.ts'
import { fits } from '../design/value.ts'
import { listed } from '../design/words.ts'
import { at } from './fields.ts'
import { checkNewIds, checkSharedName, insertedAt, withoutAt } from './handler.ts'
import { kind, noun, type Handler, type Operation, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'
import { flawOfExpressions } from '../design/integrity-columns.ts'

/** Lists of values, which are types of columns. */

const KINDS = [
  kind(
    'enum.add',
    { enum: enumSchema, at },
    (fields) => `make the list of values ${shorten(fields.enum.name)}`
  ),
  kind(
    'enum.change',
    { enum: enumSchema },
    (fields) => `change the list of values ${shorten(fields.enum.name)}`
  ),
  kind('enum.remove', { enum: idSchema }, () => 'remove a list of values')
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const addEnum: Handler<'enum.add'> = (design, { enum: list, at }) => {
  checkSharedName(design.enums, list.name, 'list of values')
  checkNewIds(design, [list.id])
  checkValues(list.values)
  return {
    design: { ...design, enums: insertedAt(design.enums, list, at) },
    inverse: { kind: 'enum.remove', enum: list.id },
    touched: []
  }
}

function checkValues(values: readonly string[]): void {
  const twice = values.find((value, at) => values.indexOf(value) < at)
  if (twice !== undefined) throw new Refused('invalid', `${shorten(twice)} is in the list twice.`)
}

function needEnum(design: Design, id: string): Design['enums'][number] {
  const list = design.enums.find((each) => each.id === id)
  if (!list) throw new Refused('missing', 'That list of values is no longer in the design.')
  return list
}

const usesEnum = (type: Type, id: string): boolean => type.kind === 'enum' && type.enum === id
const tablesWith = (design: Design, id: string): Table[] =>
  design.tables.filter((table) => table.columns.some((column) => usesEnum(column.type, id)))

const changeEnum: Handler<'enum.change'> = (design, { enum: list }) => {
  const before = needEnum(design, list.id)
  checkSharedName(design.enums, list.name, 'list of values', list.id)
  checkValues(list.values)
  const next: Design = { ...design, enums: design.enums.map((each) => (each.id === list.id ? list : each)) }
  for (const table of tablesWith(design, list.id)) {
    for (const column of table.columns.filter((each) => usesEnum(each.type, list.id))) {
      const where = { table: table.id, column: column.id }
      const row = table.rows.findIndex((each) => !fits(each[column.id] ?? null, column.type, next.enums))
      if (row >= 0)
        throw new Refused(
          'does-not-fit',
          `Row ${row + 1} of ${table.name} holds ${shorten(JSON.stringify(table.rows[row]?.[column.id]))} in ${column.name}, so it must stay in the list.`,
          where
        )
      if (!defaultFits(column.default, column.type, next.enums))
        throw new Refused(
          'does-not-fit',
          `${table.name}.${column.name} has a default that is no longer in the list.`,
          where
        )
    }
    const flaw = flawOfExpressions(next, table)
    if (flaw)
      throw new Refused(
        'does-not-fit',
        `${table.name} has a condition that needs a value which is no longer in the list: ${flaw}`,
        { table: table.id }
      )
  }
  return {
    design: next,
    inverse: { kind: 'enum.change', enum: before },
    touched: tablesWith(design, list.id).map((table) => table.id)
  }
}

const removeEnum: Handler<'enum.remove'> = (design, { enum: id }) => {
  const list = needEnum(design, id)
  const users = tablesWith(design, id)
  if (users.length > 0) {
    const length = Math.max(...list.values.map((value) => [...value].length))
    const retypes = users.flatMap((table) =>
      table.columns
        .filter((column) => usesEnum(column.type, id))
        .map((column): Operation => ({
          kind: 'column.retype',
          table: table.id,
          column: column.id,
          type: { kind: 'text', length }
        }))
    )
    throw new Refused(
      'in-use',
      `${listed(users.slice(0, 4).map((table) => table.name))} ${users.length === 1 ? 'has' : 'have'} a column of ${list.name}.`,
      {},
      [
        {
          label: `Make ${retypes.length === 1 ? 'that column' : `those ${retypes.length} columns`} text(${length}) and remove the list`,
          operation: {
            kind: 'batch',
            label: `remove the list of values ${list.name}`,
            operations: [...retypes, { kind: 'enum.remove', enum: id }]
          }
        }
      ]
    )
  }
  const at = design.enums.indexOf(list)
  return {
    design: { ...design, enums: withoutAt(design.enums, at) },
    inverse: { kind: 'enum.add', enum: list, at },
    touched: []
  }
}

export const LIST = noun(KINDS, { 'enum.add': addEnum, 'enum.change': changeEnum, 'enum.remove': removeEnum })
