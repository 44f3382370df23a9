import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsIn } from '../../core/check/index.ts'
import { toDataAccess } from '../../core/definitions/data-access.ts'
import { shapeOf, type End, type Entity } from '../../core/definitions/shape.ts'
import { DATA_ACCESS } from '../../core/definitions/typescript-names.ts'
import { tableOf } from '../../core/design/directory.ts'
import {
  emptyDesign,
  emptyTable,
  type Design,
  type ForeignKey,
  type Row,
  type Table
} from '../../core/design/model.ts'
import { canonicalValue } from '../../core/design/same.ts'
import { DIALECTS, type Provable } from '../../core/dialect/index.ts'
import { referredPlace, referringPlaces } from '../../core/rows/sides.ts'
import { withSampleRows } from '../../core/rows/sample.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { build } from '../../tests/built.ts'
import { column } from '../../tests/columns.ts'
import { choices, grow } from '../../tests/designs.ts'
import { withJunctions } from '../../tests/junctions.ts'
import { owned } from '../../tests/owned.ts'
import { times } from '../../tests/times.ts'
import { Draws, drawnDesign } from '../../tests/trials.ts'
import { runModule } from '../../tests/typescript.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

type Held = Record<string, unknown>
type Ask = (row: Held, pair?: unknown) => Promise<unknown>
interface Taken {
  table: string
  rows: number
  does: string
}
/** Data access to one table, as it is without its types. */
interface Access {
  all(): Promise<Held[]>
  byKey(key: Held): Promise<Held | undefined>
  add(row: Held): Promise<Held>
  change(key: Held, change: Held): Promise<Held | undefined>
  remove(key: Held): Promise<Held | undefined>
  takesAlong(key: Held): Promise<Taken[]>
  withFigures?: { byKey(key: Held): Promise<Held> }
  of?: Record<string, Ask>
  count?: Record<string, Ask>
  has?: Record<string, Ask>
  attach?: Record<string, Ask>
  detach?: Record<string, Ask>
  set?: Record<string, Ask>
}

/** The data access that is written for a design, on an engine that has its tables and rows. */
async function accessTo(design: Design, dialect: Provable, engine: Engine): Promise<Record<string, Access>> {
  await build(design, dialect, engine)
  const { dataAccess } = runModule(toDataAccess(design, dialect), {})
  if (!dataAccess) return {}
  // What is bound is bytes for SQLite's driver only where they are a Buffer.
  const bound = (value: unknown): unknown => (value instanceof Uint8Array ? Buffer.from(value) : value)
  return (dataAccess as (query: Engine['query']) => Record<string, Access>)((sql, values) =>
    engine.query(sql, values?.map(bound))
  )
}

const entitiesOf = (design: Design): Entity[] =>
  shapeOf(design, DATA_ACCESS).entities.filter(({ is }) => is !== 'external')

/** A row as one text, whatever spelling its values have. */
const textOf = (entity: Entity, value: (field: Entity['fields'][number]) => unknown): string =>
  JSON.stringify(
    entity.fields
      .filter(({ given, type }) => given !== 'computed' && type.kind !== 'interval')
      .map((field) => {
        const held = value(field) ?? null
        if (held instanceof Uint8Array) return Buffer.from(held).toString('hex')
        const text =
          held !== null && field.type.kind === 'json' && typeof held !== 'string'
            ? JSON.stringify(held)
            : held
        return canonicalValue(text, field.type)
      })
  )
const inDesign = (entity: Entity, row: Row): string => textOf(entity, ({ id }) => row[id])
const inCode = (entity: Entity, row: Held): string => textOf(entity, ({ name }) => row[name])
const sorted = (texts: string[]): string[] => [...texts].sort()

/** A row of a design by the names in code. */
const called = (entity: Entity, row: Row): Held =>
  Object.fromEntries(entity.fields.map(({ id, name }) => [name, row[id] ?? null]))
const keyIn = ({ key }: Entity, row: Held): Held => Object.fromEntries(key.map((name) => [name, row[name]]))

