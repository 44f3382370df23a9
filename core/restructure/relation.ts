import { columnsIn } from '../design/directory.ts'
import {
  newId,
  type Action,
  type ColumnId,
  type Design,
  type ForeignKey,
  type KeyId,
  type Nature,
  type Table
} from '../design/model.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import type { Junction, MadeColumn } from '../edit/relationship.ts'
import { freeName } from '../naming/names.ts'
import { proposeRelationship } from '../relate/propose.ts'
import { ownFacts, type OwnFacts, type OwnLine } from './pair-facts.ts'
import { toJunction } from './to-junction.ts'

/** What a person answers who relates two tables, and the operation that it comes to. */

/** How many of the other side a row of one side has. */
export type HowMany = 'exactly one' | 'at most one' | 'any number of'
export const HOW_MANY: HowMany[] = ['any number of', 'at most one', 'exactly one']

/** Which table gets the foreign key when at most one side is many. */
export function childSide(first: HowMany, second: HowMany): 'first' | 'second' {
  if (first === 'any number of') return 'second'
  if (second === 'any number of') return 'first'
  // One of each: the row that cannot be without the other holds the key.
  return first === 'exactly one' ? 'first' : second === 'exactly one' ? 'second' : 'first'
}

/** The names of a table's key columns. */
export function keyNames(table: Table): string[] {
  return columnsIn(table, table.primaryKey?.columns ?? []).map((column) => column.name)
}

/** What deletes may do on a junction's side: its columns are required, so nothing can be emptied. */
export const JUNCTION_ACTIONS: Action[] = ['CASCADE', 'RESTRICT', 'NO ACTION']

/**
 * Whether a pair of rows of one table may be a row with itself, and whether it counts once whichever way round.
 */
export type SelfPairs = 'any' | 'not itself' | 'once'

/** What is answered on a junction, beside its sides. */
export interface JunctionAnswers {
  /** As it is proposed. */
  proposed: Junction
  name: string
  /** What deletes do, on either side. */
  onDelete: [Action, Action]
  /** Of a table with itself: what a pair may not be. */
  apart?: SelfPairs | undefined
  own: readonly OwnLine[]
  keyed: 'pair' | 'own'
  /** What a key of its own is called by, should it get one. */
  ids: { column: ColumnId; unique: KeyId }
}

/** Two tables and what is answered on them. */
export interface RelationAnswers {
  table: Table
  other: Table
  /** How many of the other table each row of the table has, and the other way round. */
  howMany: [HowMany, HowMany]
  /** What deletes do where one of them gets a foreign key; as it is proposed when left out. */
  onDelete: Action | undefined
  junction: JunctionAnswers | undefined
  /** What a row of the many side is to the other, where that is said. */
  nature?: Nature | undefined
  /** What the rows of one table are to each other, where a table is related to itself. */
  roles?: readonly [string, string] | undefined
  /** The reference that is to become a junction, where one is. */
  resolve: ForeignKey | undefined
}

/** Whether the answers ask for a junction. */
export function isManyToMany([first, second]: [HowMany, HowMany]): boolean {
  return first === 'any number of' && second === 'any number of'
}

/** What relates the tables as it was answered, or why it cannot be; nothing where an answer is missing. */
export function relate(design: Design, answers: RelationAnswers): Parsed<Operation> | undefined {
  if (isManyToMany(answers.howMany)) return answers.junction && manyToMany(design, answers, answers.junction)
  const operation = oneToMany(design, answers)
  return operation && { ok: true, value: operation }
}

function manyToMany(
  design: Design,
  { table, resolve }: RelationAnswers,
  answers: JunctionAnswers
): Parsed<Operation> {
  const facts = ownFacts(design, answers.proposed.table.id, answers.own, resolve && table)
  if (!facts.ok) return facts
  const junction = junctionOf(answers, facts.value)
  const made: Parsed<Operation> = resolve
    ? toJunction(design, table, resolve, junction, facts.value.takes)
    : { ok: true, value: { kind: 'relationship.addJunction', junction } }
  if (!made.ok) return made
  const condition = apartCondition(junction, answers.apart)
  const check = { id: newId('x'), condition: condition ?? '' }
  const more: Operation[] = [
    ...facts.value.references,
    ...(condition === undefined ? [] : [{ kind: 'check.add' as const, table: junction.table.id, check }])
  ]
  if (more.length === 0) return made
  const label = `make the junction ${junction.table.name}`
  return { ok: true, value: { kind: 'batch', label, operations: [made.value, ...more] } }
}

/** Keys of one column can be compared; of several, no engine says in one way which comes first. */
function apartCondition({ sides }: Junction, apart: SelfPairs = 'any'): string | undefined {
  const [[one, ...more], [other]] = sides.map(({ columns }) => columns) as [MadeColumn[], MadeColumn[]]
  if (apart === 'any' || !one || !other || more.length > 0) return undefined
  return apart === 'once' ? `{${one.id}} < {${other.id}}` : `{${one.id}} <> {${other.id}}`
}

function oneToMany(design: Design, answers: RelationAnswers): Operation | undefined {
  const { table, other } = answers
  const [first, second] = answers.howMany
  const tableIsChild = childSide(first, second) === 'first'
  const proposed = proposeRelationship(design, {
    parent: tableIsChild ? other.id : table.id,
    child: tableIsChild ? table.id : other.id,
    required: (tableIsChild ? first : second) === 'exactly one',
    single: (tableIsChild ? second : first) !== 'any number of',
    role: answers.roles?.[tableIsChild ? 1 : 0],
    nature: answers.nature
  })
  if (!proposed || !answers.onDelete) return proposed
  return { ...proposed, onDelete: answers.onDelete }
}

function junctionOf(answers: JunctionAnswers, { columns, inKey }: OwnFacts): Junction {
  const { proposed, onDelete, keyed } = answers
  return {
    ...proposed,
    table: { ...proposed.table, name: answers.name.trim() },
    sides: [
      { ...proposed.sides[0], onDelete: onDelete[0] },
      { ...proposed.sides[1], onDelete: onDelete[1] }
    ],
    columns: [...proposed.columns, ...columns],
    keyed:
      keyed === 'pair'
        ? { by: 'pair', with: inKey }
        : { by: 'own', column: ownKey(answers), unique: answers.ids.unique }
  }
}

/** The column that counts a junction's rows, where it gets a key of its own. */
export function ownKey({ proposed, name, own, ids }: JunctionAnswers): { id: ColumnId; name: string } {
  const sides = proposed.sides.flatMap((side) => side.columns)
  const taken = [...sides, ...own].map((column) => column.name)
  return { id: ids.column, name: freeName(`${name.trim() || 'row'}_id`, taken) }
}
