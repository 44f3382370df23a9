import { columnsIn, referencesTo, sameSet, type Reference } from '../design/directory.ts'
import { idSchema } from '../design/ids.ts'
import { keySchema, type Key, type Table } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { listed } from '../design/words.ts'
import { at, ofTable } from './fields.ts'
import { checkName, checkNewIds, insertedAt, needColumn, needTable, withTable, withoutAt } from './handler.ts'
import { kind, noun, type Handler, type Operation, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Keys of a table: the primary one and those that are unique beside it. */

const KINDS = [
  kind('key.setPrimary', { ...ofTable, key: keySchema.nullable() }, ({ table: id, key }, called) => {
    if (!key) return `remove the key of ${called.table(id)}`
    const table = called.design.tables.find((each) => each.id === id)
    const columns = table ? columnsIn(table, key.columns).map(({ name }) => shorten(name)) : []
    return `make ${columns.join(', ')} the key of ${called.table(id)}`
  }),
  kind(
    'unique.add',
    { ...ofTable, key: keySchema, at },
    ({ table }, called) => `add a unique key to ${called.table(table)}`
  ),
  kind(
    'unique.remove',
    { ...ofTable, key: idSchema },
    ({ table }, called) => `remove a unique key of ${called.table(table)}`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const setPrimary: Handler<'key.setPrimary'> = (design, { table: id, key }) => {
  const table = needTable(design, id)
  const before = table.primaryKey
  if (key) checkKey(table, key)
  const computed = key && columnsIn(table, key.columns).find((column) => column.computed !== undefined)
  if (computed)
    throw new Refused(
      'key-column',
      `${computed.name} is computed, and a primary key is given, not computed.`,
      { table: id, column: computed.id }
    )
  if (key && key.id !== before?.id) checkNewIds(design, [key.id])
  const lost =
    before && (!key || key.id !== before.id || !sameSet(key.columns, before.columns))
      ? referencesBy(design, table, before)
      : []
  if (before && lost.length > 0) {
    throw new Refused(
      'in-use',
      `${referring(lost)} to ${table.name} by its key (${names(table, before)}), so its columns cannot change while they do.`,
      { table: id },
      [
        {
          label:
            lost.length === 1
              ? 'Remove the relationship and change the key'
              : `Remove the ${lost.length} relationships and change the key`,
          operation: {
            kind: 'batch',
            label: `change the key of ${table.name}`,
            operations: [...lost.map(removal), { kind: 'key.setPrimary', table: id, key }]
          }
        }
      ]
    )
  }
  const twin = key && table.uniques.find((each) => sameSet(each.columns, key.columns))
  if (twin && referencesBy(design, table, twin).length === 0) {
    return {
      instead: [
        { kind: 'unique.remove', table: id, key: twin.id },
        { kind: 'key.setPrimary', table: id, key }
      ]
    }
  }
  const open = key ? columnsIn(table, key.columns).filter((column) => !column.required) : []
  if (open.length > 0) {
    const emptied = table.foreignKeys.find(
      (each) =>
        each.onDelete === 'SET NULL' &&
        each.pairs.some((pair) => open.some((column) => column.id === pair.column))
    )
    if (emptied) {
      throw new Refused(
        'key-column',
        `A key column is always required, and ${names(table, { columns: open.map((column) => column.id) })} is emptied when its ${needTable(design, emptied.table).name} is deleted. Change that rule first.`,
        { table: id }
      )
    }
    return {
      instead: [
        ...open.map((column): Operation => ({
          kind: 'column.require',
          table: id,
          column: column.id,
          required: true
        })),
        { kind: 'key.setPrimary', table: id, key }
      ]
    }
  }
  return {
    design: withTable(design, id, (t) => ({ ...t, primaryKey: key ?? undefined })),
    inverse: { kind: 'key.setPrimary', table: id, key: before ?? null },
    touched: [id]
  }
}

const addUnique: Handler<'unique.add'> = (design, { table: id, key, at }) => {
  const table = needTable(design, id)
  checkKey(table, key)
  checkNewIds(design, [key.id])
  if (table.primaryKey && sameSet(table.primaryKey.columns, key.columns))
    throw new Refused(
      'invalid',
      `${names(table, key)} is the primary key of ${table.name}, and so unique already.`,
      { table: id }
    )
  const twin = table.uniques.find((each) => sameSet(each.columns, key.columns))
  if (twin)
    throw new Refused('invalid', `${names(table, key)} is unique in ${table.name} already.`, { table: id })
  return {
    design: withTable(design, id, (t) => ({ ...t, uniques: insertedAt(t.uniques, key, at) })),
    inverse: { kind: 'unique.remove', table: id, key: key.id },
    touched: [id]
  }
}

const removeUnique: Handler<'unique.remove'> = (design, { table: id, key: keyId }) => {
  const table = needTable(design, id)
  const at = table.uniques.findIndex((each) => each.id === keyId)
  const key = table.uniques[at]
  if (!key) throw new Refused('missing', `${table.name} no longer has that unique key.`, { table: id })
  const references = referencesBy(design, table, key)
  if (references.length > 0) {
    throw new Refused(
      'in-use',
      `${referring(references)} to ${table.name} by ${names(table, key)}, so it must stay unique.`,
      { table: id },
      [
        {
          label: 'Remove the relationships and the unique key',
          operation: {
            kind: 'batch',
            label: `remove a unique key of ${table.name}`,
            operations: [...references.map(removal), { kind: 'unique.remove', table: id, key: keyId }]
          }
        }
      ]
    )
  }
  return {
    design: withTable(design, id, (t) => ({ ...t, uniques: withoutAt(t.uniques, at) })),
    inverse: { kind: 'unique.add', table: id, key, at },
    touched: [id]
  }
}

function checkKey(table: Table, key: Key): void {
  if (key.name !== undefined) checkName(key.name, { table: table.id })
  key.columns.forEach((column) => needColumn(table, column))
  if (new Set(key.columns).size < key.columns.length)
    throw new Refused('invalid', `A key of ${table.name} names a column twice.`, { table: table.id })
}

function referencesBy(design: Parameters<typeof referencesTo>[0], table: Table, key: Key): Reference[] {
  return referencesTo(design, table.id).filter((reference) => reference.foreignKey.key === key.id)
}

const removal = (reference: Reference): Operation => ({
  kind: 'foreignKey.remove',
  table: reference.table.id,
  foreignKey: reference.foreignKey.id
})

const names = (table: Table, key: Pick<Key, 'columns'>): string =>
  columnsIn(table, key.columns)
    .map((column) => column.name)
    .join(', ')

/** Who refers, and the verb: “dose refers”, “dose and stay refer”. */
function referring(references: readonly Reference[]): string {
  const tables = [...new Set(references.map((each) => each.table.name))]
  return `${listed(tables)} ${tables.length === 1 ? 'refers' : 'refer'}`
}

export const KEY = noun(KINDS, {
  'key.setPrimary': setPrimary,
  'unique.add': addUnique,
  'unique.remove': removeUnique
})
