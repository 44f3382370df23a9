import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { referencesTo } from '../design/directory.ts'
import { idSchema } from '../design/ids.ts'
import {
  nameSchema,
  positionSchema,
  ROW_SECURITY,
  rowSchema,
  tableSchema,
  tidyRow,
  type Design
} from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { listed } from '../design/words.ts'
import { at, note, ofTable, to } from './fields.ts'
import {
  checkNewIds,
  checkTableName,
  idsOf,
  insertedAt,
  needColumn,
  needTable,
  withTable,
  withoutAt
} from './handler.ts'
import { kind, noun, type Handler, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'
import { needSchema } from './schema.ts'
import { setTable } from './setting.ts'

/** Tables of a design. */

const KINDS = [
  kind(
    'table.add',
    { table: tableSchema, at, position: positionSchema.optional() },
    ({ table }) => `make ${shorten(table.name)}`
  ),
  kind(
    'table.rename',
    { ...ofTable, name: nameSchema },
    ({ table, name }, called) => `rename ${called.table(table)} to ${shorten(name)}`
  ),
  kind(
    'table.annotate',
    { ...ofTable, note },
    ({ table }, called) => `change the note of ${called.table(table)}`
  ),
  /** The columns that a row is called by; null leaves that to what the table has. */
  kind(
    'table.setLabel',
    { ...ofTable, label: z.array(idSchema).min(1).max(8).nullable() },
    ({ table }, called) => `say what a row of ${called.table(table)} is called by`
  ),
  /** Into a schema, or with null into the database's own. */
  kind(
    'table.setSchema',
    { ...ofTable, schema: idSchema.nullable() },
    ({ table }, called) => `move ${called.table(table)} to another schema`
  ),
  /** Null: on where there is a row policy. */
  kind(
    'table.setRowSecurity',
    { ...ofTable, security: z.enum(ROW_SECURITY).nullable() },
    ({ table }, called) => `say whether rows of ${called.table(table)} are held to row policies`
  ),
  kind(
    'table.setExternal',
    { ...ofTable, external: z.boolean() },
    ({ table, external }, called) =>
      `make ${called.table(table)} ${external ? 'external' : "the design's own"}`
  ),
  kind('table.move', { ...ofTable, to }, ({ table }, called) => `move ${called.table(table)} in the ledger`),
  kind('table.remove', ofTable, ({ table }, called) => `remove ${called.table(table)}`),
  kind(
    'table.setRows',
    { ...ofTable, rows: z.array(rowSchema).max(BOUNDS.rows) },
    ({ table }, called) => `change the rows of ${called.table(table)}`
  ),
  /** In the diagram; null leaves its place to the layout. */
  kind('table.place', { ...ofTable, position: positionSchema.nullable() }, ({ table, position }, called) =>
    position ? `move ${called.table(table)} in the diagram` : `let the diagram place ${called.table(table)}`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const addTable: Handler<'table.add'> = (design, { table, at, position }) => {
  checkTableName(design, table.name, undefined, table.schema)
  checkNewIds(design, idsOf(table))
  const positions = position ? { ...design.positions, [table.id]: position } : design.positions
  const made = { ...table, rows: table.rows.map(tidyRow) }
  const next: Design = { ...design, tables: insertedAt(design.tables, made, at), positions }
  return { design: next, inverse: { kind: 'table.remove', table: table.id }, touched: [table.id] }
}

const renameTable: Handler<'table.rename'> = (design, { table: id, name }) => {
  const table = needTable(design, id)
  checkTableName(design, name, id, table.schema)
  return {
    design: withTable(design, id, (t) => ({ ...t, name })),
    inverse: { kind: 'table.rename', table: id, name: table.name },
    touched: [id]
  }
}

const setLabel = setTable({
  kind: 'table.setLabel',
  field: 'label',
  property: 'label',
  check({ table }, { label }) {
    label?.forEach((column) => needColumn(table, column))
    if (label && new Set(label).size < label.length)
      throw new Refused('invalid', `A row of ${table.name} is called by each column once.`, {
        table: table.id
      })
    return undefined
  }
})

const setSchema = setTable({
  kind: 'table.setSchema',
  field: 'schema',
  property: 'schema',
  check({ design, table }, { schema }) {
    if (schema !== null) needSchema(design, schema)
    checkTableName(design, table.name, table.id, schema ?? undefined)
    return undefined
  }
})

const removeTable: Handler<'table.remove'> = (design, { table: id }) => {
  const table = needTable(design, id)
  const references = referencesTo(design, id).filter((reference) => reference.table.id !== id)
  if (references.length > 0) {
    const names = listed([...new Set(references.map((reference) => reference.table.name))])
    throw new Refused(
      'in-use',
      `${table.name} is referred to by ${names}. Its relationships must go before it can.`,
      { table: id },
      [
        {
          label: `Remove ${table.name} and ${references.length === 1 ? 'the relationship' : `the ${references.length} relationships`} to it`,
          operation: {
            kind: 'batch',
            label: `remove ${table.name} and the relationships to it`,
            operations: [
              ...references.map(({ table: from, foreignKey }) => ({
                kind: 'foreignKey.remove' as const,
                table: from.id,
                foreignKey: foreignKey.id
              })),
              { kind: 'table.remove', table: id }
            ]
          }
        }
      ]
    )
  }
  const at = design.tables.findIndex((each) => each.id === id)
  const position = Object.hasOwn(design.positions, id) ? design.positions[id] : undefined
  const { [id]: _, ...positions } = design.positions
  return {
    design: { ...design, tables: withoutAt(design.tables, at), positions },
    inverse: { kind: 'table.add', table, at, ...(position && { position }) },
    touched: [id]
  }
}

const moveTable: Handler<'table.move'> = (design, { table: id, to }) => {
  const table = needTable(design, id)
  const from = design.tables.indexOf(table)
  return {
    design: {
      ...design,
      tables: insertedAt(withoutAt(design.tables, from), table, Math.min(to, design.tables.length - 1))
    },
    inverse: { kind: 'table.move', table: id, to: from },
    touched: [id]
  }
}

const placeTable: Handler<'table.place'> = (design, { table: id, position }) => {
  needTable(design, id)
  const { [id]: before, ...rest } = design.positions
  const positions = position ? { ...design.positions, [id]: position } : rest
  return {
    design: { ...design, positions },
    inverse: { kind: 'table.place', table: id, position: before ?? null },
    touched: [id]
  }
}

const setRows: Handler<'table.setRows'> = (design, { table: id, rows }) => {
  const table = needTable(design, id)
  return {
    design: withTable(design, id, (t) => ({ ...t, rows: rows.map(tidyRow) })),
    inverse: { kind: 'table.setRows', table: id, rows: table.rows },
    touched: [id]
  }
}

export const TABLE = noun(KINDS, {
  'table.add': addTable,
  'table.rename': renameTable,
  'table.annotate': setTable({ kind: 'table.annotate', field: 'note', property: 'note', none: '' }),
  'table.setLabel': setLabel,
  'table.setSchema': setSchema,
  'table.setRowSecurity': setTable({
    kind: 'table.setRowSecurity',
    field: 'security',
    property: 'rowSecurity'
  }),
  'table.setExternal': setTable({
    kind: 'table.setExternal',
    field: 'external',
    property: 'external',
    none: false
  }),
  'table.move': moveTable,
  'table.remove': removeTable,
  'table.setRows': setRows,
  'table.place': placeTable
})
