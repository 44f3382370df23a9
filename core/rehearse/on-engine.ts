import { tableOf } from '../design/directory.ts'
import type { Design, Row, TableId } from '../design/model.ts'
import type { Catalog } from '../dialect/catalog.ts'
import type { EngineRefusal, Provable, Query } from '../dialect/dialect.ts'
import { compareRows, insertRows, selectRows } from '../rows/statements.ts'
import { statementsOf } from './statements.ts'
import type { Rehearsed, Trial } from './trial.ts'

/** What an engine did with a trial, beside what was worked out. */
export interface EngineRun {
  /** What it refused, and the statement that it refused; the end of a transaction is none. */
  refusals: { statement: number | undefined; message: string; by: EngineRefusal | undefined; sql: string }[]
  /** Where its rows are others than was worked out: by table, how many are missing and how many too many. */
  differences: { table: TableId; missing: number; unexpected: number }[]
  /** Whether it did just what was worked out: the same rows in the end, and refusals of the same statements. */
  same: boolean
  /** What was said to it. */
  said: string[]
}

/**
 * Makes the design's tables and rows on an engine, does there what the trial says, and compares. Tables of other
 * systems, and references to them, are left out, as they are of what is worked out. The engine's current schema is
 * emptied first.
 * @throws what the engine says where it takes the tables or the rows not even before the trial.
 */
export async function runOnEngine(
  design: Design,
  anyVersion: Provable,
  query: Query,
  trial: Trial,
  rehearsed: Rehearsed
): Promise<EngineRun> {
  const dialect = anyVersion.for(design)
  const catalog = ownCatalog(dialect.catalog(design).catalog)
  await dialect.engine.reset(query)
  for (const sql of dialect.engine.onConnect) await query(sql)
  for (const { sql } of dialect.create(catalog)) await query(sql)
  const [unheld, held] = dialect.engine.unheld
  await query(unheld)
  for (const { sql } of insertRows(inTheirOrder(design), catalog, dialect)) await query(sql)
  await query(held)
  const statements = statementsOf(design, catalog, dialect, trial, rehearsed.named)
  const { refusals, said } = await carryOut(statements, dialect, query, trial)
  const differences = await compareTables(design, catalog, dialect, query, rehearsed.rows)
  const refusedHere = refusals.map(({ statement }) => statement)
  const refusedThere = rehearsed.refusals.map(({ statement, when }) =>
    trial.together && when === 'at the end of the transaction' ? undefined : statement
  )
  const isSame = differences.length === 0 && JSON.stringify(refusedHere) === JSON.stringify(refusedThere)
  return { refusals, differences, same: isSame, said }
}

/** Rows go in as they stand, since nothing holds them then: some engines come to them in the order in which they did. */
const inTheirOrder = (design: Design): Design => ({
  ...design,
  tables: design.tables.map((table) => ({
    ...table,
    foreignKeys: table.foreignKeys.filter((key) => key.table !== table.id)
  }))
})

/** What is the design's own: other systems' tables are not there, and nothing sees to what rows hold already. */
function ownCatalog(catalog: Catalog): Catalog {
  const own = catalog.tables.filter(({ external }) => !external)
  const ids = new Set(own.map(({ id }) => id))
  const tables = own.map((table) => ({
    ...table,
    foreignKeys: table.foreignKeys.filter((key) => ids.has(key.table)),
    triggers: [],
    rowPolicies: [],
    rowSecurity: 'off' as const
  }))
  return { ...catalog, tables }
}

async function carryOut(
  statements: readonly (string | undefined)[],
  dialect: Provable,
  query: Query,
  { together, deferring }: Trial
): Promise<Pick<EngineRun, 'refusals' | 'said'>> {
  const refusals: EngineRun['refusals'] = []
  const said: string[] = []
  const take = async (sql: string, statement: number | undefined): Promise<boolean> => {
    said.push(sql)
    try {
      await query(sql)
      return true
    } catch (error) {
      const message = error instanceof Error ? error.message : String(error)
      refusals.push({ statement, message, by: dialect.engine.refusal(error), sql })
      return false
    }
  }
  const { defer } = dialect.engine
  if (together) {
    await take('BEGIN', undefined)
    if (deferring && defer !== undefined) await take(defer, undefined)
    let isGood = true
    for (const [at, sql] of statements.entries())
      if (isGood && sql !== undefined) isGood = await take(sql, at)
    if (isGood) isGood = await take('COMMIT', undefined)
    // After a commit that was refused some have ended the transaction, and some not.
    if (!isGood) await query('ROLLBACK').catch(() => undefined)
    return { refusals, said }
  }
  for (const [at, sql] of statements.entries()) if (sql !== undefined) await take(sql, at)
  return { refusals, said }
}

async function compareTables(
  design: Design,
  catalog: Catalog,
  dialect: Provable,
  query: Query,
  changed: ReadonlyMap<TableId, readonly Row[]>
): Promise<EngineRun['differences']> {
  const differences: EngineRun['differences'] = []
  for (const target of catalog.tables) {
    const table = tableOf(design, target.id)
    if (!table || table.columns.length === 0) continue
    const rows = changed.get(table.id) ?? table.rows
    const found = await query(selectRows(table, target, dialect))
    const { missing, unexpected } = compareRows({ ...table, rows: [...rows] }, found)
    if (missing + unexpected > 0) differences.push({ table: table.id, missing, unexpected })
  }
  return differences
}
