import { flowing } from '../carry/earlier.ts'
import { sayFlow } from '../carry/words.ts'
import { showExpression } from '../design/expressions.ts'
import { columnOf, columnsIn, sameSet, tableOf } from '../design/directory.ts'
import type { Column, Design, ForeignKey, Key, Table } from '../design/model.ts'
import type { Carry } from '../design/carry.ts'
import { sameType, typeText } from '../design/type.ts'
import { defaultText } from '../design/default.ts'
import { junctionSides } from '../relate/junction.ts'

export type ChangeKind = 'added' | 'removed' | 'renamed' | 'changed' | 'carried'

/**
 * One difference between two states of a design, said in a sentence. `table` is the id of the table that
 * it is about.
 */
export interface Change {
  kind: ChangeKind
  table: string
  sentence: string
}

/**
 * What changed from one state of a design to the next, in words. Entities are known by their ids, so a
 * rename is told as a rename. Rows and places in the diagram are no changes of the schema.
 */
export function compareDesigns(from: Design, to: Design): Change[] {
  const changes: Change[] = [...compareShared(from, to)]
  for (const table of to.tables) {
    const before = tableOf(from, table.id)
    if (before) changes.push(...compareTable(from, to, before, table))
    else
      changes.push({
        kind: 'added',
        table: table.id,
        sentence: `${table.name} is new${newTableWords(to, table)}.`
      })
  }
  for (const table of from.tables) {
    if (!tableOf(to, table.id))
      changes.push({
        kind: 'removed',
        table: table.id,
        sentence: `${table.name} is removed, with its ${table.columns.length} columns.`
      })
  }
  for (const carry of to.carries)
    if (!from.carries.some((each) => each.id === carry.id)) changes.push(...compareCarry(from, to, carry))
  return changes
}

function compareCarry(from: Design, to: Design, carry: Carry): Change[] {
  return sayFlow(flowing(carry, [to, from]).there, from, to).map((said) => ({ kind: 'carried', ...said }))
}

/** What no table has by itself: schemas and lists of values. */
function compareShared(from: Design, to: Design): Change[] {
  const changes: Change[] = []
  const say = (kind: ChangeKind, sentence: string): void => void changes.push({ kind, table: '', sentence })
  for (const list of to.enums) {
    const before = from.enums.find((each) => each.id === list.id)
    if (!before) {
      say('added', `The list of values ${list.name} is new: ${list.values.join(', ')}.`)
      continue
    }
    if (before.name !== list.name)
      say('renamed', `The list of values ${before.name} is renamed to ${list.name}.`)
    const [come, gone] = [
      list.values.filter((value) => !before.values.includes(value)),
      before.values.filter((value) => !list.values.includes(value))
    ]
    if (come.length > 0) say('changed', `${list.name} gets ${come.join(', ')}.`)
    if (gone.length > 0) say('changed', `${list.name} loses ${gone.join(', ')}.`)
    if (come.length + gone.length === 0 && before.values.join('\0') !== list.values.join('\0'))
      say('changed', `The values of ${list.name} stand in another order.`)
  }
  for (const list of from.enums)
    if (!to.enums.some((each) => each.id === list.id))
      say('removed', `The list of values ${list.name} is removed.`)
  for (const schema of to.schemas) {
    const before = from.schemas.find((each) => each.id === schema.id)
    if (!before) say('added', `The schema ${schema.name} is new.`)
    else if (before.name !== schema.name)
      say('renamed', `The schema ${before.name} is renamed to ${schema.name}.`)
  }
  for (const schema of from.schemas)
    if (!to.schemas.some((each) => each.id === schema.id))
      say('removed', `The schema ${schema.name} is removed.`)
  return changes
}

function newTableWords(to: Design, table: Table): string {
  const sides = junctionSides(table)
  if (sides.length > 0)
    return `: a junction of ${[...new Set(sides.map((each) => tableOf(to, each.table)?.name))].join(' and ')}, with ${table.columns.length} columns`
  return `, with ${table.columns.length} ${table.columns.length === 1 ? 'column' : 'columns'}`
}

