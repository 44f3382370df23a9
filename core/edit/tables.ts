import { columnOf, keysOf, referencesTo } from '../design/lookup.ts'
import { flawOfColumn, flawOfForeignKey, flawsOfExtras } from '../design/integrity.ts'
import { fits } from '../design/value.ts'
import type { Design, Row, Table } from '../design/model.ts'
import { checkColumnName, checkName, checkNewIds, checkTableName, idsOf, insertedAt, listed, needColumn, needTable, sentence, withTable, withoutAt, type Handler } from './handler.ts'
import { Refused } from './refusal.ts'

export const renameDesign: Handler<'design.rename'> = (design, { name }) => {
  checkName(name, {})
  return { design: { ...design, name }, inverse: { kind: 'design.rename', name: design.name }, touched: [] }
}

export const addTable: Handler<'table.add'> = (design, { table, at, position }) => {
  checkTableName(design, table.name, undefined, table.schema)
  checkNewIds(design, idsOf(table))
  checkParts(design, table)
  const positions = position ? { ...design.positions, [table.id]: position } : design.positions
  const next: Design = { ...design, tables: insertedAt(design.tables, table, at), positions }
  const flaws = [
    ...(table.schema !== undefined && !design.schemas.some((each) => each.id === table.schema) ? [`${table.name} stands in a schema that is not there`] : []),
    ...table.foreignKeys.map((foreignKey) => flawOfForeignKey(next, table, foreignKey)),
    ...table.columns.map((column) => flawOfColumn(next, table, column)),
    ...flawsOfExtras(next, table, [], () => undefined).map((flaw) => flaw.message)
  ]
  const flaw = flaws.find((each) => each !== undefined)
  if (flaw) throw new Refused('invalid', `${sentence(flaw)}${flaw.endsWith('.') ? '' : '.'}`, { table: table.id })
  return { design: next, inverse: { kind: 'table.remove', table: table.id }, touched: [table.id] }
}

/** A table that arrives whole must hold together by itself. */
function checkParts(design: Design, table: Table): void {
  table.columns.forEach((column) => checkColumnName(table, column.name, column.id))
  const keys = keysOf(table)
  for (const key of keys) {
    const columns = key.columns.map((id) => needColumn(table, id))
    if (new Set(key.columns).size < key.columns.length) throw new Refused('invalid', `A key of ${table.name} names a column twice.`, { table: table.id })
    const open = key === table.primaryKey && columns.find((column) => !column.required)
    if (open) throw new Refused('key-column', `${open.name} is in the primary key and must be required.`, { table: table.id, column: open.id })
  }
  checkRows(design, table, table.rows)
}

export const renameTable: Handler<'table.rename'> = (design, { table: id, name }) => {
  const table = needTable(design, id)
  checkTableName(design, name, id, table.schema)
  return { design: withTable(design, id, (t) => ({ ...t, name })), inverse: { kind: 'table.rename', table: id, name: table.name }, touched: [id] }
}

export const annotateTable: Handler<'table.annotate'> = (design, { table: id, note }) => {
  const table = needTable(design, id)
  const next = withTable(design, id, (t) => ({ ...t, note: note === '' ? undefined : note }))
  return { design: next, inverse: { kind: 'table.annotate', table: id, note: table.note ?? '' }, touched: [id] }
}

export const removeTable: Handler<'table.remove'> = (design, { table: id }) => {
  const table = needTable(design, id)
  const references = referencesTo(design, id).filter((reference) => reference.table.id !== id)
  if (references.length > 0) {
    const names = listed([...new Set(references.map((reference) => reference.table.name))])
    throw new Refused('in-use', `${table.name} is referred to by ${names}. Its relationships must go before it can.`, { table: id }, [{
      label: `Remove ${table.name} and ${references.length === 1 ? 'the relationship' : `the ${references.length} relationships`} to it`,
      operation: {
        kind: 'batch',
        label: `remove ${table.name} and the relationships to it`,
        operations: [
          ...references.map(({ table: from, foreignKey }) => ({ kind: 'foreignKey.remove' as const, table: from.id, foreignKey: foreignKey.id })),
          { kind: 'table.remove', table: id }
        ]
      }
    }])
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

export const moveTable: Handler<'table.move'> = (design, { table: id, to }) => {
  const table = needTable(design, id)
  const from = design.tables.indexOf(table)
  return { design: { ...design, tables: insertedAt(withoutAt(design.tables, from), table, Math.min(to, design.tables.length - 1)) }, inverse: { kind: 'table.move', table: id, to: from }, touched: [id] }
}

export const placeTable: Handler<'table.place'> = (design, { table: id, position }) => {
  needTable(design, id)
  const { [id]: before, ...rest } = design.positions
  const positions = position ? { ...design.positions, [id]: position } : rest
  return { design: { ...design, positions }, inverse: { kind: 'table.place', table: id, position: before ?? null }, touched: [id] }
}

export const setRows: Handler<'table.setRows'> = (design, { table: id, rows }) => {
  const table = needTable(design, id)
  checkRows(design, table, rows)
  return { design: withTable(design, id, (t) => ({ ...t, rows })), inverse: { kind: 'table.setRows', table: id, rows: table.rows }, touched: [id] }
}

function checkRows(design: Design, table: Table, rows: readonly Row[]): void {
  rows.forEach((row, at) => {
    for (const [id, value] of Object.entries(row)) {
      const column = columnOf(table, id)
      if (!column) throw new Refused('missing', `Row ${at + 1} of ${table.name} has a value for a column that is not there.`, { table: table.id })
      if (column.computed !== undefined && value !== null) throw new Refused('does-not-fit', `Row ${at + 1} of ${table.name}: ${column.name} is computed, so no value can be put there.`, { table: table.id, column: id })
      if (!fits(value, column.type, design.enums)) throw new Refused('does-not-fit', `Row ${at + 1} of ${table.name}: ${JSON.stringify(value)} does not fit ${column.name}.`, { table: table.id, column: id })
    }
  })
}

export const addCarry: Handler<'carry.add'> = (design, { carry }) => {
  checkNewIds(design, [carry.id])
  return { design: { ...design, carries: [...design.carries, carry] }, inverse: { kind: 'carry.remove', carry: carry.id }, touched: [] }
}

export const removeCarry: Handler<'carry.remove'> = (design, { carry: id }) => {
  const at = design.carries.findIndex((carry) => carry.id === id)
  const carry = design.carries[at]
  if (!carry) throw new Refused('missing', 'That carry is no longer in the design.')
  if (at < design.carries.length - 1) {
    // A carry is undone in its turn; taken out of the middle, those after it are put back behind it.
    const after = design.carries.slice(at + 1)
    return {
      design: { ...design, carries: withoutAt(design.carries, at) },
      inverse: { kind: 'batch', operations: [...after.map((each) => ({ kind: 'carry.remove' as const, carry: each.id })).reverse(), { kind: 'carry.add', carry }, ...after.map((each) => ({ kind: 'carry.add' as const, carry: each }))] },
      touched: []
    }
  }
  return { design: { ...design, carries: withoutAt(design.carries, at) }, inverse: { kind: 'carry.add', carry }, touched: [] }
}
