import { defaultFits, isMoment } from './default.ts'
import { columnsUsed, flawOfExpression } from './expressions.ts'
import { columnOf, fold, tableOf } from './directory.ts'
import { byId } from './by-id.ts'
import { type Column, type Design, type Table, mayWrite } from './model.ts'
import { type Flaw, flawsOfNote } from './flaw.ts'

/** What is wrong in the columns of a table, and in what they are computed from. */

export function flawsOfColumns(design: Design, table: Table, path: Flaw['path']): Flaw[] {
  const flaws: Flaw[] = []
  const names = new Set<string>()
  const circles = circlesIn(table)
  table.columns.forEach((column, at) => {
    const place = [...path, 'columns', at]
    if (names.has(fold(column.name)))
      flaws.push({ path: [...place, 'name'], message: `${table.name} has two columns called ${column.name}` })
    names.add(fold(column.name))
    flaws.push(
      ...flawsOfColumn(design, table, column, place),
      ...flawsOfNote(column.note, `${table.name}.${column.name}`, place)
    )
    const circle = circles.get(column.id)
    if (circle)
      flaws.push({
        path: [...place, 'computed'],
        message: `${column.name} cannot be computed: it is worked out from itself (${circle.join(', ')})`
      })
  })
  return flaws
}

/** Why a column's type, default, or what it is worked out or copied from, cannot be. */
function flawsOfColumn(design: Design, table: Table, column: Column, path: Flaw['path']): Flaw[] {
  const { type, computed, copied, renewed } = column
  const flaw = (part: string, message: string): Flaw[] => [{ path: [...path, part], message }]
  if (type.kind === 'enum' && !byId(design.enums).has(type.enum))
    return flaw('type', `${column.name} has its values from a list that is not there`)
  if (!defaultFits(column.default, type, design.enums))
    return flaw('default', `the default of ${table.name}.${column.name} does not fit its type`)
  if (copied) {
    const foreignKey = byId(table.foreignKeys).get(copied.foreignKey)
    const source = foreignKey && tableOf(design, foreignKey.table)
    if (!source || !columnOf(source, copied.column))
      return flaw('copied', `${column.name} is copied from a column that ${table.name} does not refer to`)
  }
  if (renewed && (!isMoment(type) || copied))
    return flaw('renewed', `${column.name} is no moment of its own, so it is not renewed with each change`)
  if (computed !== undefined && (column.default ?? copied ?? renewed))
    return flaw(
      'computed',
      `${column.name} is computed, so it has no default, and is neither copied nor renewed`
    )
  return flawsOfComputed(design, table, column, path)
}

function flawsOfComputed(
  design: Design,
  table: Table,
  { name, type, computed }: Column,
  path: Flaw['path']
): Flaw[] {
  const wrong =
    computed === undefined
      ? undefined
      : flawOfExpression(computed, { wanted: type, columns: table.columns, enums: design.enums })
  return wrong ? [{ path: [...path, 'computed'], message: `${name} cannot be computed: ${wrong}` }] : []
}

/** So many columns of a circle are named. */
const NAMED = 6

/**
 * For each computed column that leads back to itself, the names along the way; every column is gone
 * through once.
 */
function circlesIn(table: Table): Map<string, string[]> {
  const circles = new Map<string, string[]>()
  const done = new Set<string>()
  const way: Column[] = []
  const onWay = new Set<Column>()
  const visit = (column: Column): void => {
    if (column.computed === undefined || done.has(column.id)) return
    const start = onWay.has(column) ? way.indexOf(column) : -1
    if (start >= 0) {
      const round = way.slice(start)
      round.forEach((each, at) => circles.set(each.id, namesAround(round, at)))
      return
    }
    way.push(column)
    onWay.add(column)
    for (const id of columnsUsed(column.computed)) {
      const next = columnOf(table, id)
      if (next) visit(next)
    }
    way.pop()
    onWay.delete(column)
    done.add(column.id)
  }
  table.columns.forEach(visit)
  return circles
}

/**
 * Why an expression of the table makes no sense there: of a check, an index, a row policy or a computed
 * column; or nothing.
 */
export function flawOfExpressions(design: Design, table: Table): string | undefined {
  const [flaw] = [
    ...flawsOfExtras(design, table, []),
    ...table.columns.flatMap((column) => flawsOfComputed(design, table, column, []))
  ]
  return flaw?.message
}

/** The names along a circle from one of its columns back to it; of a long circle, the first and the last. */
function namesAround(round: readonly Column[], from: number): string[] {
  const most = Math.min(round.length, NAMED)
  const names = Array.from({ length: most }, (_, step) => round[(from + step) % round.length]?.name ?? '')
  return [...names, ...(round.length > most ? ['…'] : []), round[from]?.name ?? '']
}

/** Checks, indexes and row policies: each must be about columns that are there. */
export function flawsOfExtras(design: Design, table: Table, path: Flaw['path']): Flaw[] {
  const flaws: Flaw[] = []
  const judge = (place: Flaw['path'], condition: string | undefined, moments = false): void => {
    const message =
      condition === undefined
        ? undefined
        : flawOfExpression(condition, { columns: table.columns, enums: design.enums, moments })
    if (message) flaws.push({ path: place, message })
  }
  table.checks.forEach((check, at) => judge([...path, 'checks', at, 'condition'], check.condition))
  table.indexes.forEach((index, at) => {
    const stranger = index.columns.find(({ column }) => !columnOf(table, column))
    if (stranger)
      flaws.push({
        path: [...path, 'indexes', at],
        message: `${table.name} has no column ${stranger.column}`
      })
    if (new Set(index.columns.map(({ column }) => column)).size < index.columns.length)
      flaws.push({ path: [...path, 'indexes', at], message: 'an index names a column twice' })
    judge([...path, 'indexes', at, 'where'], index.where)
  })
  table.rowPolicies.forEach((policy, at) => {
    judge([...path, 'rowPolicies', at, 'condition'], policy.condition, true)
    judge([...path, 'rowPolicies', at, 'writes'], policy.writes, true)
    if (policy.writes !== undefined && !mayWrite(policy))
      flaws.push({
        path: [...path, 'rowPolicies', at],
        message: `a row policy for ${policy.command} has one condition`
      })
  })
  return flaws
}
