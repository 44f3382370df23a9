import { columnsIn, fold, fullName, directory, tableOf } from '../design/directory.ts'
import { newKeyId } from '../design/key-shape.ts'
import {
  emptyTable,
  FIRST_POLICY,
  newId,
  type Action,
  type Column,
  type Design,
  type ForeignKey,
  type Nature,
  type Table,
  type Verbs
} from '../design/model.ts'
import type { Operation, OperationOf } from '../edit/operation.ts'
import type { Junction, JunctionSide } from '../edit/relationship.ts'
import { pairRules, ruleFor } from './nature.ts'
import { roleVerbs } from './role.ts'
import { usualAction } from './rules.ts'
import { standingColumns } from './standing.ts'
import { freeName, generatedKeyName, junctionNames, referenceNames } from '../naming/names.ts'

/** What a design says of tables that come. */
type Ways = Pick<Design, 'policy' | 'standing'> & Partial<Pick<Design, 'tables'>>

/** A table as it is first made: a name, one generated column as its key, and what every table begins with. */
export function newTable(name: string, ways: Ways = { policy: FIRST_POLICY }): Table {
  const { policy, standing, tables = [] } = ways
  const column: Column = {
    id: newId('c'),
    name: generatedKeyName({ name, columns: standing?.tables ?? [] }, policy),
    type: { kind: 'integer', size: standing?.key ?? 'normal' },
    required: true,
    default: { kind: 'generated' }
  }
  return {
    ...emptyTable(name),
    columns: [column, ...standingColumns(standing?.tables ?? [])],
    primaryKey: { id: newKeyId({ tables }), columns: [column.id] }
  }
}

/** A name that needs no thought: a letter, then letters, digits and underscores. */
const PLAIN = /^[\p{L}_][\p{L}\p{N}_]*$/u

/**
 * Where a table stands that a person calls so: in the schema whose name is before a dot; one that is not
 * there yet is to be made, where both names are plain words.
 */
function placeOf(
  design: Pick<Design, 'schemas'>,
  typed: string
): { name: string; schema?: string; makes: OperationOf<'schema.add'>[] } {
  const [, before = '', rest = ''] = /^([^.]*)\.(.+)$/s.exec(typed) ?? []
  const schema = design.schemas.find((each) => fold(each.name) === fold(before.trim()))
  if (schema) return { name: rest.trim(), schema: schema.id, makes: [] }
  if (!PLAIN.test(before) || !PLAIN.test(rest)) return { name: typed, makes: [] }
  const made = { id: newId('s'), name: before }
  return { name: rest, schema: made.id, makes: [{ kind: 'schema.add', schema: made }] }
}

/** A new table as a person names it, and what makes it, with its schema where that is new. */
export function tableCalled(
  design: Pick<Design, 'schemas'> & Ways,
  typed: string
): { table: Table; operation: Operation; newSchema?: string } {
  const {
    name,
    schema,
    makes: [made]
  } = placeOf(design, typed)
  const table = { ...newTable(name, design), ...(schema !== undefined && { schema }) }
  const operation: Operation = { kind: 'table.add', table }
  return made
    ? {
        table,
        newSchema: made.schema.name,
        operation: {
          kind: 'batch',
          label: `make ${typed} and the schema ${made.schema.name}`,
          operations: [made, operation]
        }
      }
    : { table, operation }
}

/**
 * What calls a table otherwise, and puts it into the schema whose name is before a dot. Nothing where it
 * is called so already.
 */
export function renameTable(design: Design, table: Table, typed: string): Operation | undefined {
  const { name, schema = table.schema, makes } = placeOf(design, typed)
  const moves: Operation[] =
    schema === table.schema ? [] : [{ kind: 'table.setSchema', table: table.id, schema: schema ?? null }]
  const renames: Operation[] = name === table.name ? [] : [{ kind: 'table.rename', table: table.id, name }]
  // Another may have the old name where it goes to.
  const taken = directory(design).byName.has(fold(fullName(design, { name: table.name, schema })))
  const operations = [...makes, ...(taken ? [...renames, ...moves] : [...moves, ...renames])]
  return operations.length > 1
    ? { kind: 'batch', label: `call ${table.name} ${typed}`, operations }
    : operations[0]
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
  /** What a child is to its parent, where that was said. */
  nature?: Nature | undefined
  /** What the parent is to the child, where both are of one table: `mentor`. */
  role?: string | undefined
  /** A column of the child's that shall become the reference, for a key of one column. */
  column?: Column | undefined
}

