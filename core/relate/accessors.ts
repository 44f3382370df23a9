import { columnOf, fold, nameInCode, referencesTo, tableOf } from '../design/directory.ts'
import type { Design, ForeignKey, Table } from '../design/model.ts'
import { freeName, inCase, wordsOf } from '../naming/names.ts'
import { plural, singular } from '../naming/words.ts'
import { isSingle, readingOf } from './reading.ts'

/**
 * What the two directions of a relationship are called in code: of a child the one that it has (`admission.patient`), of
 * a parent the one or those that refer to it (`patient.admissions`), as a person has named them or as they are proposed.
 */
export interface AccessorNames {
  child: string
  parent: string
}

/** How a row of a table is called in code: `admission`. */
export const rowName = (
  design: Pick<Design, 'policy' | 'codeNames'>,
  table: Pick<Table, 'id' | 'name'>
): string => inCase(singular(nameInCode(design, table)), caseOf(design.policy))

/** As typed, names are whatever they are; code asks for one word. */
const caseOf = ({ letterCase }: Design['policy']): Design['policy']['letterCase'] =>
  letterCase === 'as typed' ? 'lower_snake' : letterCase

export function accessorNames(design: Design, child: Table, foreignKey: ForeignKey): AccessorNames {
  const parent = tableOf(design, foreignKey.table)
  return {
    child: namesOf(design, child).get(`child ${foreignKey.id}`) ?? '',
    parent: (parent && namesOf(design, parent).get(`parent ${foreignKey.id}`)) ?? ''
  }
}

const known = new WeakMap<Design, Map<string, ReadonlyMap<string, string>>>()

/** All that is reached from a table's rows, by direction and reference: no two are called the same. */
function namesOf(design: Design, table: Table): ReadonlyMap<string, string> {
  const ofDesign = known.get(design) ?? new Map<string, ReadonlyMap<string, string>>()
  known.set(design, ofDesign)
  const found = ofDesign.get(table.id)
  if (found) return found
  const names = new Map<string, string>()
  const proposals: [string, string | undefined, string][] = [
    ...table.foreignKeys.map((key): [string, string | undefined, string] => [
      `child ${key.id}`,
      key.accessors?.child,
      proposedOne(design, table, key)
    ]),
    ...referencesTo(design, table.id).map(
      ({ table: child, foreignKey }): [string, string | undefined, string] => [
        `parent ${foreignKey.id}`,
        foreignKey.accessors?.parent,
        proposedMany(design, child, foreignKey)
      ]
    )
  ]
  // What a person has named stands; what is proposed gives way to that, and to the columns.
  const taken = table.columns.map(({ name }) => name)
  for (const [place, named] of proposals) {
    if (named === undefined) continue
    names.set(place, named)
    taken.push(named)
  }
  for (const [place, named, proposed] of proposals) {
    if (named !== undefined) continue
    const name = freeName(proposed, taken)
    names.set(place, name)
    taken.push(name)
  }
  ofDesign.set(table.id, names)
  return names
}

/** Words behind which a column's own name says what it refers to: `answers_id`. */
const ENDS = new Set(['id', 'code', 'no', 'key', 'number', 'uuid'])

/** `other_species_code` leads to the other species, `given_by` to the person whom it was given by. */
function proposedOne(design: Design, child: Table, { table, pairs }: ForeignKey): string {
  const parent = tableOf(design, table)
  const called = wordsOf(parent ? singular(nameInCode(design, parent)) : '')
  const [pair, ...more] = pairs
  const own = wordsOf((pair && columnOf(child, pair.column)?.name) ?? '')
  const its = wordsOf((pair && parent && columnOf(parent, pair.refersTo)?.name) ?? '')
  const endsAlike = its.every((word, at) => fold(word) === fold(own.at(at - its.length) ?? ''))
  const role = endsAlike ? own.slice(0, own.length - its.length) : own
  const said = endsAlike
    ? [...role, ...called]
    : ENDS.has(fold(role.at(-1) ?? ''))
      ? role.slice(0, -1)
      : [...role, ...called]
  return inCase((more.length > 0 || said.length === 0 ? called : said).join('_'), caseOf(design.policy))
}

/** Those of the child, in the number that there may be; several relationships are told apart by their roles. */
function proposedMany(design: Design, child: Table, foreignKey: ForeignKey): string {
  const one = singular(nameInCode(design, child))
  const all = isSingle(readingOf(child, foreignKey)) ? one : plural(one)
  const alike = child.foreignKeys.filter(({ table }) => table === foreignKey.table)
  const isAlone = alike.length === 1 && foreignKey.table !== child.id
  const role = isAlone ? '' : `_by_${proposedOne(design, child, foreignKey)}`
  return inCase(`${all}${role}`, caseOf(design.policy))
}
