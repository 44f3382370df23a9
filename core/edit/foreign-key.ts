import { isInPrimaryKey, keyOf } from '../design/directory.ts'
import { flawOfForeignKey } from '../design/integrity.ts'
import {
  accessorsSchema,
  actionSchema,
  deferrableSchema,
  foreignKeySchema,
  minimumSchema,
  natureSchema,
  verbsSchema,
  type Action,
  type ForeignKey,
  type Table
} from '../design/model.ts'
import { sameType, typeText } from '../design/type.ts'
import { sentence } from '../design/words.ts'
import { at, ofForeignKey, ofTable } from './fields.ts'
import {
  checkName,
  checkNewIds,
  insertedAt,
  needColumn,
  needForeignKey,
  needTable,
  noKey,
  ownColumns,
  withForeignKey,
  withTable,
  withoutAt
} from './handler.ts'
import { kind, noun, type Handler, type Operation, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'
import { setForeignKey } from './setting.ts'

/** Foreign keys of a table, and what is said of them. */

const KINDS = [
  kind(
    'foreignKey.add',
    { ...ofTable, foreignKey: foreignKeySchema, at },
    ({ table, foreignKey }, called) => `refer ${called.table(table)} to ${called.table(foreignKey.table)}`
  ),
  kind(
    'foreignKey.remove',
    ofForeignKey,
    ({ table }, called) => `remove a relationship of ${called.table(table)}`
  ),
  kind(
    'foreignKey.setActions',
    { ...ofForeignKey, onDelete: actionSchema, onUpdate: actionSchema },
    ({ table }, called) => `change what happens in ${called.table(table)} on delete or key change`
  ),
  kind(
    'foreignKey.setVerbs',
    { ...ofForeignKey, verbs: verbsSchema.nullable() },
    ({ table }, called) => `change how a relationship of ${called.table(table)} reads`
  ),
  /** Whether it may be looked at when a transaction ends; null: with each statement, always. */
  kind(
    'foreignKey.setDeferrable',
    { ...ofForeignKey, deferrable: deferrableSchema.nullable() },
    ({ table }, called) => `change when a relationship of ${called.table(table)} is looked at`
  ),
  /** What a row is to the one that it refers to; null: what its shape says. */
  kind(
    'foreignKey.setNature',
    { ...ofForeignKey, nature: natureSchema.nullable() },
    ({ table }, called) => `change what ${called.table(table)} is to what it refers to`
  ),
  /** What each direction is called in code; null: as it is proposed. */
  kind(
    'foreignKey.setAccessors',
    { ...ofForeignKey, accessors: accessorsSchema.nullable() },
    ({ table }, called) => `change what a relationship of ${called.table(table)} is called in code`
  ),
  /** That each row referred to has at least one that refers to it; null: it may have none. */
  kind(
    'foreignKey.setMinimum',
    { ...ofForeignKey, minimum: minimumSchema.nullable() },
    ({ table }, called) => `change how many ${called.table(table)} has at the least`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const addForeignKey: Handler<'foreignKey.add'> = (design, { table: id, foreignKey, at }) => {
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

const removeForeignKey: Handler<'foreignKey.remove'> = (design, { table: id, foreignKey: foreignKeyId }) => {
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

const setActions: Handler<'foreignKey.setActions'> = (
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

const setMinimum = setForeignKey({
  kind: 'foreignKey.setMinimum',
  field: 'minimum',
  property: 'atLeastOne',
  check({ design, table, foreignKey }, { minimum }) {
    if (minimum !== 'held') return undefined
    const parent = needTable(design, foreignKey.table)
    if (parent === table)
      throw new Refused(
        'does-not-fit',
        `Each row of ${table.name} would need another that refers to it, and that one again another: only rows in a circle could have that. It can be said, and not held.`,
        { table: table.id }
      )
    if (parent.external || table.external)
      throw new Refused(
        'does-not-fit',
        `${parent.external ? parent.name : table.name} is another system’s, so nothing can be made on it that holds this.`,
        { table: table.id }
      )
    return undefined
  }
})

export const FOREIGN_KEY = noun(KINDS, {
  'foreignKey.add': addForeignKey,
  'foreignKey.remove': removeForeignKey,
  'foreignKey.setActions': setActions,
  'foreignKey.setVerbs': setForeignKey({ kind: 'foreignKey.setVerbs', field: 'verbs', property: 'verbs' }),
  'foreignKey.setDeferrable': setForeignKey({
    kind: 'foreignKey.setDeferrable',
    field: 'deferrable',
    property: 'deferrable'
  }),
  'foreignKey.setNature': setForeignKey({
    kind: 'foreignKey.setNature',
    field: 'nature',
    property: 'childIs'
  }),
  'foreignKey.setAccessors': setForeignKey({
    kind: 'foreignKey.setAccessors',
    field: 'accessors',
    property: 'accessors',
    isNothing: ({ accessors }) => Object.keys(accessors ?? {}).length === 0
  }),
  'foreignKey.setMinimum': setMinimum
})
