import { referencesTo } from '../design/directory.ts'
import type { Design } from '../design/model.ts'
import { withoutMeetingCascades } from './cascades.ts'
import { withCircles } from './circles.ts'
import { calledIn, type DialectNames } from './called.ts'
import type { Catalog } from './catalog.ts'
import type { Remark } from './remark.ts'
import { NameGiver } from '../naming/fit.ts'
import type { Speech } from './speech.ts'
import { memoIn, TableBuilder, type Worked } from './table-builder.ts'

/** A design's catalog, and what was worked out for each of its tables, in their order. */
interface Built {
  design: Design
  called: DialectNames
  worked: readonly Worked[]
  catalog: Catalog
  remarks: Remark[]
}

const built = new WeakMap<Speech, WeakMap<Design, Built>>()
const last = new WeakMap<Speech, Built>()

/**
 * The catalog of a design with names, keys and indexes worked out, columns as the dialect writes them,
 * and what it cannot say. Constraints and indexes that nobody named get the naming policy's names,
 * shortened and numbered where the engine needs it. Worked out once for each design value, and from one
 * to the next only for the tables that changed or lean on one that did.
 */
export function buildCatalog(design: Design, speech: Speech): { catalog: Catalog; remarks: Remark[] } {
  const known = memoIn(built, speech)
  let found = known.get(design)
  if (!found) {
    const before = last.get(speech)
    const called = calledIn(design, speech)
    const tables = (before && grownFrom(before, design, speech, called)) ?? workAll(design, speech, called)
    known.set(design, (found = put(design, speech, called, tables)))
    last.set(speech, found)
  }
  return found
}

function workAll(design: Design, speech: Speech, called: DialectNames): Worked[] {
  const builder = new TableBuilder(design, speech, called, called.names.copy())
  return design.tables.map((table) => builder.table(table))
}

/**
 * What was worked out before, and anew only for the tables that changed and those beside them. Nothing
 * where a
 * name of theirs changes or had to give way, since that may concern any table.
 */
function grownFrom(
  before: Built,
  design: Design,
  speech: Speech,
  called: DialectNames
): Worked[] | undefined {
  const { design: old } = before
  if (
    called !== before.called ||
    design.policy !== old.policy ||
    design.enums !== old.enums ||
    design.schemas !== old.schemas
  )
    return undefined
  const near = new Set<string>()
  for (const [at, table] of design.tables.entries()) {
    const was = old.tables[at]
    if (table === was) continue
    near.add(table.id)
    for (const key of [...table.foreignKeys, ...(was?.foreignKeys ?? [])]) near.add(key.table)
    for (const reference of referencesTo(design, table.id)) near.add(reference.table.id)
  }
  const { nameLimit, refusedInNames } = speech.facts
  const builder = new TableBuilder(design, speech, called, new NameGiver(nameLimit, refusedInNames))
  const tables = [...before.worked]
  for (const [at, table] of design.tables.entries()) {
    if (!near.has(table.id)) continue
    const names = tables[at]?.names
    const now = (tables[at] = builder.table(table))
    if (
      !names ||
      names.length !== now.names?.length ||
      names.some((name, place) => name !== now.names?.[place])
    )
      return undefined
  }
  return tables
}

/** The tables put together; what every column of a type loses is said once. */
function put(design: Design, speech: Speech, called: DialectNames, tables: readonly Worked[]): Built {
  const { facts, enumTypes } = speech
  const enums = enumTypes
    ? design.enums.map((each) => ({
        id: each.id,
        name: called.enumNames.get(each.id) as string,
        values: [...each.values]
      }))
    : []
  const remarks = [...called.remarks]
  const lost = new Set<string>()
  for (const each of tables) {
    remarks.push(...each.remarks)
    for (const message of each.losses) {
      if (lost.has(message)) continue
      lost.add(message)
      remarks.push({ table: each.result.id, message })
    }
  }
  const catalog: Catalog = {
    schemas: facts.schemas ? [...called.schemaNames].map(([id, name]) => ({ id, name })) : [],
    enums,
    tables: tables.map((each) => each.result)
  }
  const circles = withCircles(catalog, facts)
  const whole = facts.manyCascadePaths
    ? { catalog, remarks: [] }
    : withoutMeetingCascades(circles.catalog, facts)
  return {
    design,
    called,
    worked: tables,
    remarks: [...remarks, ...circles.remarks, ...whole.remarks],
    catalog: facts.manyCascadePaths ? circles.catalog : whole.catalog
  }
}
