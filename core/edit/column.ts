import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { defaultFits, defaultText, isMoment } from '../design/default.ts'
import { isInPrimaryKey, tableOf } from '../design/directory.ts'
import { expressionSchema } from '../design/ids.ts'
import {
  columnSchema,
  copiedSchema,
  nameSchema,
  renewedSchema,
  type Column,
  type Design,
  type Table
} from '../design/model.ts'
import { shorten, typeSchema, typeText } from '../design/type.ts'
import { defaultSchema, fits, valueSchema, type Value } from '../design/value.ts'
import { removeColumn } from './column-removal.ts'
import { retypeColumn } from './column-type.ts'
import { at, note, ofColumn, ofTable, to } from './fields.ts'
import {
  checkColumnName,
  checkNewIds,
  insertedAt,
  needColumn,
  needTable,
  withColumn,
  withTable,
  without,
  withoutAt
} from './handler.ts'
import { kind, noun, type Handler, type Operation, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'
import { setColumn } from './setting.ts'

/** Columns of a table. */

const KINDS = [
  /** `values`: what the rows that are there already hold in it, in their order. */
  kind(
    'column.add',
    {
      ...ofTable,
      column: columnSchema,
      at,
      values: z.array(valueSchema.optional()).max(BOUNDS.rows).optional()
    },
    ({ table, column }, called) => `add ${called.table(table)}.${shorten(column.name)}`
  ),
  kind(
    'column.rename',
    { ...ofColumn, name: nameSchema },
    ({ table, column, name }, called) => `rename ${called.column(table, column)} to ${shorten(name)}`
  ),
  kind(
    'column.annotate',
    { ...ofColumn, note },
    ({ table, column }, called) => `change the note of ${called.column(table, column)}`
  ),
  /** `follow: false` leaves the foreign key columns that follow this one as they are. */
  kind(
    'column.retype',
    { ...ofColumn, type: typeSchema, follow: z.boolean().optional() },
    ({ table, column, type }, called) =>
      `make ${called.column(table, column)} ${typeText(type, called.design.enums)}`
  ),
  kind(
    'column.require',
    { ...ofColumn, required: z.boolean() },
    ({ table, column, required }, called) =>
      `${required ? 'require' : 'let be empty'} ${called.column(table, column)}`
  ),
  kind(
    'column.setDefault',
    { ...ofColumn, default: defaultSchema.nullable() },
    ({ table: id, column: columnId, default: value }, called) => {
      const place = called.column(id, columnId)
      const column = tableOf(called.design, id)?.columns.find((each) => each.id === columnId)
      return value && column
        ? `set the default of ${place} to ${shorten(defaultText(value, column.type))}`
        : `remove the default of ${place}`
    }
  ),
  kind(
    'column.compute',
    { ...ofColumn, expression: expressionSchema.nullable() },
    ({ table, column, expression }, called) =>
      `${expression === null ? 'no longer compute' : 'compute'} ${called.column(table, column)}`
  ),
  kind(
    'column.copy',
    { ...ofColumn, copied: copiedSchema.nullable() },
    ({ table, column, copied }, called) =>
      `${copied ? 'copy' : 'no longer copy'} ${called.column(table, column)}`
  ),
  kind(
    'column.renew',
    { ...ofColumn, renewed: renewedSchema.nullable() },
    ({ table, column, renewed }, called) =>
      renewed
        ? `renew ${called.column(table, column)} with each change`
        : `no longer renew ${called.column(table, column)}`
  ),
  kind(
    'column.move',
    { ...ofColumn, to },
    ({ table, column }, called) => `move ${called.column(table, column)}`
  ),
  kind('column.remove', ofColumn, ({ table, column }, called) => `remove ${called.column(table, column)}`)
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const addColumn: Handler<'column.add'> = (design, { table: id, column, at, values }) => {
  const table = needTable(design, id)
  checkColumnName(table, column.name)
  checkNewIds(design, [column.id])
  checkDefault(design, table, column)
  const next = withTable(design, id, (t) => ({
    ...t,
    columns: insertedAt(t.columns, column, at),
    rows: t.rows.map((row, index) =>
      withValue(design, row, column, values ? values[index] : firstValue(column))
    )
  }))
  return { design: next, inverse: { kind: 'column.remove', table: id, column: column.id }, touched: [id] }
}

/** What a new column holds in the rows that are there already: its default, as in an engine. */
function firstValue(column: Column): Value | undefined {
  return column.default?.kind === 'value' ? column.default.value : undefined
}

function withValue(
  design: Design,
  row: Table['rows'][number],
  column: Column,
  value: Value | undefined
): Table['rows'][number] {
  const says = value !== undefined && value !== null && fits(value, column.type, design.enums)
  return says ? { ...row, [column.id]: value } : row
}

const renameColumn: Handler<'column.rename'> = (design, { table: id, column: columnId, name }) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  checkColumnName(table, name, columnId)
  return {
    design: withTable(design, id, (t) => withColumn(t, columnId, (c) => ({ ...c, name }))),
    inverse: { kind: 'column.rename', table: id, column: columnId, name: column.name },
    touched: [id]
  }
}

const requireColumn: Handler<'column.require'> = (design, { table: id, column: columnId, required }) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  const where = { table: id, column: columnId }
  if (!required && isInPrimaryKey(table, columnId)) {
    throw new Refused(
      'key-column',
      `${column.name} is in the primary key, and a key column is always required.`,
      where
    )
  }
  const emptied =
    required &&
    table.foreignKeys.find(
      (each) => each.onDelete === 'SET NULL' && each.pairs.some((pair) => pair.column === columnId)
    )
  if (emptied) {
    const parent = needTable(design, emptied.table)
    throw new Refused(
      'in-use',
      `${column.name} is emptied when its ${parent.name} is deleted, so it cannot be required.`,
      where,
      [
        {
          label: `Refuse to delete a ${parent.name} that is referred to, and require ${column.name}`,
          operation: {
            kind: 'batch',
            label: `require ${column.name}`,
            operations: [
              {
                kind: 'foreignKey.setActions',
                table: id,
                foreignKey: emptied.id,
                onDelete: 'RESTRICT',
                onUpdate: emptied.onUpdate
              },
              { kind: 'column.require', ...where, required: true }
            ]
          }
        }
      ]
    )
  }
  const back: Operation = { kind: 'column.require', ...where, required: column.required }
  // As in an engine, the default goes where nothing is.
  const value = required ? firstValue(column) : undefined
  const isOpen = value !== undefined && table.rows.some((row) => (row[columnId] ?? null) === null)
  const rows = isOpen ? table.rows.map((row) => ({ ...row, [columnId]: row[columnId] ?? value })) : table.rows
  return {
    design: withTable(design, id, (t) => ({ ...withColumn(t, columnId, (c) => ({ ...c, required })), rows })),
    inverse: isOpen
      ? { kind: 'batch', operations: [back, { kind: 'table.setRows', table: id, rows: table.rows }] }
      : back,
    touched: [id]
  }
}