/** The rows that a row leads to by an end, as the design itself has them. */
function expected(design: Design, { id }: Entity, end: End, row: Row): { of: Table; rows: Row[] } {
  const here = tableOf(design, id) as Table
  const holder = design.tables.find(({ foreignKeys }) =>
    foreignKeys.some((key) => key.id === end.reference)
  ) as Table
  const key = holder.foreignKeys.find((each) => each.id === end.reference) as ForeignKey
  if (!end.holds)
    return {
      of: holder,
      rows: referringPlaces(design, holder, key, here, row).map((place) => holder.rows[place] as Row)
    }
  const parent = tableOf(design, key.table) as Table
  const place = referredPlace(design, here, key, row)
  return { of: parent, rows: place === undefined ? [] : [parent.rows[place] as Row] }
}

const EVERY_TYPE = [
  ...['integer', 'bigint', 'decimal(12,4)', 'float', 'boolean', 'text', 'text(40)', 'char(6)', 'date'],
  ...['time', 'timestamp', 'timestamp zone', 'uuid', 'json', 'binary', 'binary(12)']
]
/** A table with a column of every type, its rows with something in each. */
function everyType(): Design {
  const columns = EVERY_TYPE.map((type, at) => column(`held_${at}`, type, { required: true }))
  const key = column('number', 'integer', { required: true })
  const table = {
    ...emptyTable('every type', 't_every'),
    columns: [key, ...columns],
    primaryKey: { id: 'k_every', columns: [key.id] }
  }
  return { ...emptyDesign('Every type', 'd_every'), tables: [table] }
}

/** Takes a row's pairs away one by one and all at once, and puts them back: nothing is otherwise then. */
async function takesJustThese(
  its: Access,
  across: string,
  asked: Held,
  between: Entity,
  [near, far]: [End, End],
  pairs: readonly Row[]
): Promise<void> {
  const { has = {}, attach = {}, detach = {}, set = {}, of = {} } = its
  const known = new Set(near.on.map(({ its: field }) => field))
  const all = pairs.map((pair) => called(between, pair))
  const partOf = (pair: Held, is: (field: string) => boolean): Held =>
    Object.fromEntries(Object.entries(pair).filter(([field]) => is(field)))
  const texts = async (): Promise<string[]> =>
    sorted(((await of[near.name]?.(asked)) as Held[]).map((pair) => inCode(between, pair)))
  const before = await texts()
  const [first] = all
  if (first) {
    const beyond = partOf(first, (field) => far.on.some(({ own }) => own === field) && !known.has(field))
    expect(await has[across]?.(asked, beyond)).toBe(true)
    await detach[across]?.(asked, beyond)
    expect(await has[across]?.(asked, beyond)).toBe(false)
    for (const pair of all)
      await attach[across]?.(
        asked,
        partOf(pair, (field) => !known.has(field))
      )
    expect(await texts()).toEqual(before)
  }
  await set[across]?.(asked, [])
  expect(await texts()).toEqual([])
  await set[across]?.(
    asked,
    all.map((pair) => partOf(pair, (field) => !known.has(field)))
  )
  expect(await texts()).toEqual(before)
}

/** A random design for a dialect; one that its engine would refuse is passed over. */
function drawnFor(drawn: readonly number[], dialect: Provable): Design {
  const draws = new Draws(drawn)
  const design = { ...withJunctions(draws, drawnDesign(draws, dialect.facts)), dialects: [dialect.name] }
  fc.pre([...findingsIn(design).values()].flat().every(({ severity }) => severity !== 'refused'))
  return design
}

