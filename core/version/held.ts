import { columnOf, columnsIn, keysOf, nameOfTable, namesIn, tableOf } from '../design/directory.ts'
import { showExpression } from '../design/expressions.ts'
import type { Design, ForeignKey, Key, Table } from '../design/model.ts'
import { groupBy } from '../group.ts'
import { isOf, type Alteration, type AlterationOf } from './delta.ts'
import { RowsAfter, type Moves } from './moves.ts'
import type { Warning } from './warnings.ts'

/**
 * Conditions that the rows were not held to before: keys, references, checks, unique indexes, and lists
 * that lose a value.
 */
export function newlyHeld(delta: readonly Alteration[], from: Design, to: Design, moves: Moves): Warning[] {
  const rows = new RowsAfter(moves)
  const lists = delta.filter((each) => isOf('list', each)).filter(losesValue)
  const about = groupBy(delta, ({ table }) => table)
  return to.tables.flatMap((table): Warning[] => {
    const before = tableOf(from, table.id)
    const lost = lists.filter(({ before: list }) => isOfList(table, list.id))
    const own = about.get(table.id) ?? []
    const isAlone = own.length === 0 && !moves.flow.tables.has(table.id) && lost.length === 0
    if (!before || isAlone) return []
    const stops = (message: string): Warning => ({ table: table.id, message, effect: 'stops' })
    return [
      ...newKeys(before, table, rows).map((key) => sayKey(table, key)),
      ...newReferences(before, table).map((key) => sayReference(table, key, to)),
      ...own.flatMap((each) => sayMinimum(table, each, to)),
      ...own.filter(isMoreThanNamed).flatMap((rule) => sayRule(table, rule)),
      ...filledFrom(before, table),
      ...lost.map(
        ({ after: { name } }) =>
          `${name} loses a value: the migration stops at a row of ${table.name} that has it.`
      )
    ].map(stops)
  })
}

/** A rule that comes, or that says something else than before. */
const isMoreThanNamed = (each: Alteration): boolean =>
  (isOf('check', each) || isOf('index', each)) &&
  (each.kind === 'added' || (each.kind === 'changed' && each.aspect !== 'name'))

type ChangedList = Extract<AlterationOf<'list'>, { kind: 'changed' }>

const losesValue = (list: AlterationOf<'list'>): list is ChangedList =>
  list.kind === 'changed' && list.before.values.some((value) => !list.after.values.includes(value))

const isOfList = ({ columns }: Table, list: string): boolean =>
  columns.some(({ type }) => type.kind === 'enum' && type.enum === list)

function sayKey(table: Table, { columns }: Key): string {
  const become = columns.length > 1 ? 'become' : 'becomes'
  return `${namesIn(table, columns)} ${become} a key of ${table.name}: the migration stops where the same is there twice.`
}

function sayReference(table: Table, key: ForeignKey, to: Design): string {
  const by = namesIn(
    table,
    key.pairs.map((pair) => pair.column)
  )
  const referred = tableOf(to, key.table)?.name ?? 'a table'
  return `${table.name}.${by} refers to ${referred} from now on: the migration stops at a row that refers to nothing there.`
}

/** A minimum that is held from now on; what holds it, where anything does, looks at what is there first. */
function sayMinimum(table: Table, each: Alteration, to: Design): string[] {
  if (!isOf('foreignKey', each) || each.kind === 'removed') return []
  const isNew = each.kind === 'added' || each.aspect === 'atLeastOne'
  if (each.after.atLeastOne !== 'held' || !isNew) return []
  const parent = nameOfTable(to, each.after.table)
  return [
    `Each ${parent} has at least one ${table.name} from now on: where that is held, the migration stops at a ${parent} that has none.`
  ]
}

function sayRule(table: Table, rule: Alteration): string[] {
  if (isOf('check', rule) && rule.kind !== 'removed') {
    const condition = showExpression(rule.after.condition, table.columns)
    return [`${table.name} gets the check ${condition}: the migration stops at a row that does not meet it.`]
  }
  if (!isOf('index', rule) || rule.kind === 'removed' || !rule.after.unique) return []
  const columns = namesIn(
    table,
    rule.after.columns.map(({ column }) => column)
  )
  return [`${columns} becomes unique in ${table.name}: the migration stops where a value is there twice.`]
}

/** What a default may come up against where it fills a column that was empty: a key, a reference, a check. */
function filledFrom(before: Table, after: Table): string[] {
  const filled = after.columns.filter(
    (column) =>
      column.required &&
      column.default &&
      column.default.kind !== 'generated' &&
      columnOf(before, column.id)?.required === false
  )
  return filled.flatMap(({ id, name }) => {
    const stops = (where: string): string =>
      `${after.name}.${name} is filled with its default where it is empty: the migration stops where ${where}.`
    const among = [
      ...keysOf(after).map((key) => key.columns),
      ...after.indexes
        .filter((index) => index.unique)
        .map((index) => index.columns.map(({ column }) => column))
    ].filter((columns) => columns.includes(id))
    return [
      ...among.map((columns) =>
        stops(
          `${columnsIn(after, columns)
            .map((column) => column.name)
            .join(', ')} ${columns.length > 1 ? 'are' : 'is'} then the same twice`
        )
      ),
      ...after.foreignKeys
        .filter((key) => key.pairs.some((pair) => pair.column === id))
        .map(() => stops('that refers to nothing')),
      ...after.checks
        .filter((check) => check.condition.includes(`{${id}}`))
        .map((check) => stops(`${showExpression(check.condition, after.columns)} does not hold for that`))
    ]
  })
}

/**
 * Keys on columns that rows have a value in, which nothing kept apart before: no key of the table was
 * within them.
 * A new column has one where it is computed, filled or has a default; what is counted is different in
 * every row.
 */
function newKeys(before: Table, after: Table, rows: RowsAfter): Key[] {
  if (before.external || after.external) return []
  const apart = rows.unique(after.id)
  const hasValue = (id: string): boolean => {
    const made = columnOf(after, id)
    const begins = made?.default !== undefined && made.default.kind !== 'generated'
    return rows.has(after.id, id) || made?.computed !== undefined || begins
  }
  // What is computed, or computed otherwise, from now on has other values than those that were kept apart.
  const staysItself = (id: string): boolean =>
    columnOf(after, id)?.computed === columnOf(before, id)?.computed ||
    columnOf(after, id)?.computed === undefined
  return keysOf(after).filter(
    (key) =>
      key.columns.every(hasValue) &&
      !apart.some((set) => set.every((id) => key.columns.includes(id) && staysItself(id)))
  )
}

/** References by columns that were there, or that come with a default, which did not refer so before. */
function newReferences(before: Table, after: Table): ForeignKey[] {
  if (before.external || after.external) return []
  const says = (key: ForeignKey): string =>
    JSON.stringify([key.table, key.pairs.map((pair) => `${pair.column} ${pair.refersTo}`).sort()])
  const had = new Set(before.foreignKeys.map(says))
  return after.foreignKeys.filter(
    (key) =>
      key.pairs.every((pair) => columnOf(before, pair.column) ?? columnOf(after, pair.column)?.default) &&
      !had.has(says(key))
  )
}