const setDefault = setColumn({
  kind: 'column.setDefault',
  field: 'default',
  property: 'default',
  check({ design, table, column, where }, { default: value }) {
    if (value && column.computed !== undefined)
      throw new Refused('invalid', `${column.name} is computed, so it has no default.`, where)
    checkDefault(design, table, { ...column, default: value ?? undefined })
    return undefined
  }
})

function checkDefault(design: Design, table: Table, column: Column): void {
  const where = { table: table.id, column: column.id }
  if (!defaultFits(column.default, column.type, design.enums)) {
    throw new Refused(
      'does-not-fit',
      `The default ${shorten(defaultText(column.default, column.type))} does not fit ${column.name}, which is ${typeText(column.type, design.enums)}.`,
      where
    )
  }
  const other =
    column.default?.kind === 'generated' &&
    table.columns.find((each) => each.id !== column.id && each.default?.kind === 'generated')
  if (other)
    throw new Refused(
      'invalid',
      `${other.name} is generated already; a table has one generated number.`,
      where
    )
}

const computeColumn = setColumn({
  kind: 'column.compute',
  field: 'expression',
  property: 'computed',
  check({ table, column, where }, { expression }) {
    if (expression === null) return undefined
    if (isInPrimaryKey(table, column.id))
      throw new Refused(
        'key-column',
        `${column.name} is in the primary key, and a key is given, not computed.`,
        where
      )
    if (table.foreignKeys.some((each) => each.pairs.some((pair) => pair.column === column.id)))
      throw new Refused('in-use', `${column.name} refers to another table, so it cannot be computed.`, where)
    const clear: Operation[] = []
    if (column.default) clear.push({ kind: 'column.setDefault', ...where, default: null })
    if (column.copied) clear.push({ kind: 'column.copy', ...where, copied: null })
    if (column.renewed) clear.push({ kind: 'column.renew', ...where, renewed: null })
    if (table.rows.some((row) => (row[column.id] ?? null) !== null))
      clear.push({
        kind: 'table.setRows',
        table: table.id,
        rows: table.rows.map((row) => without(row, column.id))
      })
    return clear
  }
})

const copyColumn = setColumn({
  kind: 'column.copy',
  field: 'copied',
  property: 'copied',
  check({ design, table, column, where }, { copied }) {
    if (!copied) return undefined
    const foreignKey = table.foreignKeys.find((each) => each.id === copied.foreignKey)
    const source = foreignKey && tableOf(design, foreignKey.table)
    if (!source)
      throw new Refused(
        'missing',
        `${table.name} no longer has the relationship that ${column.name} would be copied by.`,
        where
      )
    needColumn(source, copied.column)
    if (column.computed !== undefined)
      throw new Refused('invalid', `${column.name} is computed, so it is not copied.`, where)
    return column.renewed ? [{ kind: 'column.renew', ...where, renewed: null }] : undefined
  }
})

const renewColumn = setColumn({
  kind: 'column.renew',
  field: 'renewed',
  property: 'renewed',
  check({ design, column, where }, { renewed }) {
    if (!renewed) return undefined
    if (!isMoment(column.type))
      throw new Refused(
        'does-not-fit',
        `${column.name} is ${typeText(column.type, design.enums)}: only a date, a time or a timestamp becomes the present moment with each change.`,
        where
      )
    if (column.computed !== undefined)
      throw new Refused('invalid', `${column.name} is computed, so it is not renewed.`, where)
    return column.copied ? [{ kind: 'column.copy', ...where, copied: null }] : undefined
  }
})

const moveColumn: Handler<'column.move'> = (design, { table: id, column: columnId, to }) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  const from = table.columns.findIndex((each) => each.id === columnId)
  const target = Math.min(to, table.columns.length - 1)
  const columns = insertedAt(withoutAt(table.columns, from), column, target)
  return {
    design: withTable(design, id, (t) => ({ ...t, columns })),
    inverse: { kind: 'column.move', table: id, column: columnId, to: from },
    touched: [id]
  }
}

export const COLUMN = noun(KINDS, {
  'column.add': addColumn,
  'column.rename': renameColumn,
  'column.annotate': setColumn({ kind: 'column.annotate', field: 'note', property: 'note', none: '' }),
  'column.retype': retypeColumn,
  'column.require': requireColumn,
  'column.setDefault': setDefault,
  'column.compute': computeColumn,
  'column.copy': copyColumn,
  'column.renew': renewColumn,
  'column.move': moveColumn,
  'column.remove': removeColumn
})