function compareTable(from: Design, to: Design, before: Table, after: Table): Change[] {
  if (before === after) return []
  const changes: Change[] = []
  const say = (kind: ChangeKind, sentence: string): void =>
    void changes.push({ kind, table: after.id, sentence })
  if (before.name !== after.name) say('renamed', `${before.name} is renamed to ${after.name}.`)
  if (before.schema !== after.schema)
    say(
      'changed',
      `${after.name} moves ${after.schema === undefined ? 'out of its schema' : `into the schema ${to.schemas.find((each) => each.id === after.schema)?.name ?? ''}`}.`
    )
  if (before.external !== after.external)
    say(
      'changed',
      after.external
        ? `${after.name} is another system's from now on.`
        : `${after.name} is the design's own from now on.`
    )
  if (before.note !== after.note) say('changed', `The note of ${after.name} changes.`)
  for (const column of after.columns) {
    const old = columnOf(before, column.id)
    if (old) compareColumn({ before, after, from, to }, old, column, say)
    else say('added', `${after.name}.${column.name} is new: ${columnWords(to, after, column)}.`)
  }
  for (const column of before.columns) {
    if (!columnOf(after, column.id))
      say('removed', `${after.name}.${column.name} is removed (${typeText(column.type, from.enums)}).`)
  }
  const common = (table: Table, other: Table): string =>
    table.columns
      .filter((column) => columnOf(other, column.id))
      .map((column) => column.id)
      .join()
  if (common(before, after) !== common(after, before))
    say('changed', `The columns of ${after.name} stand in another order.`)
  compareKeys(before, after, say)
  compareForeignKeys(from, to, before, after, say)
  compareRules(before, after, say)
  return changes
}

type Say = (kind: ChangeKind, sentence: string) => void

function columnWords(design: Design, table: Table, column: Column): string {
  const words = [typeText(column.type, design.enums), column.required ? 'required' : 'may be empty']
  if (column.default)
    words.push(
      column.default.kind === 'generated'
        ? 'generated'
        : `default ${defaultText(column.default, column.type)}`
    )
  if (column.computed !== undefined) words.push(`computed ${showExpression(column.computed, table.columns)}`)
  return words.join(', ')
}

function compareColumn(
  { before, after, from, to }: { before: Table; after: Table; from: Design; to: Design },
  old: Column,
  column: Column,
  say: Say
): void {
  const place = `${after.name}.${column.name}`
  if (old.name !== column.name) say('renamed', `${after.name}.${old.name} is renamed to ${column.name}.`)
  if (!sameType(old.type, column.type))
    say(
      'changed',
      `${place} changes from ${typeText(old.type, from.enums)} to ${typeText(column.type, to.enums)}.`
    )
  if (old.required !== column.required)
    say('changed', `${place} ${column.required ? 'becomes required' : 'may now be empty'}.`)
  const was = defaultText(old.default, old.type)
  const now = defaultText(column.default, column.type)
  if (was !== now)
    say(
      'changed',
      now === ''
        ? `${place} no longer has the default ${was}.`
        : `${place} ${now === 'generated' ? 'is generated' : `has the default ${now}`}${was ? `, before it was ${was}` : ''}.`
    )
  const worked = (table: Table, expression: string | undefined): string =>
    expression === undefined ? '' : showExpression(expression, table.columns)
  if (old.computed !== column.computed)
    say(
      'changed',
      column.computed === undefined
        ? `${place} is no longer computed.`
        : `${place} is computed: ${worked(after, column.computed)}${old.computed === undefined ? '' : `, before it was ${worked(before, old.computed)}`}.`
    )
  if (JSON.stringify(old.copied) !== JSON.stringify(column.copied))
    say(
      'changed',
      column.copied ? `${place} is copied from what it refers to.` : `${place} is no longer copied.`
    )
  if (old.note !== column.note) say('changed', `The note of ${place} changes.`)
}

