import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { carriedSchema, type Carried } from '../design/carry.ts'
import { columnOf, columnsIn, isInPrimaryKey } from '../design/directory.ts'
import { idSchema } from '../design/ids.ts'
import {
  actionSchema,
  columnSchema,
  nameSchema,
  natureSchema,
  verbsSchema,
  type Column,
  type Design,
  type ForeignKey,
  type Key,
  type Row,
  type Table
} from '../design/model.ts'
import { sameType, shorten } from '../design/type.ts'
import { at, ofForeignKey } from './fields.ts'
import { needColumn, needForeignKey, needTable, noKey } from './handler.ts'
import { kind, noun, type Handler, type Operation, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Relationships as they are meant: each comes to tables, columns, keys and foreign keys. */

/** A column that a relationship makes, or, where the id is there already, takes over. */
const madeColumn = z.strictObject({ id: idSchema, name: nameSchema })
export type MadeColumn = z.infer<typeof madeColumn>

const junctionSide = z.strictObject({
  table: idSchema,
  foreignKey: idSchema,
  /** One for each column of the side's primary key, in its order. */
  columns: z.array(madeColumn),
  onDelete: actionSchema,
  verbs: verbsSchema.optional()
})
export type JunctionSide = z.infer<typeof junctionSide>

const junction = z.strictObject({
  table: z.strictObject({ id: idSchema, name: nameSchema }),
  key: idSchema,
  sides: z.tuple([junctionSide, junctionSide]),
  /** The junction's own columns: facts about the pair. */
  columns: z.array(columnSchema).max(BOUNDS.columns),
  /**
   * `pair`: the pair is the primary key, together with the own columns named in `with`.
   * `own`: a generated column is the primary key, and the pair is unique beside it.
   */
  keyed: z.discriminatedUnion('by', [
    z.strictObject({ by: z.literal('pair'), with: z.array(idSchema) }),
    z.strictObject({ by: z.literal('own'), column: madeColumn, unique: idSchema })
  ])
})
export type Junction = z.infer<typeof junction>

const KINDS = [
  /**
   * One-to-many, or one-to-one where `unique` is given: the key's columns come to the child with the key's
   * types.
   */
  kind(
    'relationship.add',
    {
      parent: idSchema,
      child: idSchema,
      foreignKey: idSchema,
      columns: z.array(madeColumn),
      at,
      required: z.boolean(),
      unique: idSchema.optional(),
      onDelete: actionSchema,
      onUpdate: actionSchema,
      verbs: verbsSchema.optional(),
      childIs: natureSchema.optional()
    },
    ({ parent, child }, called) => `relate ${called.table(parent)} and ${called.table(child)}`
  ),
  /** Many-to-many: a junction table that keeps one row for each pair. */
  kind(
    'relationship.addJunction',
    { junction },
    (fields) => `make the junction ${shorten(fields.junction.table.name)}`
  ),
  /**
   * Each side turned out to need many: a one-to-many becomes a junction, and what its column held is
   * carried there; `carried` says what the junction's own columns take.
   */
  kind(
    'relationship.resolveToJunction',
    { ...ofForeignKey, junction, carry: idSchema, carried: z.array(carriedSchema).optional() },
    (fields) => `resolve to the junction ${shorten(fields.junction.table.name)}`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const addRelationship: Handler<'relationship.add'> = (design, operation) => {
  const parent = needTable(design, operation.parent)
  const child = needTable(design, operation.child)
  const key = needKey(parent)
  const keyColumns = columnsIn(parent, key.columns)
  checkCount(parent, keyColumns, operation.columns)
  const changes = keyColumns.flatMap((target, index): Operation[] => {
    const made = operation.columns[index] as MadeColumn
    const existing = columnOf(child, made.id)
    if (!existing) {
      const column: Column = { id: made.id, name: made.name, type: target.type, required: operation.required }
      return [
        {
          kind: 'column.add',
          table: child.id,
          column,
          at: operation.at === undefined ? undefined : operation.at + index
        }
      ]
    }
    const own: Operation[] = []
    if (!sameType(existing.type, target.type))
      own.push({ kind: 'column.retype', table: child.id, column: existing.id, type: target.type })
    if (existing.required !== operation.required && !isInPrimaryKey(child, existing.id))
      own.push({ kind: 'column.require', table: child.id, column: existing.id, required: operation.required })
    if (existing.default?.kind === 'generated')
      own.push({ kind: 'column.setDefault', table: child.id, column: existing.id, default: null })
    return own
  })
  const foreignKey: ForeignKey = {
    id: operation.foreignKey,
    table: parent.id,
    key: key.id,
    pairs: pairsOf(operation.columns, key),
    onDelete: operation.onDelete,
    onUpdate: operation.onUpdate,
    verbs: operation.verbs,
    ...(operation.childIs && { childIs: operation.childIs })
  }
  const unique: Operation[] = operation.unique
    ? [
        {
          kind: 'unique.add',
          table: child.id,
          key: { id: operation.unique, columns: operation.columns.map((each) => each.id) }
        }
      ]
    : []
  return { instead: [...changes, { kind: 'foreignKey.add', table: child.id, foreignKey }, ...unique] }
}

function needKey(table: Table): Key {
  if (!table.primaryKey) throw noKey(table)
  return table.primaryKey
}

function checkCount(table: Table, keyColumns: readonly Column[], made: readonly MadeColumn[]): void {
  if (keyColumns.length === made.length) return
  throw new Refused(
    'invalid',
    `The key of ${table.name} has ${keyColumns.length} columns; a reference to it needs as many.`,
    { table: table.id }
  )
}

function pairsOf(columns: readonly MadeColumn[], key: Key): ForeignKey['pairs'] {
  return columns.map((column, index) => ({ column: column.id, refersTo: key.columns[index] as string }))
}

const addJunction: Handler<'relationship.addJunction'> = (design, { junction }) => ({
  instead: [{ kind: 'table.add', table: junctionTable(design, junction) }]
})

/**
 * The table that a junction comes to: the keys of both sides as required columns with the keys' types
 * and never generated, the junction's own columns, and the key that was chosen.
 * Throws a refusal where a side has no key.
 */
function junctionTable(design: Design, junction: Junction): Table {
  const sides = junction.sides.map((side) => sideParts(design, side))
  const pair = sides.flatMap((side) => side.columns)
  const { keyed } = junction
  const own: Column[] =
    keyed.by === 'own'
      ? [
          {
            id: keyed.column.id,
            name: keyed.column.name,
            type: { kind: 'integer', size: 'normal' },
            required: true,
            default: { kind: 'generated' }
          }
        ]
      : []
  const pairIds = pair.map((column) => column.id)
  const inKey = keyed.by === 'pair' ? [...pairIds, ...keyed.with] : own.map((column) => column.id)
  return {
    id: junction.table.id,
    name: junction.table.name,
    columns: [...own, ...pair, ...junction.columns].map((column) =>
      inKey.includes(column.id) ? { ...column, required: true } : column
    ),
    primaryKey: { id: junction.key, columns: inKey },
    uniques: keyed.by === 'own' ? [{ id: keyed.unique, columns: pairIds }] : [],
    foreignKeys: sides.map((side) => side.foreignKey),
    checks: [],
    indexes: [],
    rowPolicies: [],
    rows: []
  }
}

function sideParts(design: Design, side: JunctionSide): { columns: Column[]; foreignKey: ForeignKey } {
  const table = needTable(design, side.table)
  const key = needKey(table)
  const keyColumns = columnsIn(table, key.columns)
  checkCount(table, keyColumns, side.columns)
  if (side.onDelete === 'SET NULL')
    throw new Refused('does-not-fit', 'The columns of a junction are required, so they cannot be emptied.', {
      table: table.id
    })
  return {
    columns: keyColumns.map((target, index) => ({
      ...(side.columns[index] as MadeColumn),
      type: target.type,
      required: true
    })),
    foreignKey: {
      id: side.foreignKey,
      table: table.id,
      key: key.id,
      pairs: pairsOf(side.columns, key),
      onDelete: side.onDelete,
      onUpdate: 'CASCADE',
      verbs: side.verbs
    }
  }
}

/**
 * As it stands in earlier logs; what is proposed now is said by core/restructure/to-junction.ts.
 * The junction takes the place of a foreign key: its first side is the table that held the key, its
 * second the table referred to. What the old columns held goes along as a carry. An own column of the
 * junction takes what `carried` says, else a column of the same name and type, else its default.
 */
const resolveToJunction: Handler<'relationship.resolveToJunction'> = (
  design,
  { table: id, foreignKey: foreignKeyId, junction, carry, carried = [] }
) => {
  const table = needTable(design, id)
  const foreignKey = needForeignKey(table, foreignKeyId)
  const [many, one] = junction.sides
  if (many.table !== id || one.table !== foreignKey.table)
    throw new Refused('invalid', 'The junction must stand between the two tables of the relationship.', {
      table: id
    })
  const manyKey = needKey(table)
  const made = junctionTable(design, junction)
  const oldColumns = foreignKey.pairs.map((pair) => pair.column)
  const shared = oldColumns.find((column) => isInPrimaryKey(table, column))
  if (shared)
    throw new Refused(
      'key-column',
      `${needColumn(table, shared).name} is in the key of ${table.name}, so the relationship cannot leave it. Change the key first.`,
      { table: id, column: shared }
    )
  const oldFor = (refersTo: string | undefined): string =>
    foreignKey.pairs.find((pair) => pair.refersTo === refersTo)?.column as string
  const referred = needKey(needTable(design, foreignKey.table))
  const columns: Carried[] = [
    ...many.columns.map((column, index) => ({ to: column.id, from: manyKey.columns[index] as string })),
    ...one.columns.map((column, index) => ({ to: column.id, from: oldFor(referred.columns[index]) })),
    ...carried,
    ...sharedColumns(
      table,
      junction.columns.filter((column) => !carried.some((each) => each.to === column.id))
    )
  ]
  const rows = table.rows
    .filter((row) => oldColumns.every((column) => (row[column] ?? null) !== null))
    .map((row): Row =>
      Object.fromEntries(
        columns.map((each) => [each.to, 'from' in each ? (row[each.from] ?? null) : each.value])
      )
    )
  return {
    instead: [
      { kind: 'table.add', table: { ...made, rows } },
      { kind: 'carry.add', carry: { id: carry, source: id, target: made.id, where: oldColumns, columns } },
      { kind: 'foreignKey.remove', table: id, foreignKey: foreignKeyId },
      ...oldColumns.map((column): Operation => ({ kind: 'column.remove', table: id, column }))
    ]
  }
}

function sharedColumns(table: Table, columns: readonly Column[]): Carried[] {
  return columns.flatMap((column) => {
    const same = table.columns.find((each) => each.name === column.name && sameType(each.type, column.type))
    return same ? [{ to: column.id, from: same.id }] : []
  })
}

export const RELATIONSHIP = noun(KINDS, {
  'relationship.add': addRelationship,
  'relationship.addJunction': addJunction,
  'relationship.resolveToJunction': resolveToJunction
})
