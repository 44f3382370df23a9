import { z } from 'zod'
import { fullName, nameInCode, referencesTo, tableOf } from '../design/directory.ts'
import { figuresOf, type StandingFigure } from '../design/figure.ts'
import type { Column, Design, ForeignKey, Table } from '../design/model.ts'
import { typeSchema, type Type } from '../design/type.ts'
import { plural, singular } from '../naming/words.ts'
import { accessorNames } from '../relate/accessors.ts'
import { isJunction, junctionSides } from '../relate/junction.ts'
import { cardinalitySentences, isSingle, readingOf } from '../relate/reading.ts'
import { FreeNames, identifier, saysSame, type Tongue } from './code-names.ts'

const text = z.string()

/** What sets a field where the application says nothing: the engine counts it, fills it or works it out. */
const givenSchema = z.enum(['generated', 'default', 'computed', 'copied', 'renewed'])

const fieldSchema = z.strictObject({
  id: text,
  /** What it is called in code, and in the database. */
  name: text,
  column: text,
  type: typeSchema,
  /** The list whose values it holds, by its name in code. */
  list: text.optional(),
  /** Whether it may be empty. */
  optional: z.boolean(),
  given: givenSchema.optional(),
  /** The entity whose key it holds a part of, and which field of that. */
  refersTo: z.strictObject({ entity: text, field: text }).optional(),
  /** Whose key's values it holds, its own or, along the references, that of another in the end. */
  keyOf: z.strictObject({ entity: text, field: text }).optional(),
  note: text.optional()
})
export type Field = z.infer<typeof fieldSchema>

/** One end of a relationship: what it is called from here, and how many there are. */
const endSchema = z.strictObject({
  /** The reference's id: both ends have the same. */
  reference: text,
  name: text,
  to: text,
  /** Whether the columns that refer stand here. */
  holds: z.boolean(),
  many: z.boolean(),
  /** Of one: whether there may be none. */
  optional: z.boolean(),
  /** Fields here, and those of the other that hold the same. */
  on: z.array(z.strictObject({ own: text, its: text })),
  /** The relationship, read from here. */
  says: text
})
export type End = z.infer<typeof endSchema>

/** Many of another entity by way of a junction. */
const acrossSchema = z.strictObject({
  name: text,
  to: text,
  through: text,
  /** The end here that leads to the junction's rows, and the junction's end that leads on. */
  by: text,
  on: text,
  /** The two references. */
  near: text,
  far: text
})
export type Across = z.infer<typeof acrossSchema>

/** What a row says over those that refer to it. */
const figureSchema = z.strictObject({ name: text, says: text, type: typeSchema })

const entitySchema = z.strictObject({
  id: text,
  /** What a row is called in code, one and several; and the type of it. */
  one: text,
  many: text,
  type: text,
  /** The table's name in the database, with its schema. */
  table: text,
  schema: text.optional(),
  is: z.enum(['table', 'junction', 'external']),
  /** Of a junction: whether its rows hold more than which rows belong together. */
  hasOwn: z.boolean(),
  note: text.optional(),
  key: z.array(text),
  /** Fields of which no two rows hold the same together. */
  uniques: z.array(z.array(text)),
  fields: z.array(fieldSchema),
  ends: z.array(endSchema),
  across: z.array(acrossSchema),
  figures: z.array(figureSchema)
})
export type Entity = z.infer<typeof entitySchema>

const listSchema = z.strictObject({ id: text, type: text, name: text, values: z.array(text) })
export type List = z.infer<typeof listSchema>

/**
 * What an application has to know of a design, with every name as it is called in code: what all definitions for
 * applications are written from. `docs/shape.schema.json` is made from this schema.
 */
export const shapeSchema = z.strictObject({
  design: text,
  /** Which version of it: `version 3`, or `version 3 and what was changed since`. */
  version: text.optional(),
  entities: z.array(entitySchema),
  lists: z.array(listSchema),
  /** What is called otherwise in code than in the database by more than its letter case, and why. */
  remarks: z.array(text)
})
export type Shape = z.infer<typeof shapeSchema>

