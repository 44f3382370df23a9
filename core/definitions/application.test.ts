import { Ajv2020 } from 'ajv/dist/2020.js'
import addFormats from 'ajv-formats'
import fc from 'fast-check'
import { buildSchema, parse, validate, validateSchema } from 'graphql'
import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import page from '../../docs/shape.schema.json?raw'
import { fernhollow } from '../../demo/fernhollow.ts'
import { lifelike } from '../../demo/lifelike.ts'
import { choices, grow } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'
import { compileErrors, runModule } from '../../tests/typescript.ts'
import { tableOf } from '../design/directory.ts'
import type { Design, Row } from '../design/model.ts'
import { withSampleRows } from '../rows/sample.ts'
import { toGraphql } from './graphql.ts'
import { toJsonSchema } from './json-schema.ts'
import { shapeOf, shapeSchema, type Entity, type Shape } from './shape.ts'
import { toTypescript } from './typescript.ts'
import { TYPESCRIPT } from './typescript-names.ts'
import { toZod } from './zod.ts'

const demo = fernhollow().design
const DESIGNS = times(200)
const grown = fc.sample(choices(60, 20), { numRuns: DESIGNS, seed: 14 }).map((taken) => grow(taken))
const entityOf = (shape: Shape, table: string): Entity =>
  shape.entities.find((each) => each.table === table) ?? expect.fail(`no ${table}`)

/** A row as an application has it, by the names in code; bytes as that has them. */
function rowInCode(entity: Entity, row: Row, bytes: (hex: string) => unknown): Record<string, unknown> {
  return Object.fromEntries(
    entity.fields
      .filter(({ given }) => given !== 'computed')
      .map(({ id, name, type }) => {
        const value = row[id] ?? null
        if (value === null) return [name, null]
        if (type.kind === 'binary') return [name, bytes(String(value))]
        if (type.kind === 'json') return [name, JSON.parse(String(value))]
        const isText = type.kind === 'decimal' || (type.kind === 'integer' && type.size === 'big')
        return [name, isText ? String(value) : value]
      })
  )
}

/** Rows that break one rule each, and which. */
function brokenRows(entity: Entity, row: Record<string, unknown>): [what: string, row: unknown][] {
  const field = (is: (each: Entity['fields'][number]) => boolean): string | undefined =>
    entity.fields.find((each) => each.given !== 'computed' && each.list === undefined && is(each))?.name
  const needed = entity.fields.find(
    ({ name, optional, given, type }) =>
      !optional && given === undefined && row[name] !== undefined && !['json', 'native'].includes(type.kind)
  )?.name
  const long = field(({ type }) => type.kind === 'text' && type.length !== undefined)
  const whole = field(({ type }) => type.kind === 'integer' && type.size !== 'big')
  const list = entity.fields.find((each) => each.list !== undefined)?.name
  const digits = field(({ type }) => type.kind === 'decimal')
  return [
    ['nothing is so called', { ...row, nothing_is_so_called: 1 }],
    ...(needed === undefined
      ? []
      : [['what is needed is empty', { ...row, [needed]: null }] as [string, unknown]]),
    ...(long === undefined ? [] : [['too long', { ...row, [long]: '🦔'.repeat(4000) }] as [string, unknown]]),
    ...(whole === undefined ? [] : [['no whole number', { ...row, [whole]: 1.5 }] as [string, unknown]]),
    ...(list === undefined
      ? []
      : [['not in the list', { ...row, [list]: 'fierce as can be' }] as [string, unknown]]),
    ...(digits === undefined ? [] : [['no digits', { ...row, [digits]: '1e3' }] as [string, unknown]])
  ]
}

/** Holds every row of designs against what judges rows, and rows broken on purpose too; says how many there were. */
function judge(
  designs: readonly Design[],
  judgeOf: (design: Design) => (entity: Entity, row: unknown) => string | undefined,
  bytes: (hex: string) => unknown
): Map<string, number> {
  const seen = new Map<string, number>()
  const count = (what: string): unknown => seen.set(what, (seen.get(what) ?? 0) + 1)
  for (const design of designs) {
    const filled = withSampleRows(design)
    const shape = shapeOf(filled, TYPESCRIPT)
    const flawOf = judgeOf(filled)
    for (const entity of shape.entities)
      for (const row of (tableOf(filled, entity.id)?.rows ?? []).slice(0, 4)) {
        const good = rowInCode(entity, row, bytes)
        expect(flawOf(entity, good), `${entity.table}: ${JSON.stringify(good)}`).toBeUndefined()
        count('good')
        for (const [what, broken] of brokenRows(entity, good)) {
          expect(flawOf(entity, broken), `${entity.table}: ${what}`).toBeDefined()
          count(what)
        }
      }
  }
  return seen
}

