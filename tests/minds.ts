import { tableOf } from '../core/design/directory.ts'
import type { Column, Design, Table } from '../core/design/model.ts'
import type { Parsed } from '../core/design/type.ts'
import type { Operation } from '../core/edit/operation.ts'
import { proposeJunction } from '../core/relate/propose.ts'
import { generatedInstead, switchKey } from '../core/restructure/another-key.ts'
import { splitRepeated } from '../core/restructure/split.ts'
import { toJunction } from '../core/restructure/to-junction.ts'
import type { Numbers } from './queries.ts'

/** What is done to a design, and of which kind it is. */
interface Change {
  kind: string
  operation: Operation
}

/** A change of mind about the design, chosen by numbers; nothing where that one cannot be. */
export function changeOfMind(design: Design, numbers: Numbers): Change | undefined {
  const some = numbers.pick(design.tables)
  const as = (kind: string, parsed: Parsed<Operation> | undefined) =>
    parsed?.ok ? { kind, operation: parsed.value } : undefined
  switch (numbers.next(4)) {
    case 0:
      return as('counted', generatedInstead(design, some))
    case 1: {
      const unique = numbers.pick(some.uniques)
      return unique && as('switched', switchKey(design, some, unique))
    }
    case 2: {
      const texts = (of: Table) => of.columns.filter((each) => each.type.kind === 'text' && !each.required)
      const wide = numbers.pick(design.tables.filter((each) => texts(each).length > 1))
      const split = wide && splitRepeated(design, wide, 'said', texts(wide).slice(0, 2))
      return split && { kind: 'split', operation: split.operation }
    }
    default: {
      const many = numbers.pick(
        design.tables.filter((each) => each.primaryKey && each.foreignKeys.length > 0)
      )
      const reference = many && numbers.pick(many.foreignKeys)
      const one = reference && tableOf(design, reference.table)
      if (!one || reference.key !== one.primaryKey?.id) return undefined
      const junction = proposeJunction(design, many, one)
      return { kind: 'resolved', operation: toJunction(design, many, reference, junction) }
    }
  }
}

/** A change that moves nothing by itself, but has no place for something that was there, or is new. */
export function plainChange(design: Design, numbers: Numbers, no: number): Change | undefined {
  const own = design.tables.filter((each) => !each.external)
  const some = numbers.pick(own)
  const inKeys = new Set(
    own.flatMap((table) => [
      ...[table.primaryKey, ...table.uniques].flatMap((key) => key?.columns ?? []),
      ...table.foreignKeys.flatMap((key) => key.pairs.flatMap((pair) => [pair.column, pair.refersTo]))
    ])
  )
  const isFree = ({ id, computed }: Column): boolean =>
    !inKeys.has(id) && computed === undefined && !JSON.stringify(some.checks).includes(id)
  const free = numbers.pick(some.columns.filter(isFree))
  // A row that comes since would have nothing for what is required.
  const optional = numbers.pick(some.columns.filter((column) => isFree(column) && !column.required))
  switch (numbers.next(5)) {
    case 0:
      return { kind: 'new column', operation: newColumn(some, numbers, no) }
    case 1:
      return { kind: 'new table', operation: newTable(some, no) }
    case 2:
      return (
        optional && {
          kind: 'column goes',
          operation: { kind: 'column.remove', table: some.id, column: optional.id }
        }
      )
    case 3:
      return {
        kind: 'renamed',
        operation: { kind: 'table.rename', table: some.id, name: `${some.name}_${no}` }
      }
    default:
      return (
        free && {
          kind: 'column renamed',
          operation: { kind: 'column.rename', table: some.id, column: free.id, name: `${free.name}_${no}` }
        }
      )
  }
}

function newColumn(table: Table, numbers: Numbers, no: number): Operation {
  const column: Column = {
    id: `c_new_${no}`,
    name: `new_${no}`,
    type: numbers.pick([
      { kind: 'text', length: 20 },
      { kind: 'integer', size: 'normal' },
      { kind: 'date' }
    ]) ?? { kind: 'text' },
    required: false
  }
  return { kind: 'column.add', table: table.id, column }
}

/** A table whose rows each belong to one of another. */
function newTable(parent: Table, no: number): Operation {
  const key = parent.primaryKey
  const types = key?.columns.map((id) => parent.columns.find((column) => column.id === id)?.type)
  const own = (types ?? []).map((type, at): Column => ({
    id: `c_of_${no}_${at}`,
    name: `of_${no}_${at}`,
    type: type ?? { kind: 'text' },
    required: true
  }))
  return {
    kind: 'table.add',
    table: {
      id: `t_new_${no}`,
      name: `new_table_${no}`,
      columns: [
        ...own,
        { id: `c_said_${no}`, name: 'said', type: { kind: 'text', length: 30 }, required: true },
        { id: `c_on_${no}`, name: 'on_day', type: { kind: 'date' }, required: false }
      ],
      primaryKey: { id: `k_new_${no}`, columns: [...own.map(({ id }) => id), `c_said_${no}`] },
      uniques: [],
      foreignKeys: key
        ? [
            {
              id: `f_new_${no}`,
              table: parent.id,
              key: key.id,
              pairs: own.map(({ id }, at) => ({ column: id, refersTo: key.columns[at] as string })),
              onDelete: 'CASCADE',
              onUpdate: 'CASCADE'
            }
          ]
        : [],
      checks: [],
      indexes: [],
      rowPolicies: [],
      rows: []
    }
  }
}