/** What stands behind a type's name for what else is declared of its entity; all of them are kept free. */
export const BESIDE_TYPE = ['New', 'Change', 'Links', 'With', 'Key', 'Id'] as const

/**
 * The shape of a design, its names as they are written in a language's code.
 * @param version which state of the design it is, in words.
 */
export function shapeOf(design: Design, tongue: Tongue, version?: string): Shape {
  const names = namesIn(design, tongue)
  const entities = withKeys(design.tables.map((table) => entityOf(design, table, names)))
  const lists = design.enums.map(({ id, name, values }): List => ({
    id,
    type: names.lists.get(id) ?? '',
    name,
    values: [...values]
  }))
  const made = { design: design.name, ...(version !== undefined && { version }) }
  return { ...made, entities, lists, remarks: names.remarks }
}

interface TableNames {
  type: string
  one: string
  many: string
  fields: ReadonlyMap<string, string>
  /** What an end is called, by `child` or `parent` and the reference, and what is across a junction. */
  ends: ReadonlyMap<string, string>
}
interface Names {
  tables: ReadonlyMap<string, TableNames>
  lists: ReadonlyMap<string, string>
  remarks: string[]
}

function namesIn(design: Design, tongue: Tongue): Names {
  const remarks: string[] = []
  const types = new FreeNames(tongue.foldsTypes)
  const beside = (name: string): string[] =>
    BESIDE_TYPE.flatMap((word) => [`${name}${word}`, `${word}${name}`])
  const [ones, manys] = [new FreeNames(), new FreeNames()]
  const tables = new Map(
    design.tables.map((table, at): [string, TableNames] => {
      const instead = `table ${at + 1}`
      const one = singular(nameInCode(design, table))
      const type = types.give(identifier(one, tongue.types, tongue, instead), beside)
      if (!saysSame(type, one)) remarks.push(`${fullName(design, table)} is called ${type} in code.`)
      return [
        table.id,
        {
          type,
          one: ones.give(identifier(one, tongue.fields, tongue, instead)),
          many: manys.give(identifier(plural(one), tongue.fields, tongue, `rows of ${instead}`)),
          ...membersOf(design, table, type, tongue, (of, name) =>
            remarks.push(`${of} of ${fullName(design, table)} is called ${name} in code.`)
          )
        }
      ]
    })
  )
  const lists = new Map(
    design.enums.map(({ id, name }, at): [string, string] => {
      const type = types.give(identifier(name, tongue.types, tongue, `list ${at + 1}`), beside)
      if (!saysSame(type, name)) remarks.push(`The list ${name} is called ${type} in code.`)
      return [id, type]
    })
  )
  return { tables, lists, remarks }
}

/** What a row's fields are called, what it leads to, and what its figures are; no two are called the same. */
function membersOf(
  design: Design,
  table: Table,
  type: string,
  anyTongue: Tongue,
  remark: (of: string, name: string) => void
): Pick<TableNames, 'fields' | 'ends'> {
  const tongue = table.primaryKey ? anyTongue : withoutKey(anyTongue)
  const free = new FreeNames()
  if (tongue.membersNotAsType) free.give(type)
  const call = (name: string, instead: string): string =>
    free.give(identifier(name, tongue.fields, tongue, instead))
  const fields = new Map<string, string>()
  for (const [at, column] of table.columns.entries()) {
    const { id } = column
    const name = nameInCode(design, column)
    const given = call(name, `column ${at + 1}`)
    if (!saysSame(given, name)) remark(column.name, given)
    fields.set(id, given)
  }
  const ends = new Map<string, string>()
  for (const [at, key] of table.foreignKeys.entries())
    ends.set(`child ${key.id}`, call(accessorNames(design, table, key).child, `one ${at + 1}`))
  for (const [at, { table: child, foreignKey }] of referencesTo(design, table.id).entries())
    ends.set(
      `parent ${foreignKey.id}`,
      call(accessorNames(design, child, foreignKey).parent, `rows ${at + 1}`)
    )
  for (const [at, { figure }] of figuresOf(design, table).entries())
    ends.set(`figure ${figure.id}`, call(figure.name, `figure ${at + 1}`))
  for (const [at, { junction, near, far }] of waysAcross(design, table).entries()) {
    const beyond = plural(accessorNames(design, junction, far).child)
    const isTaken = free.has(identifier(beyond, tongue.fields, tongue, ''))
    const name = isTaken ? `${beyond} by ${singular(nameInCode(design, junction))}` : beyond
    ends.set(`across ${near.id} ${far.id}`, call(name, `others ${at + 1}`))
  }
  return { fields, ends }
}