/** Doses that copy what their medicine costs, also when they are of another, and say when they were changed. */
const changing: Design = {
  ...emptyDesign('Changing', 'd_changing'),
  tables: [
    {
      ...emptyTable('medicine', 't_medicine'),
      columns: [column('medicine_no', 'integer', { required: true }), column('cost', 'decimal(6,2)')],
      primaryKey: { id: 'k_medicine', columns: ['c_medicine_no'] },
      rows: [
        { c_medicine_no: 1, c_cost: '1.50' },
        { c_medicine_no: 2, c_cost: '2.25' }
      ]
    },
    {
      ...emptyTable('dose', 't_dose'),
      columns: [
        column('dose_no', 'integer', { required: true }),
        { ...column('medicine_no', 'integer', { required: true }), id: 'c_of' },
        column('unit_cost', 'decimal(6,2)', {
          copied: { foreignKey: 'f_dose', column: 'c_cost', again: true }
        }),
        column('note', 'text'),
        column('changed_at', 'timestamp', { renewed: 'application' })
      ],
      primaryKey: { id: 'k_dose', columns: ['c_dose_no'] },
      foreignKeys: [
        {
          id: 'f_dose',
          table: 't_medicine',
          key: 'k_medicine',
          pairs: [{ column: 'c_of', refersTo: 'c_medicine_no' }],
          onDelete: 'RESTRICT',
          onUpdate: 'NO ACTION'
        }
      ],
      rows: [{ c_dose_no: 1, c_of: 1, c_unit_cost: '1.50', c_changed_at: '2020-01-01 00:00:00' }]
    }
  ]
}

/** How often what was seen. */
function counter(): { seen: Map<string, number>; count: (what: string) => void } {
  const seen = new Map<string, number>()
  return { seen, count: (what) => void seen.set(what, (seen.get(what) ?? 0) + 1) }
}

const numbers = fc.array(fc.nat(9999), { minLength: 400, maxLength: 400 })

