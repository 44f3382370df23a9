import { sortOfType } from '../design/expressions.ts'
import { flawOfExpressions } from '../design/integrity.ts'
import { isInPrimaryKey, keyOf, referencesTo, type Reference } from '../design/directory.ts'
import type { Column, Design, Table } from '../design/model.ts'
import { sameType, shorten, typeText } from '../design/type.ts'
import { fits, type Value } from '../design/value.ts'
import { defaultFits, defaultText, isMoment } from '../design/default.ts'
import {
  checkColumnName,
  checkNewIds,
  insertedAt,
  needColumn,
  needTable,
  withColumn,
  withTable,
  withoutAt,
  type Handler
} from './handler.ts'
import { listed } from '../design/words.ts'
import type { Operation } from './operation.ts'
import { Refused } from './refusal.ts'
import { expressionUses } from './rules.ts'

export const addColumn: Handler<'column.add'> = (design, { table: id, column, at, values }) => {
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

export const renameColumn: Handler<'column.rename'> = (design, { table: id, column: columnId, name }) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  checkColumnName(table, name, columnId)
  return {
    design: withTable(design, id, (t) => withColumn(t, columnId, (c) => ({ ...c, name }))),
    inverse: { kind: 'column.rename', table: id, column: columnId, name: column.name },
    touched: [id]
  }
}

export const annotateColumn: Handler<'column.annotate'> = (design, { table: id, column: columnId, note }) => {
  const column = needColumn(needTable(design, id), columnId)
  return {
    design: withTable(design, id, (t) =>
      withColumn(t, columnId, (c) => ({ ...c, note: note === '' ? undefined : note }))
    ),
    inverse: { kind: 'column.annotate', table: id, column: columnId, note: column.note ?? '' },
    touched: [id]
  }
}

export const retypeColumn: Handler<'column.retype'> = (
  design,
  { table: id, column: columnId, type, follow = true }
) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  const where = { table: id, column: columnId }
  if (follow) {
    const leader = leaderOf(design, table, columnId)
    if (leader && !sameType(leader.column.type, type)) {
      throw new Refused(
        'type-mismatch',
        `${column.name} refers to ${leader.table.name} and has the type of its key, ${typeText(leader.column.type, design.enums)}. Change the type there and it follows.`,
        where,
        [
          {
            label: `Change ${leader.table.name}.${leader.column.name} to ${typeText(type, design.enums)}`,
            operation: { kind: 'column.retype', table: leader.table.id, column: leader.column.id, type }
          }
        ]
      )
    }
    const followers = followersOf(design, table, columnId).filter((each) => !sameType(each.column.type, type))
    if (followers.length > 0) {
      const changes = [{ table, column }, ...followers]
      return {
        instead: changes.map((each): Operation => ({
          kind: 'column.retype',
          table: each.table.id,
          column: each.column.id,
          type,
          follow: false
        }))
      }
    }
  }
  if (type.kind === 'enum' && !design.enums.some((each) => each.id === type.enum))
    throw new Refused('missing', 'That list of values is no longer in the design.', where)
  const said = typeText(type, design.enums)
  checkExpressions(design, table, column, { ...column, type })
  if (!defaultFits(column.default, type, design.enums)) {
    throw new Refused(
      'does-not-fit',
      `The default ${shorten(defaultText(column.default, column.type))} of ${column.name} does not fit ${said}.`,
      where,
      [
        {
          label: `Remove the default and make it ${said}`,
          operation: {
            kind: 'batch',
            label: `make ${column.name} ${said}`,
            operations: [
              { kind: 'column.setDefault', ...where, default: null },
              { kind: 'column.retype', ...where, type }
            ]
          }
        }
      ]
    )
  }
  if (column.renewed && !isMoment(type)) {
    throw new Refused(
      'does-not-fit',
      `${column.name} becomes the present moment with each change of its row, which ${said} does not hold.`,
      where,
      [
        {
          label: `No longer renew it and make it ${said}`,
          operation: {
            kind: 'batch',
            label: `make ${column.name} ${said}`,
            operations: [
              { kind: 'column.renew', ...where, renewed: null },
              { kind: 'column.retype', ...where, type }
            ]
          }
        }
      ]
    )
  }
  const misfit = table.rows.findIndex((row) => !fits(row[columnId] ?? null, type, design.enums))
  if (misfit >= 0) {
    const kept = table.rows.map((row) =>
      fits(row[columnId] ?? null, type, design.enums) ? row : without(row, columnId)
    )
    throw new Refused(
      'does-not-fit',
      `Row ${misfit + 1} of ${table.name} holds ${shorten(JSON.stringify(table.rows[misfit]?.[columnId]))}, which does not fit ${said}.`,
      where,
      [
        {
          label: 'Empty the values that do not fit',
          operation: {
            kind: 'batch',
            label: `make ${column.name} ${said}`,
            operations: [
              { kind: 'table.setRows', table: id, rows: kept },
              { kind: 'column.retype', ...where, type }
            ]
          }
        }
      ]
    )
  }
  return {
    design: withTable(design, id, (t) => withColumn(t, columnId, (c) => ({ ...c, type }))),
    inverse: { kind: 'column.retype', ...where, type: column.type, follow: false },
    touched: [id]
  }
}

