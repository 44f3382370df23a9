import { columnOf, columnsIn, isInPrimaryKey, keyOf } from '../design/directory.ts'
import { flawOfForeignKey } from '../design/integrity.ts'
import type { Action, Column, Design, ForeignKey, Key, Row, Table } from '../design/model.ts'
import type { Carried } from '../design/carry.ts'
import { sameType, typeText } from '../design/type.ts'
import {
  checkName,
  checkNewIds,
  insertedAt,
  needColumn,
  needForeignKey,
  needTable,
  ownColumns,
  withTable,
  withoutAt,
  type Handler
} from './handler.ts'
import { sentence } from '../design/words.ts'
import type { Junction, JunctionSide, MadeColumn, Operation } from './operation.ts'
import { Refused } from './refusal.ts'

export const addForeignKey: Handler<'foreignKey.add'> = (design, { table: id, foreignKey, at }) => {
  const table = needTable(design, id)
  const referred = needTable(design, foreignKey.table)
  if (foreignKey.name !== undefined) checkName(foreignKey.name, { table: id })
  if (!keyOf(referred, foreignKey.key)) throw noKey(referred)
  checkNewIds(design, [foreignKey.id])
  const flaw = flawOfForeignKey(design, table, foreignKey)
  if (flaw) throw new Refused('invalid', `${sentence(flaw)}.`, { table: id })
  for (const pair of foreignKey.pairs) {
    const column = needColumn(table, pair.column)
    if (column.computed !== undefined)
      throw new Refused('in-use', `${column.name} is computed, so it cannot refer to another table.`, {
        table: id,
        column: column.id
      })
    const target = needColumn(referred, pair.refersTo)
    if (!sameType(column.type, target.type)) {
      throw new Refused(
        'type-mismatch',
        `${column.name} is ${typeText(column.type, design.enums)} and ${referred.name}.${target.name} is ${typeText(target.type, design.enums)}; an engine refuses a reference between them, or takes it and never matches.`,
        { table: id, column: column.id },
        [
          {
            label: `Make ${column.name} ${typeText(target.type, design.enums)} and refer`,
            operation: {
              kind: 'batch',
              label: `refer ${table.name} to ${referred.name}`,
              operations: [
                { kind: 'column.retype', table: id, column: column.id, type: target.type },
                { kind: 'foreignKey.add', table: id, foreignKey, at }
              ]
            }
          }
        ]
      )
    }
  }
  checkActions(table, foreignKey, foreignKey)
  return {
    design: withTable(design, id, (t) => ({ ...t, foreignKeys: insertedAt(t.foreignKeys, foreignKey, at) })),
    inverse: { kind: 'foreignKey.remove', table: id, foreignKey: foreignKey.id },
    touched: [id, referred.id]
  }
}

function noKey(referred: Table): Refused {
  const [first] = referred.columns
  return new Refused(
    'no-key',
    `${referred.name} has no primary key yet, so nothing can refer to its rows. Choose its key first.`,
    { table: referred.id },
    first
      ? [
          {
            label: `Make ${first.name} the key of ${referred.name}`,
            operation: {
              kind: 'key.setPrimary',
              table: referred.id,
              key: { id: `k_${first.id.slice(first.id.indexOf('_') + 1)}`, columns: [first.id] }
            }
          }
        ]
      : []
  )
}

export const removeForeignKey: Handler<'foreignKey.remove'> = (
  design,
  { table: id, foreignKey: foreignKeyId }
) => {
  const table = needTable(design, id)
  const foreignKey = needForeignKey(table, foreignKeyId)
  const copies = table.columns.filter((column) => column.copied?.foreignKey === foreignKeyId)
  if (copies.length > 0)
    return {
      instead: [
        ...copies.map((column): Operation => ({
          kind: 'column.copy',
          table: id,
          column: column.id,
          copied: null
        })),
        { kind: 'foreignKey.remove', table: id, foreignKey: foreignKeyId }
      ]
    }
  const at = table.foreignKeys.indexOf(foreignKey)
  return {
    design: withTable(design, id, (t) => ({ ...t, foreignKeys: withoutAt(t.foreignKeys, at) })),
    inverse: { kind: 'foreignKey.add', table: id, foreignKey, at },
    touched: [id, foreignKey.table]
  }
}

export const setActions: Handler<'foreignKey.setActions'> = (
  design,
  { table: id, foreignKey: foreignKeyId, onDelete, onUpdate }
) => {
  const table = needTable(design, id)
  const foreignKey = needForeignKey(table, foreignKeyId)
  checkActions(table, foreignKey, { onDelete, onUpdate })
  return {
    design: withForeignKey(design, id, { ...foreignKey, onDelete, onUpdate }),
    inverse: {
      kind: 'foreignKey.setActions',
      table: id,
      foreignKey: foreignKeyId,
      onDelete: foreignKey.onDelete,
      onUpdate: foreignKey.onUpdate
    },
    touched: [id, foreignKey.table]
  }
}

