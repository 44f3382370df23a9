import type { Design, Table } from '../design/model.ts'
import type { Remark } from './dialect.ts'
import { NameGiver } from './names.ts'
import { qualify } from './qualified.ts'
import type { Speech } from './speech.ts'

/** What tables, schemas and lists of values are called in a dialect, by their ids. */
export interface Called {
  tableNames: ReadonlyMap<string, string>
  schemaNames: ReadonlyMap<string, string>
  enumNames: ReadonlyMap<string, string>
  /** Has given these names and no other. */
  names: NameGiver
  remarks: readonly Remark[]
}

const last = new WeakMap<Speech, { design: Design; called: Called }>()

/** Worked out again only where one of them is called otherwise: most edits are about something else. */
export function calledIn(design: Design, speech: Speech): Called {
  const before = last.get(speech)
  const called = before && calledAlike(before.design, design) ? before.called : callAll(design, speech)
  last.set(speech, { design, called })
  return called
}

function calledAlike(one: Design, other: Design): boolean {
  const alike = (table: Table, its: Table): boolean => table === its || (table.id === its.id && table.name === its.name && table.schema === its.schema)
  return one.schemas === other.schemas && one.enums === other.enums && one.tables.length === other.tables.length && one.tables.every((table, at) => alike(table, other.tables[at] as Table))
}

function callAll(design: Design, { facts, enumTypes }: Speech): Called {
  const names = new NameGiver(facts.nameLimit, facts.refusedInNames)
  const schemas = new NameGiver(facts.nameLimit, facts.refusedInNames)
  const remarks: Remark[] = []
  const schemaNames = new Map(design.schemas.map((each) => [each.id, schemas.give(each.name)]))
  /** In a dialect without schemas the schema's name goes before the table's. */
  const nameOf = (table: Table): string => {
    const schema = design.schemas.find((each) => each.id === table.schema)
    if (!schema) return names.give(table.name)
    if (facts.schemas) return qualify(schemaNames.get(schema.id), names.give(table.name))
    remarks.push({ table: table.id, message: `${facts.title} has no schemas here: ${schema.name}.${table.name} is written as ${schema.name}_${table.name}.` })
    return names.give(`${schema.name}_${table.name}`)
  }
  const tableNames = new Map(design.tables.map((table) => [table.id, nameOf(table)]))
  const enumNames = new Map(enumTypes ? design.enums.map((each) => [each.id, names.give(each.name)]) : [])
  return { tableNames, schemaNames, enumNames, names, remarks }
}
