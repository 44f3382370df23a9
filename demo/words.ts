import { readExpression } from '../core/design/expressions.ts'
import { tableOf } from '../core/design/directory.ts'
import {
  emptyTable,
  type Column,
  type Design,
  type Figure,
  type ForeignKey,
  type Row,
  type RuledStatement,
  type Table,
  type Verdict
} from '../core/design/model.ts'
import { parseType } from '../core/design/type.ts'
import { type Value } from '../core/design/value.ts'
import { parseDefault } from '../core/design/default.ts'
import { apply } from '../core/edit/apply.ts'
import type { Operation } from '../core/edit/operation.ts'

/** The demo's tables in few words. Ids are spelled out from names, so that the file is the same each time. */

/** A column from words as they are typed in a sheet: name, type, and `required` or a default. */
export function column(table: string, name: string, type: string, ...rest: string[]): Column {
  const enums = type.startsWith('enum ')
    ? [{ id: `e_${type.slice(5)}`, name: type.slice(5), values: [] }]
    : []
  const parsed = parseType(type, enums)
  if (!parsed.ok) throw new Error(parsed.message)
  const [text] = rest.filter((word) => word !== 'required')
  const value = parseDefault(text ?? '', parsed.value)
  if (!value.ok) throw new Error(value.message)
  return {
    id: `c_${table}_${name}`,
    name,
    type: parsed.value,
    required: rest.includes('required'),
    default: value.value ?? undefined
  }
}

export interface TableWords {
  name: string
  note: string
  key: string[]
  columns: [name: string, type: string, ...rest: string[]][]
  uniques?: string[]
}

export function table({ name, note, key, columns, uniques = [] }: TableWords): Table {
  return {
    ...emptyTable(name, `t_${name}`),
    note,
    columns: columns.map((words) => column(name, ...words)),
    primaryKey: { id: `k_${name}`, columns: key.map((each) => `c_${name}_${each}`) },
    uniques: uniques.map((each) => ({ id: `k_${name}_${each}`, columns: [`c_${name}_${each}`] }))
  }
}

/** What each table is called by in what refers to it, where that is not its name with `_id`. */
const KEYS: Record<string, string[]> = {
  species: ['species_code'],
  reason: ['reason_code'],
  ward: ['ward_code'],
  pen: ['ward_code', 'pen_no']
}

/** A reference by columns of the child, in the order of the parent's key. */
export function refer(
  child: string,
  columns: string[],
  parent: string,
  onDelete: ForeignKey['onDelete'],
  verbs: { child: string; parent: string }
): Operation {
  const targets = KEYS[parent] ?? [`${parent}_id`]
  return {
    kind: 'foreignKey.add',
    table: `t_${child}`,
    foreignKey: {
      id: `f_${child}_${columns[0] ?? ''}`,
      table: `t_${parent}`,
      key: `k_${parent}`,
      pairs: columns.map((name, at) => ({
        column: `c_${child}_${name}`,
        refersTo: `c_${parent}_${targets[at] ?? ''}`
      })),
      onDelete,
      onUpdate: 'CASCADE',
      verbs
    }
  }
}

/** Rows from lists of values in the order of the columns named. */
export function rows(name: string, columns: string[], values: readonly (readonly Value[])[]): Operation {
  return {
    kind: 'table.setRows',
    table: `t_${name}`,
    rows: values.map((row): Row =>
      Object.fromEntries(columns.map((each, at) => [`c_${name}_${each}`, row[at] ?? null]))
    )
  }
}

/** A check as it is typed, read against the table as it stands. */
export function check(design: Design, name: string, id: string, text: string): Operation {
  const read = readExpression(text, {
    columns: tableOf(design, `t_${name}`)?.columns ?? [],
    enums: design.enums
  })
  if (!read.ok) throw new Error(`${name}: ${read.message}`)
  return { kind: 'check.add', table: `t_${name}`, check: { id: `x_${name}_${id}`, condition: read.value } }
}

/** Carries operations out one after the other; each may be worked out from the design as it is by then. */
/** What rows of a table say over those that refer to them by a column. */
export function figure(
  table: string,
  name: string,
  over: [table: string, column: string],
  more: Partial<Figure> = {}
): Operation {
  const [of, column] = over
  const own = { id: `g_${table}_${name}`, name, table: `t_${table}`, of: `t_${of}`, by: `f_${of}_${column}` }
  return { kind: 'figure.add', figure: { measure: 'count', ...own, ...more } }
}

/** A change of rows with a verdict. */
export const ruling = (id: string, says: string, statement: RuledStatement, verdict: Verdict): Operation => ({
  kind: 'ruling.add',
  ruling: { id: `u_${id}`, says, statements: [statement], together: true, verdict }
})

export function build(start: Design, operations: (Operation | ((design: Design) => Operation))[]): Design {
  return operations.reduce<Design>((design, each) => {
    const operation = typeof each === 'function' ? each(design) : each
    const result = apply(design, operation)
    if (!result.ok) throw new Error(`${operation.kind}: ${result.refusal.message}`)
    return result.design
  }, start)
}