const withoutKey = (tongue: Tongue): Tongue => ({
  ...tongue,
  reserved: new Set([...tongue.reserved, ...(tongue.reservedWithoutKey ?? [])])
})

/** From a table through each junction to each of its other sides. */
function waysAcross(design: Design, table: Table): { junction: Table; near: ForeignKey; far: ForeignKey }[] {
  return referencesTo(design, table.id).flatMap(({ table: junction, foreignKey: near }) => {
    const sides = junctionSides(junction)
    if (!sides.includes(near)) return []
    const others = sides.filter((side) => side !== near && tableOf(design, side.table))
    return others.map((far) => ({ junction, near, far }))
  })
}

function entityOf(design: Design, table: Table, names: Names): Entity {
  const own = names.tables.get(table.id) as TableNames
  const fieldOf = (id: string): string => own.fields.get(id) ?? ''
  const schema = design.schemas.find(({ id }) => id === table.schema)?.name
  return {
    id: table.id,
    one: own.one,
    many: own.many,
    type: own.type,
    table: table.name,
    ...(schema !== undefined && { schema }),
    is: table.external ? 'external' : isJunction(table) ? 'junction' : 'table',
    hasOwn: hasOwn(table),
    ...(table.note && { note: table.note }),
    key: (table.primaryKey?.columns ?? []).map(fieldOf),
    uniques: table.uniques.map(({ columns }) => columns.map(fieldOf)),
    fields: table.columns.map((column) => described(table, column, names)),
    ends: endsOf(design, table, names),
    across: waysAcross(design, table).map(({ junction, near, far }): Across => ({
      name: own.ends.get(`across ${near.id} ${far.id}`) ?? '',
      to: names.tables.get(far.table)?.type ?? '',
      through: names.tables.get(junction.id)?.type ?? '',
      by: own.ends.get(`parent ${near.id}`) ?? '',
      on: names.tables.get(junction.id)?.ends.get(`child ${far.id}`) ?? '',
      near: near.id,
      far: far.id
    })),
    figures: figuresOf(design, table).map((standing) => ({
      name: own.ends.get(`figure ${standing.figure.id}`) ?? '',
      says: sayFigure(standing),
      type: standing.type
    }))
  }
}

function sayFigure({ figure: { measure, where, whereFar }, of, far, column }: StandingFigure): string {
  const over = `its ${plural(of.name)}${where === undefined && whereFar === undefined ? '' : ' that meet a condition'}`
  switch (measure) {
    case 'count':
      return `How many ${over.slice('its '.length)} it has`
    case 'different':
      return `How many different ${plural(far?.table.name ?? of.name)} ${over} lead to`
    case 'sum':
      return `The sum of ${column?.name ?? ''} over ${over}`
    case 'first':
    case 'last':
      return `The ${measure} ${column?.name ?? ''} of ${over}`
  }
}

/** Whether a row holds more than what it refers to, and the number that it is counted by. */
function hasOwn({ columns, foreignKeys }: Table): boolean {
  const refers = new Set(foreignKeys.flatMap(({ pairs }) => pairs.map(({ column }) => column)))
  return columns.some(({ id, default: begins }) => !refers.has(id) && begins?.kind !== 'generated')
}

