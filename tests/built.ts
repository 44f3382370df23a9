import type { Design } from '../core/design/model.ts'
import type { Provable } from '../core/dialect/index.ts'
import { insertRows } from '../core/rows/statements.ts'
import type { Engine } from '../server/engine/engine.ts'

/** Makes a design's tables on an engine that is emptied first, with its rows, whatever they refer to. */
export async function build(design: Design, dialect: Provable, engine: Engine): Promise<void> {
  const { catalog } = dialect.catalog(design)
  await dialect.engine.reset(engine.query)
  for (const sql of dialect.engine.onConnect) await engine.query(sql)
  for (const { sql } of dialect.create(catalog)) await engine.query(sql)
  const [unheld, held] = dialect.engine.unheld
  await engine.query(unheld)
  for (const { sql } of insertRows(design, catalog, dialect)) await engine.query(sql)
  await engine.query(held)
}