/**
 * The operation that relates a parent and a child with the names that the naming policy gives.
 * Nothing where a table is missing. A required reference refuses the delete of what it needs; one that
 * may be empty is emptied.
 */
export function proposeRelationship(
  design: Design,
  choice: RelationshipChoice
): OperationOf<'relationship.add'> | undefined {
  const parent = tableOf(design, choice.parent)
  const child = tableOf(design, choice.child)
  if (!parent || !child) return undefined
  const role = choice.role?.trim() ?? ''
  const names = referenceNames(parent, child, design.policy, undefined, role || undefined)
  const columns =
    names.length === 1 && choice.column
      ? [{ id: choice.column.id, name: choice.column.name }]
      : names.map((name) => ({ id: newId('c'), name }))
  return {
    kind: 'relationship.add',
    parent: parent.id,
    child: child.id,
    foreignKey: newId('f'),
    columns,
    at: choice.at,
    required: choice.required,
    unique: choice.single ? newId('k') : undefined,
    onDelete: newRule(design, parent, choice),
    onUpdate: 'CASCADE',
    childIs: choice.nature,
    verbs: choice.verbs ?? (role === '' ? undefined : roleVerbs(role))
  }
}

/** What a delete does to what is about to refer: as the design says, else as what it is says. */
function newRule(design: Design, parent: Table, { nature = 'listed', required }: RelationshipChoice): Action {
  const shape = nature === 'part' ? 'part' : required ? 'needed' : 'optional'
  return usualAction(design, parent.id, shape, required)?.onDelete ?? ruleFor(nature, required)
}

/**
 * A junction of two tables as it is first proposed: both keys, the pair as primary key, and its rows going with
 * either, unless that is a list to choose from.
 */
export function proposeJunction(
  design: Design,
  first: Table,
  second: Table,
  roles?: readonly [string, string]
): Junction {
  const [name = `${first.name}_${second.name}`] = junctionNames(design, first, second)
  const taken: string[] = []
  const side = (
    table: Table,
    onDelete: JunctionSide['onDelete'],
    before: string,
    role: string | undefined
  ): JunctionSide => {
    const called = role === undefined || role.trim() === '' ? undefined : role.trim()
    const columns = referenceNames(table, { id: '', columns: [] }, design.policy, [], called).map((base) => {
      const free = freeName(called === undefined ? before + base : base, taken)
      taken.push(free)
      return { id: newId('c'), name: free }
    })
    const verbs = called === undefined ? {} : { verbs: roleVerbs(called) }
    return { table: table.id, foreignKey: newId('f'), columns, onDelete, ...verbs }
  }
  const self = first.id === second.id
  const [ofFirst, ofSecond] = pairRules(first, second).map((action, at) => {
    const shape = action === 'RESTRICT' ? 'list' : 'pair'
    return usualAction(design, (at === 0 ? first : second).id, shape, true)?.onDelete ?? action
  }) as [Action, Action]
  return {
    table: { id: newId('t'), name },
    key: newId('k'),
    sides: [side(first, ofFirst, '', roles?.[0]), side(second, ofSecond, self ? 'other_' : '', roles?.[1])],
    columns: standingColumns(design.standing?.junctions ?? [], taken),
    keyed: { by: 'pair', with: [] }
  }
}

/**
 * What changes how many children a parent has, or whether a child needs its parent, on a relationship
 * that exists. Several operations in one step.
 */
export function changeCardinality(
  table: Table,
  foreignKey: ForeignKey,
  wanted: { required?: boolean; single?: boolean }
): Operation {
  const columns = columnsIn(
    table,
    foreignKey.pairs.map((pair) => pair.column)
  )
  const operations: Operation[] = []
  if (wanted.required !== undefined) {
    if (wanted.required && foreignKey.onDelete === 'SET NULL') {
      operations.push({
        kind: 'foreignKey.setActions',
        table: table.id,
        foreignKey: foreignKey.id,
        onDelete: 'RESTRICT',
        onUpdate: foreignKey.onUpdate
      })
    }
    for (const column of columns)
      operations.push({
        kind: 'column.require',
        table: table.id,
        column: column.id,
        required: wanted.required
      })
  }
  if (wanted.single === true)
    operations.push({
      kind: 'unique.add',
      table: table.id,
      key: { id: newId('k'), columns: columns.map((column) => column.id) }
    })
  if (wanted.single === false) {
    const ids = columns.map((column) => column.id)
    for (const key of table.uniques.filter((each) => each.columns.every((id) => ids.includes(id))))
      operations.push({ kind: 'unique.remove', table: table.id, key: key.id })
  }
  return { kind: 'batch', label: `change how many in ${table.name}`, operations }
}
