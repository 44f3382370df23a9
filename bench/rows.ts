import { mkdtempSync, rmSync, writeFileSync, copyFileSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Design } from '../core/design/model.ts'
import { script } from '../core/dialect/dialect.ts'
import { DIALECTS } from '../core/dialect/index.ts'
import { apply } from '../core/edit/apply.ts'
import type { Operation } from '../core/edit/operation.ts'
import { insertRows } from '../core/rows/statements.ts'
import { planMigration } from '../core/version/plan.ts'
import { migrationScript } from '../core/version/script.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { PostgresqlServer } from '../tests/postgresql.ts'
import { spread, type Spread } from './measure.ts'

/** How long a migration of a large table takes, against SQL for the same that was written by hand. */
export interface RowsLine {
  what: string
  measured: Spread
  yardstick: string
  against: Spread
}

const [first, second] = fernhollow().versions.map(({ design }) => design) as [Design, Design]
/** Each way so many times, in turn, so that a busy minute of the machine touches both; more of what is short. */
const RUNS = { long: 5, short: 21 }
const SHORT = 200
const MANY = 1_000_000
const FEW = 200_000

/** Admissions up to so many, every second of which has a medicine. */
const admissions = (count: number, numbers: string, at: string): string =>
  `INSERT INTO admission (admission_id, patient_id, finder_id, reason_code, admitted_at, weight_g, medicine_id)
  SELECT n, n % 12 + 1, NULL, 'ROAD', ${at}, 500, CASE WHEN n % 2 = 0 THEN n % 3 + 1 END FROM ${numbers} WHERE n > 100 AND n <= ${count}`

/** Version 1 to 2 on PostgreSQL: the junction is filled before it is held to anything. */
const BY_HAND_POSTGRESQL = `BEGIN;
LOCK TABLE admission IN ACCESS EXCLUSIVE MODE;
ALTER TABLE patient RENAME COLUMN ring TO ring_no;
ALTER TABLE patient RENAME CONSTRAINT patient_ring_uq TO patient_ring_no_uq;
ALTER TABLE medicine ADD COLUMN controlled boolean NOT NULL DEFAULT false;
CREATE TABLE dose (
  admission_id integer NOT NULL,
  medicine_id  integer NOT NULL,
  given_at     timestamptz NOT NULL DEFAULT CURRENT_TIMESTAMP,
  quantity     numeric(6,2) NOT NULL,
  unit_cost    numeric(8,2)
);
INSERT INTO dose (admission_id, medicine_id, given_at, quantity)
  SELECT admission_id, medicine_id, admitted_at, 1.00 FROM admission WHERE medicine_id IS NOT NULL;
ALTER TABLE admission DROP COLUMN medicine_id;
ALTER TABLE dose
  ADD CONSTRAINT dose_pk PRIMARY KEY (admission_id, medicine_id, given_at),
  ADD CONSTRAINT dose_admission_id_fk FOREIGN KEY (admission_id) REFERENCES admission (admission_id) ON DELETE CASCADE ON UPDATE CASCADE,
  ADD CONSTRAINT dose_medicine_id_fk FOREIGN KEY (medicine_id) REFERENCES medicine (medicine_id) ON DELETE RESTRICT ON UPDATE CASCADE;
CREATE INDEX dose_medicine_id_ix ON dose (medicine_id);
COMMIT;
`

/** The same on SQLite, which cannot drop a column that refers: the table is made anew. */
const BY_HAND_SQLITE = `PRAGMA foreign_keys = OFF;
BEGIN;
ALTER TABLE patient RENAME COLUMN ring TO ring_no;
ALTER TABLE medicine ADD COLUMN controlled BOOLEAN NOT NULL DEFAULT FALSE;
CREATE TABLE dose (
  admission_id INTEGER NOT NULL,
  medicine_id  INTEGER NOT NULL,
  given_at     TIMESTAMP WITH TIME ZONE NOT NULL DEFAULT CURRENT_TIMESTAMP,
  quantity     DECIMAL(6,2) NOT NULL,
  unit_cost    DECIMAL(8,2),
  CONSTRAINT dose_pk PRIMARY KEY (admission_id, medicine_id, given_at),
  CONSTRAINT dose_admission_id_fk FOREIGN KEY (admission_id) REFERENCES admission (admission_id) ON DELETE CASCADE ON UPDATE CASCADE,
  CONSTRAINT dose_medicine_id_fk FOREIGN KEY (medicine_id) REFERENCES medicine (medicine_id) ON DELETE RESTRICT ON UPDATE CASCADE
);
INSERT INTO dose (admission_id, medicine_id, given_at, quantity)
  SELECT admission_id, medicine_id, admitted_at, 1.00 FROM admission WHERE medicine_id IS NOT NULL;
CREATE TABLE admission_new (
  admission_id INTEGER NOT NULL CONSTRAINT admission_pk PRIMARY KEY AUTOINCREMENT,
  patient_id   INTEGER NOT NULL,
  finder_id    INTEGER,
  reason_code  CHAR(6) NOT NULL,
  admitted_at  TIMESTAMP WITH TIME ZONE NOT NULL DEFAULT CURRENT_TIMESTAMP,
  weight_g     INTEGER,
  CONSTRAINT admission_patient_id_fk FOREIGN KEY (patient_id) REFERENCES patient (patient_id) ON DELETE RESTRICT ON UPDATE CASCADE,
  CONSTRAINT admission_finder_id_fk FOREIGN KEY (finder_id) REFERENCES finder (finder_id) ON DELETE SET NULL ON UPDATE CASCADE,
  CONSTRAINT admission_reason_code_fk FOREIGN KEY (reason_code) REFERENCES reason (reason_code) ON DELETE RESTRICT ON UPDATE CASCADE
);
INSERT INTO admission_new SELECT admission_id, patient_id, finder_id, reason_code, admitted_at, weight_g FROM admission;
DROP TABLE admission;
ALTER TABLE admission_new RENAME TO admission;
CREATE INDEX admission_patient_id_ix ON admission (patient_id);
CREATE INDEX admission_finder_id_ix ON admission (finder_id);
CREATE INDEX admission_reason_code_ix ON admission (reason_code);
CREATE INDEX dose_medicine_id_ix ON dose (medicine_id);
PRAGMA foreign_key_check;
COMMIT;
`