/** SET NULL needs columns that may be empty, SET DEFAULT columns that have a default. */
function checkActions(
  table: Table,
  foreignKey: ForeignKey,
  wanted: { onDelete: Action; onUpdate: Action }
): void {
  const columns = ownColumns(table, foreignKey)
  const actions = [wanted.onDelete, wanted.onUpdate]
  const required = actions.includes('SET NULL') ? columns.filter((column) => column.required) : []
  const [first] = required
  if (first) {
    const inKey = required.some((column) => isInPrimaryKey(table, column.id))
    throw new Refused(
      'does-not-fit',
      `${first.name} is required${inKey ? ' (it is in the primary key)' : ''}, so it cannot be emptied.`,
      { table: table.id, column: first.id },
      inKey
        ? []
        : [
            {
              label: `Let ${first.name} be empty, and empty it`,
              operation: {
                kind: 'batch',
                label: `let ${first.name} be emptied`,
                operations: [
                  ...required.map((column): Operation => ({
                    kind: 'column.require',
                    table: table.id,
                    column: column.id,
                    required: false
                  })),
                  {
                    kind: 'foreignKey.setActions',
                    table: table.id,
                    foreignKey: foreignKey.id,
                    onDelete: wanted.onDelete,
                    onUpdate: wanted.onUpdate
                  }
                ]
              }
            }
          ]
    )
  }
  const bare = actions.includes('SET DEFAULT') ? columns.find((column) => !column.default) : undefined
  if (bare)
    throw new Refused('does-not-fit', `${bare.name} has no default to be set to. Give it one first.`, {
      table: table.id,
      column: bare.id
    })
}

export const setDeferrable: Handler<'foreignKey.setDeferrable'> = (
  design,
  { table: id, foreignKey: foreignKeyId, deferrable }
) => {
  const { deferrable: before, ...foreignKey } = needForeignKey(needTable(design, id), foreignKeyId)
  return {
    design: withForeignKey(design, id, deferrable === null ? foreignKey : { ...foreignKey, deferrable }),
    inverse: {
      kind: 'foreignKey.setDeferrable',
      table: id,
      foreignKey: foreignKeyId,
      deferrable: before ?? null
    },
    touched: [id]
  }
}

export const setVerbs: Handler<'foreignKey.setVerbs'> = (
  design,
  { table: id, foreignKey: foreignKeyId, verbs }
) => {
  const foreignKey = needForeignKey(needTable(design, id), foreignKeyId)
  return {
    design: withForeignKey(design, id, { ...foreignKey, verbs: verbs ?? undefined }),
    inverse: {
      kind: 'foreignKey.setVerbs',
      table: id,
      foreignKey: foreignKeyId,
      verbs: foreignKey.verbs ?? null
    },
    touched: [id]
  }
}

export const setMinimum: Handler<'foreignKey.setMinimum'> = (
  design,
  { table: id, foreignKey: foreignKeyId, minimum }
) => {
  const table = needTable(design, id)
  const { atLeastOne, ...foreignKey } = needForeignKey(table, foreignKeyId)
  const parent = needTable(design, foreignKey.table)
  if (minimum === 'held' && parent === table)
    throw new Refused(
      'does-not-fit',
      `Each row of ${table.name} would need another that refers to it, and that one again another: only rows in a circle could have that. It can be said, and not held.`,
      { table: id }
    )
  if (minimum === 'held' && (parent.external || table.external))
    throw new Refused(
      'does-not-fit',
      `${parent.external ? parent.name : table.name} is another system’s, so nothing can be made on it that holds this.`,
      { table: id }
    )
  return {
    design: withForeignKey(
      design,
      id,
      minimum === null ? foreignKey : { ...foreignKey, atLeastOne: minimum }
    ),
    inverse: {
      kind: 'foreignKey.setMinimum',
      table: id,
      foreignKey: foreignKeyId,
      minimum: atLeastOne ?? null
    },
    touched: [id, foreignKey.table]
  }
}

export const setNature: Handler<'foreignKey.setNature'> = (
  design,
  { table: id, foreignKey: foreignKeyId, nature }
) => {
  const { childIs, ...foreignKey } = needForeignKey(needTable(design, id), foreignKeyId)
  return {
    design: withForeignKey(design, id, nature === null ? foreignKey : { ...foreignKey, childIs: nature }),
    inverse: { kind: 'foreignKey.setNature', table: id, foreignKey: foreignKeyId, nature: childIs ?? null },
    touched: [id, foreignKey.table]
  }
}

export const setAccessors: Handler<'foreignKey.setAccessors'> = (
  design,
  { table: id, foreignKey: foreignKeyId, accessors }
) => {
  const { accessors: before, ...foreignKey } = needForeignKey(needTable(design, id), foreignKeyId)
  const next =
    accessors === null || Object.keys(accessors).length === 0 ? foreignKey : { ...foreignKey, accessors }
  return {
    design: withForeignKey(design, id, next),
    inverse: {
      kind: 'foreignKey.setAccessors',
      table: id,
      foreignKey: foreignKeyId,
      accessors: before ?? null
    },
    touched: [id, foreignKey.table]
  }
}

function withForeignKey(design: Design, table: string, foreignKey: ForeignKey): Design {
  return withTable(design, table, (t) => ({
    ...t,
    foreignKeys: t.foreignKeys.map((each) => (each.id === foreignKey.id ? foreignKey : each))
  }))
}

export const addRelationship: Handler<'relationship.add'> = (design, operation) => {
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

export const addJunction: Handler<'relationship.addJunction'> = (design, { junction }) => ({
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
export const resolveToJunction: Handler<'relationship.resolveToJunction'> = (
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
