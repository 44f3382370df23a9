import {
  columnOf,
  columnsIn,
  fold,
  isInPrimaryKey,
  nameOfTable,
  namesIn,
  tableOf
} from '../../design/directory.ts'
import type { Design, ForeignKey, Row, Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import type { Found, Rule } from '../finding.ts'

/**
 * A reference that follows from two others: where a dose has an admission, and that a patient, a patient of the dose's
 * own says the same again, until one of them is changed. Only what is called the same on the way is taken for the
 * same, and rows that differ speak for themselves.
 */
export const followingReference: Rule = {
  name: 'reference that follows from two others',
  find: (table, { ask }) =>
    ask(followingIn, table).map((each) => found(table, each, ask(nameOfTable, each.key.table)))
}

/** A reference, the name of the table by which it follows, and in how many rows both lead to the same. */
interface Following {
  key: ForeignKey
  over: string
  held: number
}

function found(table: Table, { key, over, held }: Following, other: string): Found {
  const columns = key.pairs.map(({ column }) => column)
  const names = namesIn(table, columns)
  const shared = (id: string): boolean =>
    isInPrimaryKey(table, id) ||
    table.foreignKeys.some((each) => each !== key && each.pairs.some(({ column }) => column === id))
  const own = columns.filter((id) => !shared(id))
  const evidence = held > 1 ? ` In all of the ${held} rows that have both, it is the same.` : ''
  const operations: Operation[] = [
    { kind: 'foreignKey.remove', table: table.id, foreignKey: key.id },
    ...own.map((column): Operation => ({ kind: 'column.remove', table: table.id, column }))
  ]
  return {
    severity: 'doubtful',
    column: columns[0] as string,
    message: `${table.name} refers to ${other} by ${names}, which its ${over} says already: the same question has two answers.${evidence}`,
    fix: {
      label: own.length > 0 ? `Ask its ${over}, and leave ${namesIn(table, own)} out` : `Ask its ${over}`,
      operation: { kind: 'batch', label: `leave ${names} of ${table.name} out`, operations }
    }
  }
}

function followingIn(design: Design, table: Table): Following[] {
  if (table.foreignKeys.length < 2) return []
  return table.foreignKeys.flatMap((key) => {
    for (const step of table.foreignKeys) {
      const over = step === key ? undefined : tableOf(design, step.table)
      if (!over || over.id === table.id || over.id === key.table) continue
      const last = over.foreignKeys.find((each) => each.table === key.table && isSame(table, key, over, each))
      const held = last && agreeing(table, key, step, over, last)
      if (held !== undefined) return [{ key, over: over.name, held }]
    }
    return []
  })
}

/** Called the same, and there wherever a row is. */
function isSame(table: Table, key: ForeignKey, over: Table, last: ForeignKey): boolean {
  const named = (of: Table, id: string): string => fold(columnOf(of, id)?.name ?? '')
  const isAlike = key.pairs.every((pair) =>
    last.pairs.some(
      (each) => each.refersTo === pair.refersTo && named(over, each.column) === named(table, pair.column)
    )
  )
  const isRequired = (of: Table, { pairs }: ForeignKey): boolean =>
    columnsIn(
      of,
      pairs.map(({ column }) => column)
    ).every(({ required }) => required)
  return isAlike && isRequired(table, key) && isRequired(over, last)
}

/** The rows in which both ways lead to the same; nothing where one leads elsewhere. */
function agreeing(
  table: Table,
  key: ForeignKey,
  step: ForeignKey,
  over: Table,
  last: ForeignKey
): number | undefined {
  const by = (row: Row, ids: readonly string[]): string => JSON.stringify(ids.map((id) => row[id] ?? null))
  const passed = new Map(
    over.rows.map((row) => [
      by(
        row,
        step.pairs.map(({ refersTo }) => refersTo)
      ),
      row
    ])
  )
  const places = key.pairs.map(
    (pair) => last.pairs.find((each) => each.refersTo === pair.refersTo)?.column ?? ''
  )
  let held = 0
  for (const row of table.rows) {
    const between = passed.get(
      by(
        row,
        step.pairs.map(({ column }) => column)
      )
    )
    if (!between) continue
    const isSaid =
      by(between, places) ===
      by(
        row,
        key.pairs.map(({ column }) => column)
      )
    if (!isSaid) return undefined
    held++
  }
  return held
}