interface Place {
  table: Table
  column: Column
}

/** The key column that a foreign key column takes its type from. */
function leaderOf(design: Design, table: Table, columnId: string): Place | undefined {
  for (const foreignKey of table.foreignKeys) {
    const pair = foreignKey.pairs.find((each) => each.column === columnId)
    if (!pair || (foreignKey.table === table.id && pair.refersTo === columnId)) continue
    const parent = needTable(design, foreignKey.table)
    return { table: parent, column: needColumn(parent, pair.refersTo) }
  }
  return undefined
}

/** Every column that takes its type from this one, near and far. */
function followersOf(design: Design, table: Table, columnId: string): Place[] {
  const found = new Map<string, Place>()
  const visit = (from: Table, id: string): void => {
    for (const reference of referencesTo(design, from.id)) {
      const pair = reference.foreignKey.pairs.find((each) => each.refersTo === id)
      if (!pair || pair.column === columnId || found.has(pair.column)) continue
      found.set(pair.column, { table: reference.table, column: needColumn(reference.table, pair.column) })
      visit(reference.table, pair.column)
    }
  }
  visit(table, columnId)
  return [...found.values()]
}

export const requireColumn: Handler<'column.require'> = (
  design,
  { table: id, column: columnId, required }
) => {
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

export const setDefault: Handler<'column.setDefault'> = (
  design,
  { table: id, column: columnId, default: value }
) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  if (value && column.computed !== undefined)
    throw new Refused('invalid', `${column.name} is computed, so it has no default.`, {
      table: id,
      column: columnId
    })
  checkDefault(design, table, { ...column, default: value ?? undefined })
  return {
    design: withTable(design, id, (t) =>
      withColumn(t, columnId, (c) => ({ ...c, default: value ?? undefined }))
    ),
    inverse: { kind: 'column.setDefault', table: id, column: columnId, default: column.default ?? null },
    touched: [id]
  }
}

/** What names the column in an expression must still make sense when it has another type. */
function checkExpressions(design: Design, table: Table, before: Column, after: Column): void {
  if (
    sortOfType(before.type) === sortOfType(after.type) &&
    before.type.kind !== 'enum' &&
    after.type.kind !== 'enum'
  )
    return
  const columns = table.columns.map((column) => (column === before ? after : column))
  const broken = flawOfExpressions(design, { ...table, columns })
  if (!broken) return
  const uses = expressionUses(table, before.id)
  throw new Refused(
    'in-use',
    `${before.name} cannot be ${typeText(after.type, design.enums)} while ${listed(uses.says) || 'it is computed'} says what it does: ${broken}`,
    { table: table.id, column: before.id },
    uses.says.length === 0
      ? []
      : [
          {
            label: `Remove ${listed(uses.says)} and change the type`,
            operation: {
              kind: 'batch',
              label: `make ${before.name} ${typeText(after.type, design.enums)}`,
              operations: [
                ...uses.removals,
                { kind: 'column.retype', table: table.id, column: before.id, type: after.type }
              ]
            }
          }
        ]
  )
}

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

