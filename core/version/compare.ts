import { columnOf, columnsIn, sameSet, tableOf } from '../design/lookup.ts'
import type { Column, Design, ForeignKey, Key, Table } from '../design/model.ts'
import { sameType, typeText } from '../design/type.ts'
import { defaultText } from '../design/value.ts'
import { isJunction } from '../relate/junction.ts'

export type ChangeKind = 'added' | 'removed' | 'renamed' | 'changed' | 'carried'

/** One difference between two states of a design, said in a sentence. `table` is the id of the table that it is about. */
export interface Change { kind: ChangeKind; table: string; sentence: string }

/**
 * What changed from one state of a design to the next, in words. Entities are known by their ids, so a
 * rename is told as a rename. Notes, rows and places in the diagram are no changes of the schema.
 */
export function compareDesigns(from: Design, to: Design): Change[] {
  const changes: Change[] = []
  for (const table of to.tables) {
    const before = tableOf(from, table.id)
    if (before) changes.push(...compareTable(from, to, before, table))
    else changes.push({ kind: 'added', table: table.id, sentence: `${table.name} is new${newTableWords(to, table)}.` })
  }
  for (const table of from.tables) {
    if (!tableOf(to, table.id)) changes.push({ kind: 'removed', table: table.id, sentence: `${table.name} is removed, with its ${table.columns.length} columns.` })
  }
  for (const carry of to.carries) {
    const source = tableOf(from, carry.source)
    const target = tableOf(to, carry.target)
    if (source && target && !from.carries.some((each) => each.id === carry.id)) {
      changes.push({ kind: 'carried', table: target.id, sentence: `What ${columnsIn(source, carry.where).map((column) => `${source.name}.${column.name}`).join(', ') || source.name} held is carried into ${target.name}.` })
    }
  }
  return changes
}

function newTableWords(to: Design, table: Table): string {
  if (isJunction(table)) return `: a junction of ${[...new Set(table.foreignKeys.map((each) => tableOf(to, each.table)?.name))].join(' and ')}, with ${table.columns.length} columns`
  return `, with ${table.columns.length} ${table.columns.length === 1 ? 'column' : 'columns'}`
}

function compareTable(from: Design, to: Design, before: Table, after: Table): Change[] {
  if (before === after) return []
  const changes: Change[] = []
  const say = (kind: ChangeKind, sentence: string): void => void changes.push({ kind, table: after.id, sentence })
  if (before.name !== after.name) say('renamed', `${before.name} is renamed to ${after.name}.`)
  for (const column of after.columns) {
    const old = columnOf(before, column.id)
    if (old) compareColumn(after.name, old, column, say)
    else say('added', `${after.name}.${column.name} is new: ${columnWords(column)}.`)
  }
  for (const column of before.columns) {
    if (!columnOf(after, column.id)) say('removed', `${after.name}.${column.name} is removed (${typeText(column.type)}).`)
  }
  const common = (table: Table, other: Table): string => table.columns.filter((column) => columnOf(other, column.id)).map((column) => column.id).join()
  if (common(before, after) !== common(after, before)) say('changed', `The columns of ${after.name} stand in another order.`)
  compareKeys(before, after, say)
  compareForeignKeys(from, to, before, after, say)
  return changes
}

type Say = (kind: ChangeKind, sentence: string) => void

function columnWords(column: Column): string {
  const words = [typeText(column.type), column.required ? 'required' : 'may be empty']
  if (column.default) words.push(column.default.kind === 'generated' ? 'generated' : `default ${defaultText(column.default, column.type)}`)
  return words.join(', ')
}

function compareColumn(table: string, old: Column, column: Column, say: Say): void {
  if (old.name !== column.name) say('renamed', `${table}.${old.name} is renamed to ${column.name}.`)
  if (!sameType(old.type, column.type)) say('changed', `${table}.${column.name} changes from ${typeText(old.type)} to ${typeText(column.type)}.`)
  if (old.required !== column.required) say('changed', `${table}.${column.name} ${column.required ? 'becomes required' : 'may now be empty'}.`)
  const before = defaultText(old.default, old.type)
  const after = defaultText(column.default, column.type)
  if (before !== after) say('changed', after === '' ? `${table}.${column.name} no longer has the default ${before}.` : `${table}.${column.name} ${after === 'generated' ? 'is generated' : `has the default ${after}`}${before ? `, before it was ${before}` : ''}.`)
}

const keyNames = (table: Table, key: Key | undefined): string => columnsIn(table, key?.columns ?? []).map((column) => column.name).join(', ')

function compareKeys(before: Table, after: Table, say: Say): void {
  const old = before.primaryKey
  const key = after.primaryKey
  if (old?.columns.join() !== key?.columns.join()) {
    if (!key) say('removed', `${after.name} loses its primary key (${keyNames(before, old)}).`)
    else if (!old) say('added', `${after.name} gets the primary key (${keyNames(after, key)}).`)
    else say('changed', `The primary key of ${after.name} changes from (${keyNames(before, old)}) to (${keyNames(after, key)}).`)
  }
  for (const unique of after.uniques) {
    const was = before.uniques.find((each) => each.id === unique.id)
    if (!was || !sameSet(was.columns, unique.columns)) say('added', `${keyNames(after, unique)} is unique in ${after.name}.`)
  }
  for (const unique of before.uniques) {
    if (!after.uniques.some((each) => each.id === unique.id)) say('removed', `${keyNames(before, unique)} need no longer be unique in ${after.name}.`)
  }
}

function compareForeignKeys(from: Design, to: Design, before: Table, after: Table, say: Say): void {
  const parent = (design: Design, foreignKey: ForeignKey): string => tableOf(design, foreignKey.table)?.name ?? 'a table'
  for (const foreignKey of after.foreignKeys) {
    const old = before.foreignKeys.find((each) => each.id === foreignKey.id)
    const names = columnsIn(after, foreignKey.pairs.map((pair) => pair.column)).map((column) => column.name).join(', ')
    if (!old) say('added', `${after.name} refers to ${parent(to, foreignKey)} by ${names} (on delete ${foreignKey.onDelete}).`)
    else {
      if (old.onDelete !== foreignKey.onDelete) say('changed', `Deleting ${parent(to, foreignKey)}, for ${after.name}: ${old.onDelete} becomes ${foreignKey.onDelete}.`)
      if (old.onUpdate !== foreignKey.onUpdate) say('changed', `Changing the key of ${parent(to, foreignKey)}, for ${after.name}: ${old.onUpdate} becomes ${foreignKey.onUpdate}.`)
      if (old.table !== foreignKey.table || JSON.stringify(old.pairs) !== JSON.stringify(foreignKey.pairs)) say('changed', `${after.name} now refers to ${parent(to, foreignKey)} by ${names}.`)
    }
  }
  for (const foreignKey of before.foreignKeys) {
    if (!after.foreignKeys.some((each) => each.id === foreignKey.id)) say('removed', `${after.name} no longer refers to ${parent(from, foreignKey)}.`)
  }
}
