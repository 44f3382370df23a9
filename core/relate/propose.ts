import { columnsIn, fold, tableOf } from '../design/lookup.ts'
import { emptyTable, FIRST_POLICY, newId, type Column, type Design, type ForeignKey, type Policy, type Table, type Verbs } from '../design/model.ts'
import type { Junction, JunctionSide, Operation, OperationOf } from '../edit/operation.ts'
import { freeName, generatedKeyName, junctionNames, referenceNames } from './naming.ts'

/** A table as it is first made: a name and one generated column as its key, ready to be built on. */
export function newTable(name: string, policy: Policy = FIRST_POLICY): Table {
  const column: Column = { id: newId('c'), name: generatedKeyName({ name, columns: [] }, policy), type: { kind: 'integer', size: 'normal' }, required: true, default: { kind: 'generated' } }
  return { ...emptyTable(name), columns: [column], primaryKey: { id: newId('k'), columns: [column.id] } }
}

/** A new table as a person names it: in a schema of the design where its name is before a dot. */
export function tableCalled(design: Pick<Design, 'schemas' | 'policy'>, typed: string): Table {
  const [, before = '', rest = ''] = /^([^.]*)\.(.+)$/s.exec(typed) ?? []
  const schema = design.schemas.find((each) => fold(each.name) === fold(before.trim()))
  return schema ? { ...newTable(rest.trim(), design.policy), schema: schema.id } : newTable(typed, design.policy)
}

export interface RelationshipChoice {
  parent: string
  child: string
  /** Whether each child must have a parent. */
  required: boolean
  /** Whether a parent has at most one child. */
  single: boolean
  verbs?: Verbs | undefined
  /** Where among the child's columns the new ones go; at the end when left out. */
  at?: number | undefined
  /** A column of the child's that shall become the reference, for a key of one column. */
  column?: Column | undefined
}

/**
 * The operation that relates a parent and a child with the names that the naming policy gives.
 * Nothing where a table is missing. A required reference refuses the delete of what it needs; one that
 * may be empty is emptied.
 */
export function proposeRelationship(design: Design, choice: RelationshipChoice): OperationOf<'relationship.add'> | undefined {
  const parent = tableOf(design, choice.parent)
  const child = tableOf(design, choice.child)
  if (!parent || !child) return undefined
  const names = referenceNames(parent, child, design.policy)
  const columns = names.length === 1 && choice.column
    ? [{ id: choice.column.id, name: choice.column.name }]
    : names.map((name) => ({ id: newId('c'), name }))
  return {
    kind: 'relationship.add', parent: parent.id, child: child.id, foreignKey: newId('f'),
    columns, at: choice.at, required: choice.required, unique: choice.single ? newId('k') : undefined,
    onDelete: choice.required ? 'RESTRICT' : 'SET NULL', onUpdate: 'CASCADE', verbs: choice.verbs
  }
}

/** A junction of two tables as it is first proposed: both keys, the pair as primary key, and its rows going with the first table's. */
export function proposeJunction(design: Design, first: Table, second: Table): Junction {
  const [name = `${first.name}_${second.name}`] = junctionNames(design, first, second)
  const taken: string[] = []
  const side = (table: Table, onDelete: JunctionSide['onDelete'], role: string): JunctionSide => {
    const columns = referenceNames(table, { id: '', columns: [] }, design.policy, []).map((base) => {
      const free = freeName(role + base, taken)
      taken.push(free)
      return { id: newId('c'), name: free }
    })
    return { table: table.id, foreignKey: newId('f'), columns, onDelete }
  }
  const self = first.id === second.id
  return {
    table: { id: newId('t'), name },
    key: newId('k'),
    sides: [side(first, 'CASCADE', ''), side(second, self ? 'CASCADE' : 'RESTRICT', self ? 'other_' : '')],
    columns: [],
    keyed: { by: 'pair', with: [] }
  }
}

/** The operation that turns a one-to-many into the junction, keeping what the old column held. */
export function resolveOperation(table: Table, foreignKey: ForeignKey, junction: Junction): Operation {
  return { kind: 'relationship.resolveToJunction', table: table.id, foreignKey: foreignKey.id, junction, carry: newId('y') }
}

/**
 * What changes how many children a parent has, or whether a child needs its parent, on a relationship
 * that exists. Several operations in one step.
 */
export function changeCardinality(table: Table, foreignKey: ForeignKey, wanted: { required?: boolean; single?: boolean }): Operation {
  const columns = columnsIn(table, foreignKey.pairs.map((pair) => pair.column))
  const operations: Operation[] = []
  if (wanted.required !== undefined) {
    if (wanted.required && foreignKey.onDelete === 'SET NULL') {
      operations.push({ kind: 'foreignKey.setActions', table: table.id, foreignKey: foreignKey.id, onDelete: 'RESTRICT', onUpdate: foreignKey.onUpdate })
    }
    for (const column of columns) operations.push({ kind: 'column.require', table: table.id, column: column.id, required: wanted.required })
  }
  if (wanted.single === true) operations.push({ kind: 'unique.add', table: table.id, key: { id: newId('k'), columns: columns.map((column) => column.id) } })
  if (wanted.single === false) {
    const ids = columns.map((column) => column.id)
    for (const key of table.uniques.filter((each) => each.columns.every((id) => ids.includes(id)))) operations.push({ kind: 'unique.remove', table: table.id, key: key.id })
  }
  return { kind: 'batch', label: `change how many in ${table.name}`, operations }
}