/** The migrations that are measured on 200,000 rows, each with what a person would write for it. */
const CHANGES: { what: string; operations: Operation[]; up: string; down?: string }[] = [
  {
    what: 'a text becomes wider',
    operations: [
      { kind: 'column.retype', table: 't_big', column: 'c_big_a', type: { kind: 'text', length: 40 } }
    ],
    up: 'BEGIN; ALTER TABLE big ALTER COLUMN a TYPE varchar(40); COMMIT;'
  },
  {
    what: 'a list gets another value',
    operations: [
      { kind: 'enum.change', enum: { id: 'e_state', name: 'state', values: ['new', 'old', 'lost', 'found'] } }
    ],
    up: "BEGIN; ALTER TYPE state ADD VALUE 'found'; COMMIT;"
  },
  {
    what: 'five columns are dropped, and what they held is kept',
    operations: ['a', 'b', 'c', 'd', 'e'].map((name) => ({
      kind: 'column.remove',
      table: 't_big',
      column: `c_big_${name}`
    })),
    up: 'BEGIN; LOCK TABLE big IN ACCESS EXCLUSIVE MODE; CREATE TABLE kept AS SELECT big_id, a, b, c, d, e FROM big; ALTER TABLE big DROP COLUMN a, DROP COLUMN b, DROP COLUMN c, DROP COLUMN d, DROP COLUMN e; COMMIT;',
    down: 'BEGIN; LOCK TABLE big IN ACCESS EXCLUSIVE MODE; ALTER TABLE big ADD COLUMN a varchar(20), ADD COLUMN b varchar(20), ADD COLUMN c varchar(20), ADD COLUMN d varchar(20), ADD COLUMN e varchar(20); UPDATE big SET a = kept.a, b = kept.b, c = kept.c, d = kept.d, e = kept.e FROM kept WHERE kept.big_id = big.big_id; DROP TABLE kept; COMMIT;'
  }
]

function changed(design: Design, operations: Operation[]): Design {
  const result = apply(design, { kind: 'batch', operations })
  if (!result.ok) throw new Error(result.refusal.message)
  return result.design
}

/** One table with a list and five texts. */
const big = changed({ ...first, tables: [], enums: [], schemas: [], carries: [] }, [
  { kind: 'enum.add', enum: { id: 'e_state', name: 'state', values: ['new', 'old', 'lost'] } },
  {
    kind: 'table.add',
    table: {
      id: 't_big',
      name: 'big',
      columns: [
        { id: 'c_big_id', name: 'big_id', type: { kind: 'integer', size: 'normal' }, required: true },
        { id: 'c_big_state', name: 'state', type: { kind: 'enum', enum: 'e_state' }, required: true },
        ...['a', 'b', 'c', 'd', 'e'].map((name) => ({
          id: `c_big_${name}`,
          name,
          type: { kind: 'text' as const, length: 20 },
          required: false
        }))
      ],
      primaryKey: { id: 'k_big', columns: ['c_big_id'] },
      uniques: [],
      foreignKeys: [],
      checks: [],
      indexes: [],
      rowPolicies: [],
      rows: []
    }
  }
])

