import { columnsIn, directory, fold } from '../design/directory.ts'
import { columnsUsed, readExpression } from '../design/expressions.ts'
import type { Column, ColumnId, Design, Table } from '../design/model.ts'
import type { Projected } from '../design/row-query.ts'
import { parseType, sameType, typeText, type Parsed } from '../design/type.ts'
import { parseValue } from '../design/value.ts'
import type { OperationOf } from '../edit/operation.ts'
import type { MadeColumn } from '../edit/relationship.ts'
import { freeName, inCase, referenceNames } from '../naming/names.ts'

/** Facts about a pair: what a junction has beside its sides, as it is typed. */

export interface OwnLine {
  id: ColumnId
  name: string
  /** A type, or `>` and a table that it refers to. */
  type: string
  inKey: boolean
  required: boolean
  /** What pairs hold that are carried here from a reference: a column of the row, a value, or an expression over it. */
  takes?: string
}

type Fact = Pick<OwnLine, 'name' | 'type' | 'required'>

/** What is usually to be said of a pair. What it is that somebody did, and where people are kept, is for them to say. */
export const USUAL_FACTS: readonly { words: string; facts: readonly Fact[] }[] = [
  { words: 'how many', facts: [{ name: 'quantity', type: 'integer', required: true }] },
  { words: 'when', facts: [{ name: 'happened at', type: 'timestamp zone', required: true }] },
  {
    words: 'from and until',
    facts: [
      { name: 'valid from', type: 'date', required: true },
      { name: 'valid until', type: 'date', required: false }
    ]
  },
  { words: 'in which order', facts: [{ name: 'position', type: 'smallint', required: true }] },
  { words: 'by whom', facts: [{ name: 'done by', type: '>', required: false }] }
]

/** A usual fact as lines, called as the design calls its columns. */
export const factLines = (
  { policy }: Pick<Design, 'policy'>,
  { facts }: (typeof USUAL_FACTS)[number],
  newLine: () => ColumnId
): OwnLine[] =>
  facts.map((fact) => ({
    ...fact,
    id: newLine(),
    name: inCase(fact.name, policy.letterCase === 'as typed' ? 'lower_snake' : policy.letterCase),
    inKey: false
  }))

/** Lines as what they come to. */
export interface OwnFacts {
  columns: Column[]
  /** Those of them that stand in the key, where the pair is the key. */
  inKey: ColumnId[]
  references: OperationOf<'relationship.add'>[]
  takes: Projected[]
}

/**
 * Reads the lines that say something, or tells what is wrong with the first that cannot be a column.
 * @param junction the id that the junction's table is to have
 * @param from the table whose rows pairs are made of, where there is one
 */
export function ownFacts(
  design: Design,
  junction: string,
  lines: readonly OwnLine[],
  from?: Table
): Parsed<OwnFacts> {
  const facts: OwnFacts = { columns: [], inKey: [], references: [], takes: [] }
  for (const line of lines) {
    const isBlank = line.name.trim() === '' && line.type.trim() === ''
    if (isBlank) continue
    const read = line.type.trim().startsWith('>') ? referring(design, junction, line) : plain(design, line)
    if (!read.ok) return read
    facts.columns.push(...read.value.columns)
    facts.references.push(...read.value.references)
    if (line.inKey) facts.inKey.push(...read.value.columns.map(({ id }) => id))
    const [column] = read.value.columns
    const taken = from && column ? taking(design, from, column, line.takes ?? '') : NOTHING
    if (!taken.ok) return taken
    if (taken.value) facts.takes.push(taken.value)
  }
  return { ok: true, value: facts }
}
const NOTHING = { ok: true, value: undefined } as const

type Read = Parsed<Pick<OwnFacts, 'columns' | 'references'>>

function plain(design: Design, line: OwnLine): Read {
  const type = parseType(line.type.trim() || 'text', design.enums)
  if (!type.ok) return type
  const required = line.required || line.inKey
  const column = { id: line.id, name: line.name.trim(), type: type.value, required }
  return { ok: true, value: { columns: [column], references: [] } }
}

/** The columns of the other table's key, and the reference that they are. */
function referring(design: Design, junction: string, line: OwnLine): Read {
  const typed = line.type.trim().slice(1).trim()
  const table = directory(design).byName.get(fold(typed))
  if (!table)
    return {
      ok: false,
      message:
        typed === '' ? 'Say which table it refers to: > and its name.' : `There is no table called ${typed}.`
    }
  const key = columnsIn(table, table.primaryKey?.columns ?? [])
  if (key.length === 0)
    return { ok: false, message: `${table.name} has no primary key, so nothing can refer to it.` }
  const required = line.required || line.inKey
  const names = referenceNames(table, { id: junction, columns: [] }, design.policy, [])
  const isOne = key.length === 1 && line.name.trim() !== ''
  const columns = key.map(({ type }, at): Column => ({
    id: at === 0 ? line.id : `${line.id}_${at}`,
    name: isOne ? line.name.trim() : (names[at] ?? freeName(table.name, names)),
    type,
    required
  }))
  const reference: OperationOf<'relationship.add'> = {
    kind: 'relationship.add',
    parent: table.id,
    child: junction,
    foreignKey: line.id.replace(/^c_/, 'f_'),
    columns: columns.map(({ id, name }): MadeColumn => ({ id, name })),
    required,
    onDelete: required ? 'RESTRICT' : 'SET NULL',
    onUpdate: 'CASCADE'
  }
  return { ok: true, value: { columns, references: [reference] } }
}

/** What a column takes from each row: another column, one value, or what an expression over the row gives. */
export function taking(design: Design, from: Table, to: Column, text: string): Parsed<Projected | undefined> {
  const typed = text.trim()
  if (typed === '') return NOTHING
  const { id, type } = to
  const same = from.columns.find(({ name }) => fold(name) === fold(typed))
  if (same)
    return sameType(same.type, type)
      ? { ok: true, value: { id, from: same.id } }
      : {
          ok: false,
          message: `${from.name}.${same.name} is ${typeText(same.type, design.enums)}, and ${to.name} is ${typeText(type, design.enums)}.`
        }
  const value = parseValue(typed, type, design.enums)
  if (value.ok) return { ok: true, value: { id, type, value: value.value } }
  const read = readExpression(typed, { wanted: type, columns: from.columns, enums: design.enums })
  if (!read.ok)
    return {
      ok: false,
      message: `${to.name} takes a column of ${from.name}, a value or an expression: ${read.message}`
    }
  const used = columnsUsed(read.value)
  const worked = from.columns.find((column) => column.computed !== undefined && used.includes(column.id))
  return worked
    ? { ok: false, message: `${worked.name} is computed, and cannot be read here.` }
    : { ok: true, value: { id, type, is: read.value } }
}