/** Checks, indexes and row policies. */
function compareRules(before: Table, after: Table, say: Say): void {
  const differ = <T extends { id: string }>(
    what: string,
    old: readonly T[],
    now: readonly T[],
    words: (table: Table, each: T) => string
  ): void => {
    for (const each of now) {
      const was = old.find((other) => other.id === each.id)
      if (!was) say('added', `${after.name} gets ${what}: ${words(after, each)}.`)
      else if (JSON.stringify(was) !== JSON.stringify(each))
        say(
          'changed',
          `${after.name} has another ${what.replace(/^an? /, '')}: ${words(after, each)}, before it was ${words(before, was)}.`
        )
    }
    for (const each of old)
      if (!now.some((other) => other.id === each.id))
        say('removed', `${after.name} loses ${what}: ${words(before, each)}.`)
  }
  const columns = (table: Table, ids: readonly string[]): string =>
    columnsIn(table, ids)
      .map((column) => column.name)
      .join(', ')
  differ('a check', before.checks, after.checks, (table, each) =>
    showExpression(each.condition, table.columns)
  )
  differ(
    'an index',
    before.indexes,
    after.indexes,
    (table, each) =>
      `${columns(
        table,
        each.columns.map(({ column }) => column)
      )}${each.unique ? ', unique' : ''}${each.where === undefined ? '' : ` where ${showExpression(each.where, table.columns)}`}`
  )
  differ(
    'a row policy',
    before.rowPolicies,
    after.rowPolicies,
    (table, each) => `${each.name}, ${showExpression(each.condition, table.columns)}`
  )
}

const keyNames = (table: Table, key: Key | undefined): string =>
  columnsIn(table, key?.columns ?? [])
    .map((column) => column.name)
    .join(', ')

function compareKeys(before: Table, after: Table, say: Say): void {
  const old = before.primaryKey
  const key = after.primaryKey
  if (old?.columns.join() !== key?.columns.join()) {
    if (!key) say('removed', `${after.name} loses its primary key (${keyNames(before, old)}).`)
    else if (!old) say('added', `${after.name} gets the primary key (${keyNames(after, key)}).`)
    else
      say(
        'changed',
        `The primary key of ${after.name} changes from (${keyNames(before, old)}) to (${keyNames(after, key)}).`
      )
  }
  for (const unique of after.uniques) {
    const was = before.uniques.find((each) => each.id === unique.id)
    if (!was || !sameSet(was.columns, unique.columns))
      say('added', `${keyNames(after, unique)} is unique in ${after.name}.`)
  }
  for (const unique of before.uniques) {
    if (
      !after.uniques.some((each) => each.id === unique.id) &&
      !(after.primaryKey && sameSet(after.primaryKey.columns, unique.columns))
    )
      say('removed', `${keyNames(before, unique)} need no longer be unique in ${after.name}.`)
  }
}

function compareForeignKeys(from: Design, to: Design, before: Table, after: Table, say: Say): void {
  const parent = (design: Design, foreignKey: ForeignKey): string =>
    tableOf(design, foreignKey.table)?.name ?? 'a table'
  for (const foreignKey of after.foreignKeys) {
    const old = before.foreignKeys.find((each) => each.id === foreignKey.id)
    const names = columnsIn(
      after,
      foreignKey.pairs.map((pair) => pair.column)
    )
      .map((column) => column.name)
      .join(', ')
    if (!old)
      say(
        'added',
        `${after.name} refers to ${parent(to, foreignKey)} by ${names} (on delete ${foreignKey.onDelete}).`
      )
    else {
      if (old.onDelete !== foreignKey.onDelete)
        say(
          'changed',
          `Deleting ${parent(to, foreignKey)}, for ${after.name}: ${old.onDelete} becomes ${foreignKey.onDelete}.`
        )
      if (old.onUpdate !== foreignKey.onUpdate)
        say(
          'changed',
          `Changing the key of ${parent(to, foreignKey)}, for ${after.name}: ${old.onUpdate} becomes ${foreignKey.onUpdate}.`
        )
      if (old.table !== foreignKey.table || JSON.stringify(old.pairs) !== JSON.stringify(foreignKey.pairs))
        say('changed', `${after.name} now refers to ${parent(to, foreignKey)} by ${names}.`)
    }
  }
  for (const foreignKey of before.foreignKeys) {
    if (!after.foreignKeys.some((each) => each.id === foreignKey.id))
      say('removed', `${after.name} no longer refers to ${parent(from, foreignKey)}.`)
  }
}