function described(table: Table, column: Column, names: Names): Field {
  const given = givenTo(column)
  const [reference] = table.foreignKeys.flatMap(({ table: parent, pairs }) =>
    pairs.flatMap((pair) => (pair.column === column.id ? [{ parent, field: pair.refersTo }] : []))
  )
  const parent = reference && names.tables.get(reference.parent)
  const isKey = table.primaryKey?.columns.includes(column.id) ?? false
  return {
    id: column.id,
    name: names.tables.get(table.id)?.fields.get(column.id) ?? '',
    column: column.name,
    type: column.type,
    ...(column.type.kind === 'enum' && { list: names.lists.get(column.type.enum) ?? '' }),
    optional: !column.required && !isKey,
    ...(given && { given }),
    ...(parent && { refersTo: { entity: parent.type, field: parent.fields.get(reference.field) ?? '' } }),
    ...(column.note && { note: column.note })
  }
}

function givenTo(column: Column): Field['given'] {
  if (column.computed !== undefined) return 'computed'
  if (column.renewed) return 'renewed'
  if (column.copied) return 'copied'
  if (column.default) return column.default.kind === 'generated' ? 'generated' : 'default'
  return undefined
}

function endsOf(design: Design, table: Table, names: Names): End[] {
  const ones = table.foreignKeys.flatMap((key) => {
    const parent = tableOf(design, key.table)
    return parent ? [endOf('child', table, parent, key, names)] : []
  })
  const manys = referencesTo(design, table.id).map(({ table: child, foreignKey }) =>
    endOf('parent', child, table, foreignKey, names)
  )
  return [...ones, ...manys]
}

/** The end of a relationship that one of its sides sees. */
function endOf(side: 'child' | 'parent', child: Table, parent: Table, key: ForeignKey, names: Names): End {
  const holds = side === 'child'
  const [here, there] = holds ? [child, parent] : [parent, child]
  const [own, other] = [names.tables.get(here.id), names.tables.get(there.id)]
  const reading = readingOf(child, key)
  const { before, choice, after } = cardinalitySentences(child, parent, reading)[side]
  return {
    reference: key.id,
    name: own?.ends.get(`${side} ${key.id}`) ?? '',
    to: other?.type ?? '',
    holds,
    many: !holds && !isSingle(reading),
    optional: choice !== 'exactly one',
    on: key.pairs.map(({ column, refersTo }) => ({
      own: own?.fields.get(holds ? column : refersTo) ?? '',
      its: other?.fields.get(holds ? refersTo : column) ?? ''
    })),
    says: `${before} ${choice} ${after}`
  }
}

/**
 * The entities with each field told of whose key's values it holds, its own or another's: a key is of one field, or one
 * that something refers to.
 */
function withKeys(entities: readonly Entity[]): Entity[] {
  const fields = new Map(
    entities.flatMap((entity) =>
      entity.fields.map((field) => [placeOf(entity.type, field.name), { entity, field }])
    )
  )
  const keys = new Set(
    entities.flatMap(({ type, key, fields: own }) => [
      ...(key.length === 1 ? key.map((name) => placeOf(type, name)) : []),
      ...own.flatMap(({ refersTo }) => (refersTo ? [placeOf(refersTo.entity, refersTo.field)] : []))
    ])
  )
  /** Where a field's values come from in the end; one that leads in a circle stops where it comes round. */
  const endOf = (place: string): string => {
    const seen = new Set<string>()
    let at = place
    for (;;) {
      const to = fields.get(at)?.field.refersTo
      const next = to && placeOf(to.entity, to.field)
      if (next === undefined || !fields.has(next) || seen.has(at)) return at
      seen.add(at)
      at = next
    }
  }
  return entities.map((entity) => ({
    ...entity,
    fields: entity.fields.map((field) => {
      const end = endOf(placeOf(entity.type, field.name))
      const found = keys.has(end) ? fields.get(end) : undefined
      return found ? { ...field, keyOf: { entity: found.entity.type, field: found.field.name } } : field
    })
  }))
}

const placeOf = (entity: string, field: string): string => `${entity}.${field}`

/** Whether values of a type come as texts of digits, so that none of them is lost. */
export const isDigits = (type: Type): boolean =>
  type.kind === 'decimal' || (type.kind === 'integer' && type.size === 'big')
