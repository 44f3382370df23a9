import { beforeEach, describe, expect, it } from 'vitest'
import { DIALECTS } from '../../core/dialect/index.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** Facts about the engines that the writers lean on; where one changes, what is written must change too. */
const all = async (engine: Engine, ...statements: string[]): Promise<void> => {
  for (const sql of statements) await engine.query(sql)
}

describe.each(['sqlite', 'postgresql'] as const)('%s', (name) => {
  let engine: Engine
  beforeEach(async () => {
    engine = await openEngine(DIALECTS[name])
    await all(engine, ...DIALECTS[name].engine.onConnect)
    return () => engine.close()
  })

  it('does not check a composite reference in which one column is null', async () => {
    await all(
      engine,
      'CREATE TABLE pen (ward_code char(3) NOT NULL, pen_no integer NOT NULL, PRIMARY KEY (ward_code, pen_no))',
      'CREATE TABLE stay (stay_id integer PRIMARY KEY, ward_code char(3), pen_no integer, FOREIGN KEY (ward_code, pen_no) REFERENCES pen (ward_code, pen_no))'
    )
    await engine.query("INSERT INTO stay VALUES (1, 'ICU', NULL)")
    await expect(engine.query("INSERT INTO stay VALUES (2, 'ICU', 3)")).rejects.toThrow(/foreign key/i)
  })

  it('makes no index on a foreign key column by itself', async () => {
    await all(
      engine,
      'CREATE TABLE ward (ward_id integer PRIMARY KEY)',
      'CREATE TABLE pen (pen_id integer PRIMARY KEY, ward_id integer REFERENCES ward (ward_id))'
    )
    const { tables } = await DIALECTS[name].engine.read(engine.query)
    expect(tables.find((table) => table.name === 'pen')?.indexes).toEqual([])
  })

  it('counts two nulls as different under a unique constraint', async () => {
    await all(
      engine,
      'CREATE TABLE patient (patient_id integer PRIMARY KEY, ring_no varchar(12) UNIQUE)',
      'INSERT INTO patient VALUES (1, NULL)',
      'INSERT INTO patient VALUES (2, NULL)'
    )
    await expect(
      all(engine, "INSERT INTO patient VALUES (3, 'A')", "INSERT INTO patient VALUES (4, 'A')")
    ).rejects.toThrow(/unique/i)
  })

  it('allows two cascades that meet in one table, and a circle of them', async () => {
    await all(
      engine,
      'CREATE TABLE a (id integer PRIMARY KEY)',
      'CREATE TABLE b (id integer PRIMARY KEY, a integer REFERENCES a (id) ON DELETE CASCADE)',
      'CREATE TABLE c (id integer PRIMARY KEY, a integer REFERENCES a (id) ON DELETE CASCADE, b integer REFERENCES b (id) ON DELETE CASCADE, c integer REFERENCES c (id) ON DELETE CASCADE)',
      'INSERT INTO a VALUES (1)',
      'INSERT INTO b VALUES (1, 1)',
      'INSERT INTO c VALUES (1, 1, 1, 1)',
      'DELETE FROM a'
    )
    expect(await engine.query('SELECT * FROM c')).toEqual([])
  })
})

describe('postgresql alone', () => {
  it('drops a unique constraint on the key’s own columns without a word, which is why none is written', async () => {
    const engine = await openEngine(DIALECTS.postgresql)
    await engine.query(
      'CREATE TABLE ward (ward_id integer, CONSTRAINT ward_pk PRIMARY KEY (ward_id), CONSTRAINT ward_uq UNIQUE (ward_id))'
    )
    expect((await DIALECTS.postgresql.engine.read(engine.query)).tables[0]).toMatchObject({
      primaryKey: { name: 'ward_pk' },
      uniques: []
    })
    await engine.close()
  })

  it('keeps a reference that is NOT VALID apart from one that is, until it is validated', async () => {
    const engine = await openEngine(DIALECTS.postgresql)
    await all(
      engine,
      'CREATE TABLE ward (ward_id integer PRIMARY KEY)',
      'CREATE TABLE pen (pen_id integer PRIMARY KEY, ward_id integer)',
      'ALTER TABLE pen ADD CONSTRAINT pen_fk FOREIGN KEY (ward_id) REFERENCES ward (ward_id) NOT VALID'
    )
    const name = async (): Promise<string | undefined> =>
      (await DIALECTS.postgresql.engine.read(engine.query)).tables.find((table) => table.name === 'pen')
        ?.foreignKeys[0]?.name
    expect(await name()).toBe('pen_fk (not validated)')
    await engine.query('ALTER TABLE pen VALIDATE CONSTRAINT pen_fk')
    expect(await name()).toBe('pen_fk')
    await engine.close()
  })
})

describe('sqlite alone', () => {
  let engine: Engine
  beforeEach(async () => {
    engine = await openEngine(DIALECTS.sqlite)
    return () => engine.close()
  })

  it('takes null into a key that is not an integer key, which is why NOT NULL is always written', async () => {
    await all(
      engine,
      'CREATE TABLE species (species_code CHAR(6) PRIMARY KEY)',
      'INSERT INTO species VALUES (NULL)',
      'INSERT INTO species VALUES (NULL)'
    )
    expect(await engine.query('SELECT count(*) AS n FROM species')).toEqual([{ n: 2 }])
  })

  it('fills INTEGER PRIMARY KEY by itself and INT PRIMARY KEY not, which is why a key that is not generated is INT', async () => {
    await all(
      engine,
      'CREATE TABLE a (id INTEGER NOT NULL PRIMARY KEY)',
      'INSERT INTO a DEFAULT VALUES',
      'CREATE TABLE b (id INT NOT NULL PRIMARY KEY)'
    )
    await expect(engine.query('INSERT INTO b DEFAULT VALUES')).rejects.toThrow(/NOT NULL/)
  })

  it('never gives a number again under AUTOINCREMENT, and does without it', async () => {
    for (const [table, words] of [
      ['a', 'AUTOINCREMENT'],
      ['b', '']
    ] as const)
      await all(
        engine,
        `CREATE TABLE ${table} (id INTEGER PRIMARY KEY ${words})`,
        `INSERT INTO ${table} DEFAULT VALUES`,
        `DELETE FROM ${table}`,
        `INSERT INTO ${table} DEFAULT VALUES`
      )
    expect(await engine.query('SELECT a.id AS a, b.id AS b FROM a, b')).toEqual([{ a: 2, b: 1 }])
  })
})
