import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import {
  emptyDesign,
  emptyTable,
  type Column,
  type Design,
  type Row,
  type Table
} from '../core/design/model.ts'
import { DIALECTS, isProvable } from '../core/dialect/index.ts'
import { rulebookOf } from '../core/rehearse/rules.ts'
import { rehearse } from '../core/rehearse/run.ts'
import { insertRows } from '../core/rows/statements.ts'
import { openSqlite } from '../server/engine/sqlite.ts'
import { spread, type Spread } from './measure.ts'

/** One delete that takes many rows along, against SQLite doing the same. */
export interface CascadeLine {
  what: string
  measured: Spread
  yardstick: string
  against: Spread
}

/** What is short is done more often, so that it is measured as it runs in the long run, as SQLite does. */
const runsOver = (rows: number): number => Math.max(9, 200_000 / rows)
/** So many times before it is measured. */
const warmUp = (runs: number): number => Math.max(2, runs / 4)

const number = (id: string): Column => ({
  id: `c_${id}`,
  name: id,
  type: { kind: 'integer', size: 'normal' },
  required: true
})

function table(name: string, parent: string | undefined, rows: Row[]): Table {
  const columns = [number(`${name}_id`), ...(parent === undefined ? [] : [number(`${name}_${parent}_id`)])]
  return {
    ...emptyTable(name, `t_${name}`),
    columns,
    primaryKey: { id: `k_${name}`, columns: [`c_${name}_id`] },
    foreignKeys:
      parent === undefined
        ? []
        : [
            {
              id: `f_${name}`,
              table: `t_${parent}`,
              key: `k_${parent}`,
              pairs: [{ column: `c_${name}_${parent}_id`, refersTo: `c_${parent}_id` }],
              onDelete: 'CASCADE',
              onUpdate: 'CASCADE'
            }
          ],
    rows
  }
}

/** A patient with so many rows that go with it: a tenth of them admissions, the others their doses. */
function patientWith(count: number): Design {
  const admissions = Math.ceil(count / 10)
  const rows = (length: number, row: (at: number) => Row): Row[] =>
    Array.from({ length }, (_, at) => row(at + 1))
  return {
    ...emptyDesign('One patient', 'd_cascade'),
    tables: [
      table('patient', undefined, [{ c_patient_id: 1 }]),
      table(
        'admission',
        'patient',
        rows(admissions, (at) => ({ c_admission_id: at, c_admission_patient_id: 1 }))
      ),
      table(
        'dose',
        'admission',
        rows(count - admissions, (at) => ({ c_dose_id: at, c_dose_admission_id: (at % admissions) + 1 }))
      )
    ]
  }
}

setFlagsFromString('--expose_gc')
const collect = runInNewContext('gc') as () => void

/** Megabytes in use, after what is no longer needed was given back. */
function used(): number {
  collect()
  return process.memoryUsage().heapUsed / 1e6
}

export async function benchCascade(): Promise<{ lines: CascadeLine[]; memory: string }> {
  const lines: CascadeLine[] = []
  const grown: string[] = []
  for (const count of [1000, 100_000]) {
    const design = patientWith(count)
    const trial = { statements: [{ kind: 'delete' as const, table: 't_patient', rows: [0] }], together: true }
    const [ours, again, sqlite]: [number[], number[], number[]] = [[], [], []]
    const engine = await openSqlite()
    if (isProvable(DIALECTS.sqlite))
      for (const sql of DIALECTS.sqlite.engine.onConnect) await engine.query(sql)
    const { catalog } = DIALECTS.sqlite.catalog(design)
    for (const { sql } of DIALECTS.sqlite.create(catalog)) await engine.query(sql)
    for (const { sql } of insertRows(design, catalog, DIALECTS.sqlite)) await engine.query(sql)
    const timed = async (times: number[], work: () => unknown): Promise<void> => {
      const start = performance.now()
      await work()
      times.push(performance.now() - start)
    }
    const runs = runsOver(count)
    for (let run = 0; run < runs + warmUp(runs); run++) {
      // Nothing is known of a copy: what is looked up in its rows is worked out with it.
      const copy = structuredClone(design)
      const rules = rulebookOf(copy, DIALECTS.sqlite)
      const rehearsed = (): void => {
        // With the rows that are left, as SQLite has them then too.
        const { effects, rows } = rehearse(copy, rules, trial)
        if (rows.size !== 3) throw new Error(`the rows of ${rows.size} tables are others, not of 3`)
        if (effects.length !== count + 1) throw new Error(`${effects.length} effects, not ${count + 1}`)
      }
      await timed(ours, rehearsed)
      await timed(again, rehearsed)
      await engine.query('BEGIN')
      await timed(sqlite, () => engine.query('DELETE FROM patient WHERE patient_id = 1'))
      const [left] = await engine.query('SELECT count(*) AS n FROM dose')
      if (left?.n !== 0) throw new Error('SQLite has not deleted what refers')
      await engine.query('ROLLBACK')
    }
    const rules = rulebookOf(design, DIALECTS.sqlite)
    const before = used()
    const done = rehearse(design, rules, trial)
    void done.rows
    grown.push(
      `${Math.max(0, used() - before).toFixed(0)} MB for ${done.effects.length.toLocaleString('en-GB')} effects`
    )
    await engine.close()
    const rows = count.toLocaleString('en-GB')
    const against = spread(sqlite.slice(-runs))
    const yardstick = 'SQLite doing it'
    lines.push(
      {
        what: `rehearsing a delete that cascades over ${rows} rows, the first time`,
        measured: spread(ours.slice(-runs)),
        yardstick,
        against
      },
      { what: `the same over ${rows} rows, again`, measured: spread(again.slice(-runs)), yardstick, against }
    )
  }
  return { lines, memory: `What a rehearsal holds: ${grown.join(', ')}.` }
}