describe.each([
  ['sqlite', 60],
  ['postgresql', 25],
  ['mariadb', 25]
] as const)('data access, on %s', (name, often) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  it(`gives what the design’s own rows give, both ways and across, over ${often} random designs`, async () => {
    const { seen, count } = counter()
    await fc.assert(
      fc.asyncProperty(numbers, async (drawn) => {
        const design = drawnFor(drawn, dialect)
        const access = await accessTo(design, dialect, engine)
        const entities = entitiesOf(design)
        const byType = new Map(entities.map((entity) => [entity.type, entity]))
        for (const entity of entities) {
          const { rows } = tableOf(design, entity.id) as Table
          const its = access[entity.one] as Access
          const all = await its.all()
          expect(sorted(all.map((row) => inCode(entity, row)))).toEqual(
            sorted(rows.map((row) => inDesign(entity, row)))
          )
          for (const row of rows.slice(0, 3)) {
            const asked = called(entity, row)
            const found = await its.byKey(keyIn(entity, asked))
            expect(found && inCode(entity, found)).toBe(inDesign(entity, row))
            for (const end of entity.ends) {
              const { of, rows: theirs } = expected(design, entity, end, row)
              const other = byType.get(end.to) as Entity
              const wanted = sorted(theirs.map((each) => inDesign(other, each)))
              const isMissing = end.holds && !end.optional && theirs.length === 0
              if (isMissing) continue
              const given = [(await its.of?.[end.name]?.(asked)) ?? []].flat() as Held[]
              expect(sorted(given.map((each) => inCode(other, each))), `${entity.one}.${end.name}`).toEqual(
                wanted
              )
              if (end.many) expect(await its.count?.[end.name]?.(asked)).toBe(theirs.length)
              count(end.holds ? 'up' : of.id === entity.id ? 'to itself' : 'down')
            }
            for (const { name: across, by, on, to } of entity.across) {
              const near = entity.ends.find((end) => end.name === by) as End
              const { of: junction, rows: pairs } = expected(design, entity, near, row)
              const between = entities.find(({ id }) => id === junction.id) as Entity
              const far = between.ends.find((end) => end.name === on) as End
              const other = byType.get(to) as Entity
              const theirs = new Set(pairs.flatMap((pair) => expected(design, between, far, pair).rows))
              const given = (await its.of?.[across]?.(asked)) as Held[]
              expect(sorted(given.map((each) => inCode(other, each)))).toEqual(
                sorted([...theirs].map((each) => inDesign(other, each)))
              )
              expect(await its.count?.[across]?.(asked)).toBe(theirs.size)
              count('across')
              // What refers to a pair would go with it, and not come back.
              if (between.ends.some(({ holds }) => !holds)) continue
              await takesJustThese(its, across, asked, between, [near, far], pairs)
              count('set')
            }
          }
        }
      }),
      { numRuns: times(often) }
    )
    for (const what of ['up', 'down', 'to itself', 'across', 'set'])
      expect(seen.get(what), what).toBeGreaterThan(often / 3)
  })

  it('says beforehand what a delete takes along, and what refuses it', async () => {
    const { seen, count } = counter()
    await fc.assert(
      fc.asyncProperty(numbers, async (drawn) => {
        const design = drawnFor(drawn, dialect)
        const access = await accessTo(design, dialect, engine)
        const entities = entitiesOf(design)
        const countAll = async (): Promise<Map<string, number>> => {
          const counts = entities.map(async ({ one, table }): Promise<[string, number]> => [
            table,
            ((await access[one]?.all()) ?? []).length
          ])
          return new Map(await Promise.all(counts))
        }
        for (const entity of entities)
          for (const row of (tableOf(design, entity.id)?.rows ?? []).slice(0, 2)) {
            const key = keyIn(entity, called(entity, row))
            const taken = (await access[entity.one]?.takesAlong(key)) ?? []
            const before = await countAll()
            await engine.query('BEGIN')
            const failure = await access[entity.one]?.remove(key).then(
              () => undefined,
              (error: unknown) => error as Error
            )
            const after = failure ? undefined : await countAll()
            await engine.query('ROLLBACK')
            const refuses = taken.some(({ does }) => does === 'refuses')
            if (!after) {
              const isOtherwise = taken.some(
                ({ does }) => does === 'is emptied' || does === 'gets its default'
              )
              expect(refuses || isOtherwise, failure?.message).toBe(true)
              count(refuses ? 'refused' : 'refused otherwise')
              continue
            }
            const gone = entities.map(({ table }): [string, number] => [
              table,
              (before.get(table) ?? 0) - (after.get(table) ?? 0) - (table === entity.table ? 1 : 0)
            ])
            const goes = entities.map(({ table }): [string, number] => [
              table,
              taken.find((each) => each.table === table && each.does === 'goes')?.rows ?? 0
            ])
            expect(goes).toEqual(gone)
            count(goes.some(([, rows]) => rows > 0) ? 'taken along' : 'alone')
            if (refuses) count('said to be refused, and not')
          }
      }),
      { numRuns: times(often) }
    )
    for (const what of ['refused', 'taken along', 'alone'])
      expect(seen.get(what) ?? 0, what).toBeGreaterThan(often / 12)
    expect(seen.get('said to be refused, and not') ?? 0).toBeLessThan(times(often) / 4)
  })

  it('reads and puts in values of every type as they were', async () => {
    const seen = new Map<string, number>()
    const designs = fc
      .sample(choices(60, 20), { numRuns: times(often), seed: 16 })
      .map((taken) => grow(taken))
    for (const grown of [everyType(), ...designs]) {
      // What is copied is taken back as nothing else than what is there.
      const tables = owned(grown).tables.map((table) => ({
        ...table,
        columns: table.columns.map(({ copied: _, ...each }) => each)
      }))
      const design = { ...withSampleRows({ ...owned(grown), tables }), dialects: [dialect.name] }
      const access = await accessTo(design, dialect, engine)
      const isReferred = new Set(
        design.tables.flatMap(({ foreignKeys }) => foreignKeys.map(({ table }) => table))
      )
      for (const entity of entitiesOf(design)) {
        const its = access[entity.one] as Access
        if (entity.key.length === 0 || isReferred.has(entity.id)) continue
        for (const row of (await its.all()).slice(0, 3)) {
          const removed = (await its.remove(keyIn(entity, row))) as Held
          expect(await its.byKey(keyIn(entity, row))).toBeUndefined()
          const written = entity.fields.filter(({ given }) => given !== 'computed')
          const again = await its.add(Object.fromEntries(written.map(({ name }) => [name, removed[name]])))
          expect(again).toEqual(row)
          for (const { type, name } of entity.fields)
            if (row[name] !== null) seen.set(type.kind, (seen.get(type.kind) ?? 0) + 1)
        }
      }
    }
    for (const type of EVERY_TYPE) {
      const { kind } = column('held', type).type
      expect(seen.get(kind), kind).toBeGreaterThan(0)
    }
  })
})

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)(
  'what is done by hand at the demo, on %s',
  (name) => {
    const design: Design = { ...owned(fernhollow().design), dialects: [name] }
    let engine: Engine
    let access: Record<string, Access>
    const of = (table: string): Access => access[table] ?? expect.fail(`no ${table}`)
    const ask = (group: Record<string, Ask> | undefined, what: string): Ask =>
      group?.[what] ?? expect.fail(`no ${what}`)
    const rowsOf = (table: string): Row[] => design.tables.find((each) => each.name === table)?.rows ?? []
    beforeAll(async () => {
      engine = await openEngine(DIALECTS[name])
      access = await accessTo(design, DIALECTS[name], engine)
    })
    afterAll(() => engine.close())

    it('finds the medicines of an admission and the admissions of a medicine', async () => {
      const doses = rowsOf('dose')
      const admissionId = doses[0]?.c_dose_admission_id
      const medicines = (await ask(of('admission').of, 'medicinesByDose')({ admissionId })) as Held[]
      const its = doses.filter((row) => row.c_dose_admission_id === admissionId)
      expect(medicines.map(({ medicineId }) => medicineId).sort()).toEqual(
        [...new Set(its.map((row) => row.c_dose_medicine_id))].sort()
      )
      expect(await ask(of('admission').count, 'doses')({ admissionId })).toBe(its.length)
      const [medicine] = medicines as [Held]
      const admissions = (await ask(of('medicine').of, 'admissions')(medicine)) as Held[]
      expect(admissions.map((each) => each.admissionId)).toContain(admissionId)
    })

    it('attaches a pair with what it copies, once, counts it, and takes it away', async () => {
      const [given] = rowsOf('dose') as [Row]
      const row = { admissionId: given.c_dose_admission_id }
      const its = rowsOf('dose').filter((each) => each.c_dose_admission_id === row.admissionId)
      const taken = new Set(its.map((each) => each.c_dose_medicine_id))
      const medicine = rowsOf('medicine').find(
        (each) => !taken.has(each.c_medicine_medicine_id ?? null)
      ) as Row
      const pair = { medicineId: medicine.c_medicine_medicine_id }
      const { admission } = access as { admission: Access }
      const before = await ask(admission.count, 'doses')(row)
      expect(await ask(admission.has, 'medicinesByDose')(row, pair)).toBe(false)
      const facts = { ...pair, givenAt: '2026-05-03T09:40:00+02:00', quantity: '12.5' }
      const dose = (await ask(admission.attach, 'medicinesByDose')(row, facts)) as Held
      expect(dose.givenAt).toBe('2026-05-03T07:40:00Z')
      expect(Number(dose.unitCost)).toBe(Number(medicine.c_medicine_unit_cost))
      expect(await ask(admission.attach, 'medicinesByDose')(row, facts)).toEqual(dose)
      expect(await ask(admission.has, 'medicinesByDose')(row, pair)).toBe(true)
      expect(await ask(admission.count, 'doses')(row)).toBe(Number(before) + 1)
      await ask(admission.detach, 'medicinesByDose')(row, pair)
      expect(await ask(admission.has, 'medicinesByDose')(row, pair)).toBe(false)
      expect(await ask(admission.count, 'doses')(row)).toBe(before)
    })

    it('sets just these, and leaves what was there', async () => {
      const [diagnosis] = rowsOf('diagnosis') as [Row]
      const row = { admissionId: diagnosis.c_diagnosis_admission_id }
      const before = (await ask(of('admission').of, 'diagnoses')(row)) as Held[]
      const [kept] = before as [Held]
      const conditions = (await of('condition').all()).map(({ conditionId }) => conditionId)
      const other = conditions.find((each) => !before.some(({ conditionId }) => conditionId === each))
      const { admissionId: _, ...pair } = kept
      await ask(of('admission').set, 'conditions')(row, [pair, { ...pair, conditionId: other }])
      const now = (await ask(of('admission').of, 'diagnoses')(row)) as Held[]
      expect(now.map(({ conditionId }) => conditionId).sort()).toEqual([kept.conditionId, other].sort())
      expect(now).toContainEqual(kept)
      await ask(of('admission').set, 'conditions')(row, [])
      expect(await ask(of('admission').count, 'conditions')(row)).toBe(0)
    })

    it('follows a table’s relation to itself in both roles', async () => {
      const entity = entitiesOf(design).find(({ one }) => one === 'carerNote') as Entity
      const [refers] = entity.fields.filter(({ refersTo }) => refersTo?.entity === 'CarerNote')
      const answered = rowsOf('carer_note').find((row) => (row[refers?.id ?? ''] ?? null) !== null)
      const note = called(entity, answered as Row)
      const [up, down] = [
        entity.ends.find((end) => end.holds && end.to === 'CarerNote'),
        entity.ends.find((end) => !end.holds && end.to === 'CarerNote')
      ]
      const answers = (await ask(of('carerNote').of, up?.name ?? '')(note)) as Held
      const back = (await ask(of('carerNote').of, down?.name ?? '')(answers)) as Held[]
      expect(back.map((each) => inCode(entity, each))).toContain(inCode(entity, note))
    })

    it('says figures as fields', async () => {
      const figured = entitiesOf(design).find(({ figures }) => figures.length > 0) as Entity
      const [row] = await of(figured.one).all()
      const said = await of(figured.one).withFigures?.byKey(row as Held)
      expect(Object.keys(said ?? {})).toEqual([
        ...Object.keys(row ?? {}),
        ...figured.figures.map((each) => each.name)
      ])
    })

    it('changes a row, and what is copied and renewed with it, and its key', async () => {
      const small = await accessTo({ ...changing, dialects: [name] }, DIALECTS[name], engine)
      const [medicine, dose] = [small.medicine as Access, small.dose as Access]
      const before = (await dose.byKey({ doseNo: 1 })) as Held
      expect(before).toMatchObject({ medicineNo: 1, unitCost: '1.50', changedAt: '2020-01-01T00:00:00' })
      expect(await dose.change({ doseNo: 1 }, {})).toEqual(before)
      expect(await dose.change({ doseNo: 1 }, { note: undefined })).toEqual(before)
      expect(await dose.change({ doseNo: 77 }, { note: 'none' })).toBeUndefined()
      const noted = (await dose.change({ doseNo: 1 }, { note: "it's" })) as Held
      expect(noted).toMatchObject({ note: "it's", unitCost: '1.50' })
      expect(String(noted.changedAt) > '2026').toBe(true)
      expect(await dose.change({ doseNo: 1 }, { medicineNo: 2 })).toMatchObject({ unitCost: '2.25' })
      expect(await dose.change({ doseNo: 1 }, { medicineNo: 1, unitCost: '9' })).toMatchObject({
        medicineNo: 1
      })
      expect(await dose.change({ doseNo: 1 }, { doseNo: 5, note: null })).toMatchObject({
        doseNo: 5,
        note: null
      })
      expect(await dose.byKey({ doseNo: 1 })).toBeUndefined()
      expect(await dose.add({ doseNo: 6, medicineNo: 2 })).toMatchObject({ unitCost: '2.25', note: null })
      expect(await medicine.takesAlong({ medicineNo: 2 })).toEqual([
        { table: 'dose', rows: 1, does: 'refuses' }
      ])
      access = await accessTo(design, DIALECTS[name], engine)
    })

    it('refuses a field that there is none of, in plain words, before anything is written', async () => {
      await expect(of('finder').add({ name: 'Wren Halloway', 'name) VALUES (1); --': 1 })).rejects.toThrow(
        'finder has nothing called name) VALUES (1); --.'
      )
      expect(await of('finder').all()).toHaveLength(rowsOf('finder').length)
    })
  }
)