export async function benchRows(): Promise<RowsLine[]> {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-bench-'))
  const server = await PostgresqlServer.start()
  try {
    return [...onPostgresql(server, folder), ...onSqlite(folder)]
  } finally {
    server.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

function onPostgresql(server: PostgresqlServer, folder: string): RowsLine[] {
  const dialect = DIALECTS.postgresql
  const must = (database: string, ...args: string[]): void => {
    const said = server.psql(database, ['-q', '-v', 'ON_ERROR_STOP=1', ...args])
    if (said.status !== 0) throw new Error(said.err)
  }
  let made = 0
  const file = (sql: string): string => {
    const path = join(folder, `${made++}.sql`)
    writeFileSync(path, sql)
    return path
  }
  const base = (name: string, sql: string): void => {
    must('postgres', '-c', `CREATE DATABASE ${name}`)
    must(name, '-f', file(sql))
    must(name, '-c', 'VACUUM ANALYZE')
  }
  /** Milliseconds that the scripts take, each on a copy of its own; a later one on what the first left. */
  const time = (from: string, ...scripts: string[]): number => {
    must('postgres', '-c', `CREATE DATABASE trial TEMPLATE ${from}`)
    must('postgres', '-c', 'CHECKPOINT')
    for (const sql of scripts.slice(0, -1)) must('trial', '-f', file(sql))
    const last = file(scripts.at(-1) ?? '')
    const start = performance.now()
    must('trial', '-f', last)
    const taken = performance.now() - start
    must('postgres', '-c', 'DROP DATABASE trial')
    return taken
  }
  const compare = (what: string, from: string, ours: string[], byHand: string[]): RowsLine =>
    inTurn(
      what,
      () => time(from, ...ours),
      () => time(from, ...byHand)
    )
  const create = (design: Design): string => {
    const { catalog } = dialect.catalog(design)
    return script([...dialect.create(catalog), ...insertRows(design, catalog, dialect)])
  }

  base(
    'million',
    `${create(first)}${admissions(MANY, `generate_series(1, ${MANY}) n`, "timestamptz '2026-01-01' + n * interval '1 second'")};`
  )
  base(
    'big_base',
    `${create(big)}INSERT INTO big SELECT n, 'old', 'a' || n, 'b' || n, 'c' || n, 'd' || n, 'e' || n FROM generate_series(1, ${FEW}) n;`
  )
  const ends = { from: 'one', to: 'the other' }
  const whole = planMigration(first, second, dialect)
  return [
    compare(
      'version 1 to 2 of the demo with 1,000,000 admissions, on PostgreSQL',
      'million',
      [migrationScript(whole, 'up', ends)],
      [BY_HAND_POSTGRESQL]
    ),
    ...CHANGES.flatMap(({ what, operations, up, down }) => {
      const plan = planMigration(big, changed(big, operations), dialect)
      const [there, back] = (['up', 'down'] as const).map((way) => migrationScript(plan, way, ends)) as [
        string,
        string
      ]
      return [
        compare(`200,000 rows on PostgreSQL: ${what}`, 'big_base', [there], [up]),
        ...(down === undefined
          ? []
          : [compare('200,000 rows on PostgreSQL: and put back', 'big_base', [there, back], [up, down])])
      ]
    })
  ]
}

function onSqlite(folder: string): RowsLine[] {
  const dialect = DIALECTS.sqlite
  const run = (database: string, sql: string): void => {
    const { status, stderr } = spawnSync('sqlite3', ['-bail', join(folder, database)], {
      input: sql,
      encoding: 'utf8'
    })
    if (status !== 0) throw new Error(stderr)
  }
  const { catalog } = dialect.catalog(first)
  const numbers = `(WITH RECURSIVE counted(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM counted WHERE n < ${MANY}) SELECT n FROM counted)`
  const rows = admissions(MANY, numbers, "datetime('2026-01-01', n || ' seconds')")
  run(
    'million.sqlite',
    `BEGIN;${script([...dialect.create(catalog), ...insertRows(first, catalog, dialect)])}${rows};COMMIT;`
  )
  const time = (sql: string): number => {
    copyFileSync(join(folder, 'million.sqlite'), join(folder, 'trial.sqlite'))
    const start = performance.now()
    run('trial.sqlite', sql)
    return performance.now() - start
  }
  const up = migrationScript(planMigration(first, second, dialect), 'up', {
    from: 'version 1',
    to: 'version 2'
  })
  return [
    inTurn(
      'version 1 to 2 of the demo with 1,000,000 admissions, on SQLite',
      () => time(up),
      () => time(BY_HAND_SQLITE)
    )
  ]
}

function inTurn(what: string, ours: () => number, byHand: () => number): RowsLine {
  const times: { ours: number[]; byHand: number[] } = { ours: [], byHand: [] }
  for (let run = 0; run < ((times.ours[0] ?? 0) < SHORT ? RUNS.short : RUNS.long); run++) {
    times.ours.push(ours())
    times.byHand.push(byHand())
  }
  return {
    what,
    measured: spread(times.ours),
    yardstick: 'the same, written by hand',
    against: spread(times.byHand)
  }
}