export const moveColumn: Handler<'column.move'> = (design, { table: id, column: columnId, to }) => {
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

export const removeColumn: Handler<'column.remove'> = (design, { table: id, column: columnId }) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  const uses = usesOf(design, table, columnId)
  const named = expressionUses(table, columnId)
  if (uses.length > 0 || named.says.length > 0) {
    const related = uses.map((use) =>
      use.table.id === id
        ? `refers to ${needTable(design, use.foreignKey.table).name}`
        : `is referred to by ${use.table.name}`
    )
    const said = [
      ...(related.length > 0 ? [`it ${listed(related)}`] : []),
      ...(named.says.length > 0
        ? [`${listed(named.says)} ${named.removals.length === 1 ? 'needs' : 'need'} it`]
        : [])
    ]
    const gone = [
      ...(uses.length === 0
        ? []
        : [uses.length === 1 ? 'the relationship' : `the ${uses.length} relationships`]),
      ...named.says
    ]
    throw new Refused(
      'in-use',
      `${column.name} cannot go by itself: ${listed(said)}.`,
      { table: id, column: columnId },
      [
        {
          label: `Remove ${listed([...gone, 'the column'])}`,
          operation: {
            kind: 'batch',
            label:
              uses.length > 0
                ? `remove ${table.name}.${column.name} and its relationships`
                : `remove ${table.name}.${column.name} and what needs it`,
            operations: [
              ...uses.map((use): Operation => ({
                kind: 'foreignKey.remove',
                table: use.table.id,
                foreignKey: use.foreignKey.id
              })),
              ...named.removals,
              { kind: 'column.remove', table: id, column: columnId }
            ]
          }
        }
      ]
    )
  }
  const keys = [
    ...keysWith(table, columnId),
    ...copiesOf(design, table, columnId),
    ...labelWithout(table, columnId)
  ]
  if (keys.length > 0) return { instead: [...keys, { kind: 'column.remove', table: id, column: columnId }] }
  const at = table.columns.findIndex((each) => each.id === columnId)
  const values = table.rows.length > 0 ? table.rows.map((row) => row[columnId]) : undefined
  return {
    design: withTable(design, id, (t) => ({
      ...t,
      columns: withoutAt(t.columns, at),
      rows: t.rows.map((row) => without(row, columnId))
    })),
    inverse: { kind: 'column.add', table: id, column, at, ...(values && { values }) },
    touched: [id]
  }
}

/** The foreign keys that use the column, on either side. */
function usesOf(design: Design, table: Table, columnId: string): Reference[] {
  const own = table.foreignKeys
    .filter((each) => each.pairs.some((pair) => pair.column === columnId))
    .map((foreignKey) => ({ table, foreignKey }))
  const others = referencesTo(design, table.id)
    .filter((reference) => keyOf(table, reference.foreignKey.key)?.columns.includes(columnId))
    .filter((reference) => !own.some((each) => each.foreignKey.id === reference.foreignKey.id))
  return [...own, ...others]
}

/** What takes the column out of the table's keys: a key that it stood in alone goes with it. */
function keysWith(table: Table, columnId: string): Operation[] {
  const operations: Operation[] = []
  const { primaryKey } = table
  if (primaryKey?.columns.includes(columnId)) {
    const columns = primaryKey.columns.filter((each) => each !== columnId)
    operations.push({
      kind: 'key.setPrimary',
      table: table.id,
      key: columns.length > 0 ? { ...primaryKey, columns } : null
    })
  }
  for (const key of table.uniques.filter((each) => each.columns.includes(columnId))) {
    operations.push({ kind: 'unique.remove', table: table.id, key: key.id })
  }
  for (const index of table.indexes.filter((each) =>
    each.columns.some(({ column }) => column === columnId)
  )) {
    operations.push({ kind: 'index.remove', table: table.id, index: index.id })
  }
  return operations
}

/** What leaves the columns that are copied from this one with the values that they have. */
function copiesOf(design: Design, table: Table, columnId: string): Operation[] {
  return referencesTo(design, table.id).flatMap(({ table: from, foreignKey }) =>
    from.columns
      .filter((column) => column.copied?.foreignKey === foreignKey.id && column.copied.column === columnId)
      .map((column): Operation => ({ kind: 'column.copy', table: from.id, column: column.id, copied: null }))
  )
}

/** What rows are called by, without the column. */
function labelWithout({ id, label }: Table, columnId: string): Operation[] {
  if (!label?.includes(columnId)) return []
  const rest = label.filter((each) => each !== columnId)
  return [{ kind: 'table.setLabel', table: id, label: rest.length > 0 ? rest : null }]
}

function without(row: Table['rows'][number], id: string): Table['rows'][number] {
  const { [id]: _, ...rest } = row
  return rest
}
