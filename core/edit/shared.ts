import { flawOfExpressions } from '../design/integrity.ts'
import { fold, fullName } from '../design/directory.ts'
import { SHAPES, type Design, type SetAside, type Table, type Usual } from '../design/model.ts'
import { shorten, type Type } from '../design/type.ts'
import { fits } from '../design/value.ts'
import { defaultFits } from '../design/default.ts'
import {
  checkName,
  checkNewIds,
  checkTableName,
  insertedAt,
  needTable,
  withTable,
  withoutAt,
  type Handler
} from './handler.ts'
import { listed } from '../design/words.ts'
import type { Operation } from './operation.ts'
import { Refused } from './refusal.ts'

/**
 * What all tables of a design share: its naming policy, its dialects, its schemas and its lists of values.
 */

export const setPolicy: Handler<'design.setPolicy'> = (design, { policy }) => ({
  design: { ...design, policy },
  inverse: { kind: 'design.setPolicy', policy: design.policy },
  touched: []
})

export const setStanding: Handler<'design.setStanding'> = (design, { standing }) => {
  const { standing: before, ...bare } = design
  return {
    design: standing === null ? bare : { ...bare, standing },
    inverse: { kind: 'design.setStanding', standing: before ?? null },
    touched: []
  }
}

/** Said in one order, whatever was said first; what says nothing is left out. */
export const setUsual: Handler<'design.setUsual'> = (design, { usual }) => {
  const { usual: before, ...bare } = design
  const shapes = SHAPES.flatMap((shape) => {
    const action = usual?.shapes[shape]
    return action ? [[shape, action]] : []
  })
  const tables = design.tables.flatMap(({ id }) => {
    const action = usual?.tables[id]
    return action ? [[id, action]] : []
  })
  const isNothing = shapes.length === 0 && tables.length === 0
  const next = { shapes: Object.fromEntries(shapes), tables: Object.fromEntries(tables) } as Usual
  return {
    design: isNothing ? bare : { ...design, usual: next },
    inverse: { kind: 'design.setUsual', usual: before ?? null },
    touched: []
  }
}

export const setDialects: Handler<'design.setDialects'> = (design, { dialects }) => ({
  design: { ...design, dialects: [...new Set(dialects)] },
  inverse: { kind: 'design.setDialects', dialects: design.dialects },
  touched: []
})

export const setOldest: Handler<'design.setOldest'> = (design, { dialect, version }) => {
  const others = Object.entries(design.oldest ?? {}).filter(([name]) => name !== dialect)
  const all = version === null ? others : [...others, [dialect, version] as const]
  const { oldest, ...rest } = design
  return {
    design: all.length === 0 ? rest : { ...rest, oldest: Object.fromEntries(all) },
    inverse: { kind: 'design.setOldest', dialect, version: oldest?.[dialect] ?? null },
    touched: []
  }
}

/** They stand in the order of their places, whatever was set aside first. */
export const setAside: Handler<'finding.setAside'> = (design, { rule, table, column, reason }) => {
  needTable(design, table)
  const placeOf = (each: Pick<SetAside, 'rule' | 'table' | 'column'>): string =>
    [each.table, each.column ?? '', each.rule].join(' ')
  const place = placeOf({ rule, table, column })
  const all = design.setAside ?? []
  const before = all.find((each) => placeOf(each) === place)
  const others = all.filter((each) => each !== before)
  const said: SetAside[] = reason === null ? [] : [{ rule, table, ...(column && { column }), reason }]
  const next = [...others, ...said].sort((a, b) => (placeOf(a) < placeOf(b) ? -1 : 1))
  const { setAside: _, ...bare } = design
  return {
    design: next.length === 0 ? bare : { ...bare, setAside: next },
    inverse: { kind: 'finding.setAside', rule, table, column, reason: before?.reason ?? null },
    touched: [table]
  }
}

function checkSharedName(
  list: readonly { id: string; name: string }[],
  name: string,
  what: string,
  self?: string
): void {
  checkName(name, {})
  const other = list.find((each) => each.id !== self && fold(each.name) === fold(name))
  if (other)
    throw new Refused(
      'name-taken',
      `There is already a ${what} called ${shorten(other.name)}. Names must differ in more than letter case.`
    )
}

export const addSchema: Handler<'schema.add'> = (design, { schema, at }) => {
  checkSharedName(design.schemas, schema.name, 'schema')
  checkNewIds(design, [schema.id])
  return {
    design: { ...design, schemas: insertedAt(design.schemas, schema, at) },
    inverse: { kind: 'schema.remove', schema: schema.id },
    touched: []
  }
}

function needSchema(design: Design, id: string): Design['schemas'][number] {
  const schema = design.schemas.find((each) => each.id === id)
  if (!schema) throw new Refused('missing', 'That schema is no longer in the design.')
  return schema
}

export const renameSchema: Handler<'schema.rename'> = (design, { schema: id, name }) => {
  const schema = needSchema(design, id)
  checkSharedName(design.schemas, name, 'schema', id)
  const next = {
    ...design,
    schemas: design.schemas.map((each) => (each.id === id ? { ...each, name } : each))
  }
  const inside = design.tables.filter((table) => table.schema === id)
  const other = new Set(
    design.tables.filter((table) => table.schema !== id).map((table) => fold(fullName(next, table)))
  )
  const doubled = inside.find((table) => other.has(fold(fullName(next, table))))
  if (doubled)
    throw new Refused('name-taken', `There is already a table called ${shorten(fullName(next, doubled))}.`, {
      table: doubled.id
    })
  return {
    design: next,
    inverse: { kind: 'schema.rename', schema: id, name: schema.name },
    touched: inside.map((table) => table.id)
  }
}

