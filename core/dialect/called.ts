import { byId } from '../design/by-id.ts'
import type { Design, Table } from '../design/model.ts'
import type { Remark } from './remark.ts'
import { NameGiver } from '../naming/fit.ts'
import { qualify } from './qualified.ts'
import type { Speech } from './speech.ts'

/** What tables, schemas and lists of values are called in a dialect, by their ids. */
export interface DialectNames {
  tableNames: ReadonlyMap<string, string>
  /** Of the schemas that are made; the dialect's own is not. */
  schemaNames: ReadonlyMap<string, string>
  enumNames: ReadonlyMap<string, string>
  /** Has given these names and no other. */
  names: NameGiver
  remarks: readonly Remark[]
}

const last = new WeakMap<Speech, { design: Design; called: DialectNames }>()

/** Worked out again only where one of them is called otherwise: most edits are about something else. */
export function calledIn(design: Design, speech: Speech): DialectNames {
  const before = last.get(speech)
  const called = before && calledAlike(before.design, design) ? before.called : callAll(design, speech)
  last.set(speech, { design, called })
  return called
}

function calledAlike(one: Design, other: Design): boolean {
  const alike = (table: Table, its: Table): boolean =>
    table === its || (table.id === its.id && table.name === its.name && table.schema === its.schema)
  return (
    one.schemas === other.schemas &&
    one.enums === other.enums &&
    one.tables.length === other.tables.length &&
    one.tables.every((table, at) => alike(table, other.tables[at] as Table))
  )
}

function callAll(design: Design, { facts, enumTypes }: Speech): DialectNames {
  const { title, nameLimit, refusedInNames, kept } = facts
  const names = new NameGiver(nameLimit, refusedInNames)
  const schemas = new NameGiver(nameLimit, refusedInNames)
  const remarks: Remark[] = []
  const others = facts.schemas ? design.schemas.filter((each) => each.name !== facts.ownSchema) : []
  const schemaNames = new Map(
    others.map((each) => [each.id, schemas.give(each.name, { kept: kept?.schema })])
  )
  const sayKept = (kind: string, name: string, written: string | undefined): void => {
    remarks.push({
      message: `${title} keeps the name ${name} for itself: the ${kind} is written as ${written}.`
    })
  }
  for (const { id, name } of others)
    if (kept?.schema?.test(name)) sayKept('schema', name, schemaNames.get(id))
  const give = (table: Table, wanted: string, schema?: string): string => {
    const name = names.give(wanted, { schema, kept: kept?.table })
    if (name !== names.spell(wanted, kept?.table))
      remarks.push({
        table: table.id,
        message: `Another table is called ${wanted} in ${title}: ${table.name} is written as ${name}.`
      })
    return name
  }
  const nameOf = (table: Table): string => {
    const schema = table.schema === undefined ? undefined : byId(design.schemas).get(table.schema)
    const called = schema && schemaNames.get(schema.id)
    if (called !== undefined) return qualify(called, give(table, table.name, called))
    if (!schema || facts.schemas) return give(table, table.name)
    // In a dialect without schemas the schema's name goes before the table's.
    const joined = `${schema.name}_${table.name}`
    remarks.push({
      table: table.id,
      message: `${title} has no schemas here: ${schema.name}.${table.name} is written as ${joined}.`
    })
    return give(table, joined)
  }
  const tableNames = new Map(design.tables.map((table) => [table.id, nameOf(table)]))
  const enumNames = new Map(
    enumTypes ? design.enums.map((each) => [each.id, names.give(each.name, { kept: kept?.list })]) : []
  )
  for (const { id, name } of enumTypes ? design.enums : [])
    if (kept?.list?.test(name)) sayKept('list of values', name, enumNames.get(id))
  return { tableNames, schemaNames, enumNames, names, remarks }
}
