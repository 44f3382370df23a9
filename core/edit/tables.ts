import { referencesTo } from '../design/directory.ts'
import { tidyRow, type Design } from '../design/model.ts'
import {
  checkName,
  checkNewIds,
  checkTableName,
  idsOf,
  insertedAt,
  needColumn,
  needTable,
  withTable,
  withoutAt,
  type Handler
} from './handler.ts'
import { listed } from '../design/words.ts'
import { Refused } from './refusal.ts'

export const renameDesign: Handler<'design.rename'> = (design, { name }) => {
  checkName(name, {})
  return { design: { ...design, name }, inverse: { kind: 'design.rename', name: design.name }, touched: [] }
}

export const addTable: Handler<'table.add'> = (design, { table, at, position }) => {
  checkTableName(design, table.name, undefined, table.schema)
  checkNewIds(design, idsOf(table))
  const positions = position ? { ...design.positions, [table.id]: position } : design.positions
  const made = { ...table, rows: table.rows.map(tidyRow) }
  const next: Design = { ...design, tables: insertedAt(design.tables, made, at), positions }
  return { design: next, inverse: { kind: 'table.remove', table: table.id }, touched: [table.id] }
}

export const renameTable: Handler<'table.rename'> = (design, { table: id, name }) => {
  const table = needTable(design, id)
  checkTableName(design, name, id, table.schema)
  return {
    design: withTable(design, id, (t) => ({ ...t, name })),
    inverse: { kind: 'table.rename', table: id, name: table.name },
    touched: [id]
  }
}

export const annotateTable: Handler<'table.annotate'> = (design, { table: id, note }) => {
  const table = needTable(design, id)
  const next = withTable(design, id, (t) => ({ ...t, note: note === '' ? undefined : note }))
  return {
    design: next,
    inverse: { kind: 'table.annotate', table: id, note: table.note ?? '' },
    touched: [id]
  }
}

export const setLabel: Handler<'table.setLabel'> = (design, { table: id, label }) => {
  const table = needTable(design, id)
  label?.forEach((column) => needColumn(table, column))
  if (label && new Set(label).size < label.length)
    throw new Refused('invalid', `A row of ${table.name} is called by each column once.`, { table: id })
  return {
    design: withTable(design, id, ({ label: _, ...rest }) => ({ ...rest, ...(label && { label }) })),
    inverse: { kind: 'table.setLabel', table: id, label: table.label ?? null },
    touched: [id]
  }
}

export const removeTable: Handler<'table.remove'> = (design, { table: id }) => {
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

export const moveTable: Handler<'table.move'> = (design, { table: id, to }) => {
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

export const placeTable: Handler<'table.place'> = (design, { table: id, position }) => {
  needTable(design, id)
  const { [id]: before, ...rest } = design.positions
  const positions = position ? { ...design.positions, [id]: position } : rest
  return {
    design: { ...design, positions },
    inverse: { kind: 'table.place', table: id, position: before ?? null },
    touched: [id]
  }
}

export const setRows: Handler<'table.setRows'> = (design, { table: id, rows }) => {
  const table = needTable(design, id)
  return {
    design: withTable(design, id, (t) => ({ ...t, rows: rows.map(tidyRow) })),
    inverse: { kind: 'table.setRows', table: id, rows: table.rows },
    touched: [id]
  }
}

export const addCarry: Handler<'carry.add'> = (design, { carry }) => {
  checkNewIds(design, [carry.id])
  return {
    design: { ...design, carries: [...design.carries, carry] },
    inverse: { kind: 'carry.remove', carry: carry.id },
    touched: []
  }
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
      inverse: {
        kind: 'batch',
        operations: [
          ...after.map((each) => ({ kind: 'carry.remove' as const, carry: each.id })).reverse(),
          { kind: 'carry.add', carry },
          ...after.map((each) => ({ kind: 'carry.add' as const, carry: each }))
        ]
      },
      touched: []
    }
  }
  return {
    design: { ...design, carries: withoutAt(design.carries, at) },
    inverse: { kind: 'carry.add', carry },
    touched: []
  }
}