export const removeSchema: Handler<'schema.remove'> = (design, { schema: id }) => {
  const schema = needSchema(design, id)
  const inside = design.tables.filter((table) => table.schema === id)
  if (inside.length > 0) {
    throw new Refused(
      'in-use',
      `${listed(inside.slice(0, 4).map((table) => table.name))} ${inside.length === 1 ? 'stands' : 'stand'} in ${schema.name}.`,
      {},
      [
        {
          label: `Take ${inside.length === 1 ? 'the table' : `the ${inside.length} tables`} out of ${schema.name} and remove it`,
          operation: {
            kind: 'batch',
            label: `remove the schema ${schema.name}`,
            operations: [
              ...inside.map((table): Operation => ({
                kind: 'table.setSchema',
                table: table.id,
                schema: null
              })),
              { kind: 'schema.remove', schema: id }
            ]
          }
        }
      ]
    )
  }
  const at = design.schemas.indexOf(schema)
  return {
    design: { ...design, schemas: withoutAt(design.schemas, at) },
    inverse: { kind: 'schema.add', schema, at },
    touched: []
  }
}

export const setSchema: Handler<'table.setSchema'> = (design, { table: id, schema }) => {
  const table = needTable(design, id)
  if (schema !== null) needSchema(design, schema)
  checkTableName(design, table.name, id, schema ?? undefined)
  return {
    design: withTable(design, id, (t) => ({ ...t, schema: schema ?? undefined })),
    inverse: { kind: 'table.setSchema', table: id, schema: table.schema ?? null },
    touched: [id]
  }
}

export const setExternal: Handler<'table.setExternal'> = (design, { table: id, external }) => {
  const table = needTable(design, id)
  return {
    design: withTable(design, id, (t) => ({ ...t, external: external ? true : undefined })),
    inverse: { kind: 'table.setExternal', table: id, external: table.external ?? false },
    touched: [id]
  }
}

export const addEnum: Handler<'enum.add'> = (design, { enum: list, at }) => {
  checkSharedName(design.enums, list.name, 'list of values')
  checkNewIds(design, [list.id])
  checkValues(list.values)
  return {
    design: { ...design, enums: insertedAt(design.enums, list, at) },
    inverse: { kind: 'enum.remove', enum: list.id },
    touched: []
  }
}

function checkValues(values: readonly string[]): void {
  const twice = values.find((value, at) => values.indexOf(value) < at)
  if (twice !== undefined) throw new Refused('invalid', `${shorten(twice)} is in the list twice.`)
}

function needEnum(design: Design, id: string): Design['enums'][number] {
  const list = design.enums.find((each) => each.id === id)
  if (!list) throw new Refused('missing', 'That list of values is no longer in the design.')
  return list
}

const usesEnum = (type: Type, id: string): boolean => type.kind === 'enum' && type.enum === id
const tablesWith = (design: Design, id: string): Table[] =>
  design.tables.filter((table) => table.columns.some((column) => usesEnum(column.type, id)))

export const changeEnum: Handler<'enum.change'> = (design, { enum: list }) => {
  const before = needEnum(design, list.id)
  checkSharedName(design.enums, list.name, 'list of values', list.id)
  checkValues(list.values)
  const next: Design = { ...design, enums: design.enums.map((each) => (each.id === list.id ? list : each)) }
  for (const table of tablesWith(design, list.id)) {
    for (const column of table.columns.filter((each) => usesEnum(each.type, list.id))) {
      const where = { table: table.id, column: column.id }
      const row = table.rows.findIndex((each) => !fits(each[column.id] ?? null, column.type, next.enums))
      if (row >= 0)
        throw new Refused(
          'does-not-fit',
          `Row ${row + 1} of ${table.name} holds ${shorten(JSON.stringify(table.rows[row]?.[column.id]))} in ${column.name}, so it must stay in the list.`,
          where
        )
      if (!defaultFits(column.default, column.type, next.enums))
        throw new Refused(
          'does-not-fit',
          `${table.name}.${column.name} has a default that is no longer in the list.`,
          where
        )
    }
    const flaw = flawOfExpressions(next, table)
    if (flaw)
      throw new Refused(
        'does-not-fit',
        `${table.name} has a condition that needs a value which is no longer in the list: ${flaw}`,
        { table: table.id }
      )
  }
  return {
    design: next,
    inverse: { kind: 'enum.change', enum: before },
    touched: tablesWith(design, list.id).map((table) => table.id)
  }
}

export const removeEnum: Handler<'enum.remove'> = (design, { enum: id }) => {
  const list = needEnum(design, id)
  const users = tablesWith(design, id)
  if (users.length > 0) {
    const length = Math.max(...list.values.map((value) => [...value].length))
    const retypes = users.flatMap((table) =>
      table.columns
        .filter((column) => usesEnum(column.type, id))
        .map((column): Operation => ({
          kind: 'column.retype',
          table: table.id,
          column: column.id,
          type: { kind: 'text', length }
        }))
    )
    throw new Refused(
      'in-use',
      `${listed(users.slice(0, 4).map((table) => table.name))} ${users.length === 1 ? 'has' : 'have'} a column of ${list.name}.`,
      {},
      [
        {
          label: `Make ${retypes.length === 1 ? 'that column' : `those ${retypes.length} columns`} text(${length}) and remove the list`,
          operation: {
            kind: 'batch',
            label: `remove the list of values ${list.name}`,
            operations: [...retypes, { kind: 'enum.remove', enum: id }]
          }
        }
      ]
    )
  }
  const at = design.enums.indexOf(list)
  return {
    design: { ...design, enums: withoutAt(design.enums, at) },
    inverse: { kind: 'enum.add', enum: list, at },
    touched: []
  }
}