describe('the shape of a design', () => {
  const shape = shapeOf(demo, TYPESCRIPT)

  it('has both ends of every relationship, each with a name of its own and the other’s fields', () => {
    for (const design of [demo, lifelike(40), ...grown]) {
      const { entities } = shapeSchema.parse(shapeOf(design, TYPESCRIPT))
      const byType = new Map(entities.map((entity) => [entity.type, entity]))
      expect(byType.size).toBe(design.tables.length)
      const ends = entities.flatMap((entity) => entity.ends.map((end) => ({ entity, end })))
      const references = design.tables.flatMap(({ foreignKeys }) => foreignKeys)
      expect(ends.filter(({ end }) => end.holds)).toHaveLength(references.length)
      expect(ends.filter(({ end }) => !end.holds)).toHaveLength(references.length)
      for (const entity of entities) {
        const { fields, across, figures, ends: own } = entity
        const names = [...fields, ...own, ...across, ...figures].map(({ name }) => name)
        expect(new Set(names).size).toBe(names.length)
        const known = new Set(fields.map(({ name }) => name))
        for (const { on, to } of own)
          for (const pair of on) {
            expect(known.has(pair.own)).toBe(true)
            expect(byType.get(to)?.fields.some(({ name }) => name === pair.its)).toBe(true)
          }
        for (const { by, on, through } of across) {
          expect(own.some(({ name, to }) => name === by && to === through)).toBe(true)
          expect(byType.get(through)?.ends.some(({ name, holds }) => name === on && holds)).toBe(true)
        }
      }
    }
  })

  it('is as its own schema in the documents has it', () => {
    expect(JSON.parse(page)).toEqual(JSON.parse(JSON.stringify(z.toJSONSchema(shapeSchema))))
    const ajv = new Ajv2020({ strict: false })
    const validate = ajv.compile(JSON.parse(page) as object)
    for (const design of [demo, ...grown.slice(0, 40)])
      expect(
        validate(JSON.parse(JSON.stringify(shapeOf(design, TYPESCRIPT)))),
        ajv.errorsText(validate.errors)
      ).toBe(true)
    expect(validate({ ...shape, entities: [{ ...shape.entities[0], many: 3 }] })).toBe(false)
  })

  it('leads across a junction, with columns of its own and without, to a table itself and through three sides', () => {
    expect(entityOf(shape, 'admission').across.map(({ name, to, through }) => [name, to, through])).toEqual([
      // A figure is called so already.
      ['medicinesByDose', 'Medicine', 'Dose'],
      ['conditions', 'Condition', 'Diagnosis']
    ])
    expect(entityOf(shape, 'species').across.map(({ name, to, by, on }) => [name, to, by, on])).toEqual([
      ['otherSpecies', 'Species', 'speciesConflictsBySpecies', 'otherSpecies'],
      ['species', 'Species', 'speciesConflictsByOtherSpecies', 'species']
    ])
    expect(entityOf(shape, 'carer_note').ends.map(({ name, to, many }) => [name, to, many])).toContainEqual([
      'carerNotesByAnswers',
      'CarerNote',
      true
    ])
    expect(entityOf(shape, 'dose').hasOwn).toBe(true)
    expect(entityOf(shape, 'stay').ends.find(({ name }) => name === 'pen')?.on).toEqual([
      { own: 'wardCode', its: 'wardCode' },
      { own: 'penNo', its: 'penNo' }
    ])
    expect(entityOf(shape, 'admission').ends.find(({ name }) => name === 'release')).toMatchObject({
      many: false,
      optional: true,
      holds: false
    })
  })

  it('says what is called otherwise in code, and why it cannot be so called there', () => {
    expect(shape.remarks).toEqual(['protected of species is called protected_ in code.'])
    const called = grown.flatMap((design) => shapeOf(design, TYPESCRIPT).remarks)
    expect(called.length).toBeGreaterThan(DESIGNS)
    expect(called.some((said) => said.startsWith('🦔 is called '))).toBe(true)
  })
})

describe('types for TypeScript', () => {
  it('are taken by its compiler, strictly, whatever the design and its names', () => {
    const designs = [demo, lifelike(60), ...grown]
    const texts = new Map(designs.map((design, at) => [`design-${at}.ts`, toTypescript(design)]))
    expect(compileErrors(texts)).toEqual([])
    const tables = designs.reduce((sum, design) => sum + design.tables.length, 0)
    const references = designs.reduce(
      (sum, { tables: each }) => sum + each.reduce((all, { foreignKeys }) => all + foreignKeys.length, 0),
      0
    )
    expect(tables).toBeGreaterThan(DESIGNS * 3)
    expect(references).toBeGreaterThan(DESIGNS)
  })

  it('tell the keys of tables apart, both ends of a relationship, and what must be given', () => {
    const wrong = [
      "import type { Admission, AdmissionWith, NewAdmission, NewDose, PatientWith, Stay } from './fernhollow'",
      'export const patientOf = (admission: AdmissionWith<"patient">): string => admission.patient.wardName',
      'export const first = (patient: PatientWith<"admissions">): Admission | undefined => patient.admissions[0]',
      'export const place = ({ wardCode, penNo }: Stay): string => `${wardCode} ${penNo}`',
      // From here on each is an error.
      'export const a = (admission: Admission): NewAdmission["patientId"] => admission.admissionId',
      'export const b: NewAdmission = {}',
      'export const c = (dose: NewDose): unknown => dose.cost',
      'export const d = (admission: Admission): unknown => admission.patient',
      'export const e = (admission: AdmissionWith<"finder">): string => admission.finder.name'
    ].join('\n')
    const errors = compileErrors(
      new Map([
        ['fernhollow.ts', toTypescript(demo)],
        ['use.ts', wrong]
      ])
    )
    expect(errors.map((each) => each.split(' ')[0])).toEqual([5, 6, 7, 8, 9].map((line) => `use.ts:${line}`))
  })
})

describe('schemas for Zod', () => {
  it('are taken by the compiler', () => {
    const texts = new Map(
      [demo, ...grown.slice(0, 25)].map((design, at) => [`design-${at}.ts`, toZod(design)])
    )
    expect(compileErrors(texts)).toEqual([])
  })

  it('take every row of a design, and refuse those that break a rule', () => {
    const seen = judge(
      [demo, ...grown],
      (design) => {
        const made = runModule(toZod(design), { zod: { z } }) as Record<string, z.ZodType>
        return ({ type }, row) => made[`new${type}`]?.safeParse(row).error?.message
      },
      (hex) => Buffer.from(hex, 'hex')
    )
    for (const [what, count] of seen) expect(count, what).toBeGreaterThan(5)
    expect(seen.get('good')).toBeGreaterThan(DESIGNS)
    expect(seen.size).toBe(7)
  })
})

describe('JSON Schema', () => {
  it('is one, takes every row of a design, and refuses those that break a rule', () => {
    const seen = judge(
      [demo, ...grown],
      (design) => {
        const ajv = new Ajv2020({ strict: true, allErrors: false, allowUnionTypes: true })
        addFormats.default(ajv)
        ajv.addSchema(JSON.parse(toJsonSchema(design)) as object, 'design')
        return ({ type }, row) => {
          const validate = ajv.getSchema(`design#/$defs/${encodeURIComponent(`New${type}`)}`)
          if (!validate) return `there is no New${type}`
          return validate(row) ? undefined : ajv.errorsText(validate.errors)
        }
      },
      (hex) => Buffer.from(hex, 'hex').toString('base64')
    )
    for (const [what, count] of seen) expect(count, what).toBeGreaterThan(5)
    expect(seen.size).toBe(7)
  })
})

describe('a schema for GraphQL', () => {
  it('is one, whatever the design and its names, and can be asked for every table', () => {
    let asked = 0
    for (const design of [demo, lifelike(60), ...grown]) {
      const schema = buildSchema(toGraphql(design))
      expect(validateSchema(schema)).toEqual([])
      const fields = Object.keys(schema.getQueryType()?.getFields() ?? {})
      const all = fields.filter((name) =>
        String(schema.getQueryType()?.getFields()[name]?.type).startsWith('[')
      )
      expect(all).toHaveLength(design.tables.length)
      asked += all.length
    }
    expect(asked).toBeGreaterThan(DESIGNS * 3)
  })

  it('leads along both ends, across junctions and to itself, and says what stands in a list', () => {
    const schema = buildSchema(toGraphql(demo))
    const question = (text: string): string[] => validate(schema, parse(text)).map(({ message }) => message)
    expect(
      question(`{
        admission(admissionId: 1) {
          patient { wardName species { commonName otherSpecies { latinName } } }
          medicinesByDose { name doses { quantity } }
          carerNotes { words carerNotesByAnswers { words } }
          release { releasedOn }
        }
        wards { housing }
      }`)
    ).toEqual([])
    expect(question('{ admission(admissionId: "one") { patient { nothing } } }')).toHaveLength(2)
    expect(toGraphql(demo)).toContain('  "Stands for: aviary"\n  AVIARY')
  })
})
