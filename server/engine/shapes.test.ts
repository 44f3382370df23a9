import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tableOf } from '../../core/design/directory.ts'
import { newId, type Design, type ForeignKey, type Table } from '../../core/design/model.ts'
import type { CatalogTable } from '../../core/dialect/catalog.ts'
import { PROVABLE } from '../../core/dialect/index.ts'
import { sayTable } from '../../core/dialect/qualified.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { junctionSides } from '../../core/relate/junction.ts'
import { newTable, proposeJunction } from '../../core/relate/propose.ts'
import { readingOf, type Reading } from '../../core/relate/reading.ts'
import type { Answers } from '../../core/restructure/change.ts'
import { offersFor } from '../../core/restructure/index.ts'
import type { OwnLine } from '../../core/restructure/pair-facts.ts'
import { relate, type HowMany, type RelationAnswers } from '../../core/restructure/relation.ts'
import { proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { testEngine } from '../../tests/engines.ts'
import { made } from '../../tests/made.ts'
import type { Engine } from './engine.ts'

/** Every shape that a relationship can have, added to the demo with its rows, on each engine. */

/** What of the demo is related here to something. */
const USED = ['person', 'species', 'patient', 'ward', 'pen', 'volunteer', 'skill', 'volunteer_skill']
const whole = fernhollow().versions[3]?.design as Design
const start: Design = {
  ...whole,
  carries: [],
  tables: whole.tables.filter(({ name }) => USED.includes(name))
}
type Make = (design: Design) => Operation

const need = (design: Design, name: string): Table =>
  design.tables.find((table) => table.name === name) ?? expect.fail(`no table ${name}`)
function run(design: Design, ...makes: Make[]): Design {
  return makes.reduce((current, make) => {
    const result = apply(current, make(current))
    return result.ok ? result.design : expect.fail(result.refusal.message)
  }, design)
}

/** A table that is made for it, so that something can be required of its rows. */
const anew =
  (name: string): Make =>
  () => ({ kind: 'table.add', table: newTable(name) })

/** As a person answers: how many of the other each has, and the other way round. */
const related =
  (table: string, other: string, howMany: [HowMany, HowMany], more: Partial<RelationAnswers> = {}): Make =>
  (design) =>
    made(
      relate(design, {
        table: need(design, table),
        other: need(design, other),
        howMany,
        onDelete: undefined,
        junction: undefined,
        resolve: undefined,
        ...more
      }) ?? expect.fail('nothing to do')
    )

interface Junction {
  name: string
  keyed?: 'pair' | 'own'
  own?: Omit<OwnLine, 'id'>[]
  roles?: [string, string]
}
const paired =
  (table: string, other: string, { name, keyed = 'pair', own = [], roles }: Junction): Make =>
  (design) =>
    related(table, other, ['any number of', 'any number of'], {
      roles,
      junction: {
        proposed: proposeJunction(design, need(design, table), need(design, other), roles),
        name,
        onDelete: ['CASCADE', 'RESTRICT'],
        own: own.map((line) => ({ ...line, id: newId('c') })),
        keyed,
        apart: roles ? 'once' : 'any',
        ids: { column: newId('c'), unique: newId('k') }
      }
    })(design)

const minded =
  (kind: string, table: string, other: string, answers?: Answers): Make =>
  (design) => {
    const of = need(design, table)
    const foreignKey = of.foreignKeys.find((key) => tableOf(design, key.table)?.name === other)
    const offer = offersFor(design, { table: of, foreignKey }).find((each) => each.kind === kind)
    return made(offer?.operation(answers) ?? expect.fail(`${kind} is not offered`))
  }

/** By its unique name, where its key is a number. */
const byName =
  (table: string, other: string): Make =>
  (design) => {
    const [of, to] = [need(design, table), need(design, other)]
    const [key] = to.uniques
    const refersTo = key?.columns[0] ?? expect.fail('it has no unique key')
    const type = to.columns.find(({ id }) => id === refersTo)?.type ?? expect.fail('no such column')
    const column = { id: newId('c'), name: `${other}_name`, type, required: true }
    return {
      kind: 'batch',
      operations: [
        { kind: 'column.add', table: of.id, column },
        {
          kind: 'foreignKey.add',
          table: of.id,
          foreignKey: {
            id: newId('f'),
            table: to.id,
            key: key?.id ?? '',
            pairs: [{ column: column.id, refersTo }],
            onDelete: 'RESTRICT',
            onUpdate: 'CASCADE'
          }
        }
      ]
    }
  }

const intoSchema =
  (table: string, schema: string): Make =>
  (design) => {
    const made = { id: newId('s'), name: schema }
    return {
      kind: 'batch',
      operations: [
        { kind: 'schema.add', schema: made },
        { kind: 'table.setSchema', table: need(design, table).id, schema: made.id }
      ]
    }
  }

/** What a relationship is to be recognised as: of the child, of the parent, by which columns. */
interface Seen {
  to: string
  ofChild: 'exactly one' | 'at most one'
  ofParent: Reading['ofParent']
  by: string[]
  identifying?: boolean
  /** Another key than the primary one. */
  byUnique?: boolean
}
interface Shape {
  make: Make[]
  table: string
  /** Those of its relationships that were made. */
  seen: Seen[]
  /** The tables that a junction stands between. */
  between?: string[]
}

const MANY: Pick<Seen, 'ofChild' | 'ofParent'> = { ofChild: 'exactly one', ofParent: 'any number of' }
const SIDE = { ...MANY, identifying: true }
const badge = anew('badge')

const SHAPES: Record<string, Shape> = {
  'one to many, required': {
    make: [badge, related('badge', 'volunteer', ['exactly one', 'any number of'])],
    table: 'badge',
    seen: [{ to: 'volunteer', ...MANY, by: ['volunteer_id'] }]
  },
  'one to many, optional': {
    make: [related('patient', 'ward', ['at most one', 'any number of'])],
    table: 'patient',
    seen: [{ to: 'ward', ofChild: 'at most one', ofParent: 'any number of', by: ['ward_code'] }]
  },
  'one to one by a unique foreign key, required': {
    make: [badge, related('badge', 'volunteer', ['exactly one', 'at most one'])],
    table: 'badge',
    seen: [{ to: 'volunteer', ofChild: 'exactly one', ofParent: 'at most one', by: ['volunteer_id'] }]
  },
  'one to one by a unique foreign key, optional': {
    make: [related('ward', 'volunteer', ['at most one', 'at most one'])],
    table: 'ward',
    seen: [{ to: 'volunteer', ofChild: 'at most one', ofParent: 'at most one', by: ['volunteer_id'] }]
  },
  'subtypes that share the key of one table': {
    make: [
      badge,
      anew('pass'),
      related('badge', 'volunteer', ['exactly one', 'at most one']),
      minded('shared key', 'badge', 'volunteer'),
      related('pass', 'volunteer', ['exactly one', 'at most one']),
      minded('shared key', 'pass', 'volunteer')
    ],
    table: 'pass',
    seen: [
      {
        to: 'volunteer',
        ofChild: 'exactly one',
        ofParent: 'at most one',
        by: ['volunteer_id'],
        identifying: true
      }
    ]
  },
  'identifying, one to many': {
    make: [
      badge,
      related('badge', 'ward', ['exactly one', 'any number of']),
      minded('identifying', 'badge', 'ward', { beside: 'counted', old: 'gone' })
    ],
    table: 'badge',
    seen: [{ to: 'ward', ...SIDE, by: ['ward_code'] }]
  },
  'non-identifying again': {
    make: [minded('non-identifying', 'pen', 'ward')],
    table: 'pen',
    seen: [{ to: 'ward', ...MANY, by: ['ward_code'] }]
  },
  'a composite foreign key': {
    make: [badge, related('badge', 'pen', ['exactly one', 'any number of'])],
    table: 'badge',
    seen: [{ to: 'pen', ...MANY, by: ['ward_code', 'pen_no'] }]
  },
  'to a unique key that is not the primary one': {
    make: [badge, byName('badge', 'skill')],
    table: 'badge',
    seen: [{ to: 'skill', ...MANY, by: ['skill_name'], byUnique: true }]
  },
  'across schemas': {
    make: [
      badge,
      intoSchema('badge', 'front_desk'),
      related('badge', 'patient', ['exactly one', 'any number of'])
    ],
    table: 'badge',
    seen: [{ to: 'patient', ...MANY, by: ['patient_id'] }]
  },
  "to another system's table": {
    make: [badge, related('badge', 'person', ['exactly one', 'any number of'])],
    table: 'badge',
    seen: [{ to: 'person', ...MANY, by: ['person_id'] }]
  },
  'several between the same two tables, told apart by roles': {
    make: [
      badge,
      ...['printed by', 'worn by'].map(
        (role): Make =>
          (design) =>
            related('badge', 'volunteer', ['exactly one', 'any number of'], { roles: ['', role] })(design)
      )
    ],
    table: 'badge',
    seen: [
      { to: 'volunteer', ...MANY, by: ['printed_by_volunteer_id'] },
      { to: 'volunteer', ...MANY, by: ['worn_by_volunteer_id'] }
    ]
  },
  'a table related to itself, one to many': {
    make: [
      related('volunteer', 'volunteer', ['at most one', 'any number of'], { roles: ['learner', 'mentor'] })
    ],
    table: 'volunteer',
    seen: [
      { to: 'volunteer', ofChild: 'at most one', ofParent: 'any number of', by: ['mentor_volunteer_id'] }
    ]
  },
  'a table related to itself, many to many, with two roles': {
    make: [paired('volunteer', 'volunteer', { name: 'mentoring', roles: ['mentor', 'learner'] })],
    table: 'mentoring',
    seen: [
      { to: 'volunteer', ...SIDE, by: ['mentor_volunteer_id'] },
      { to: 'volunteer', ...SIDE, by: ['learner_volunteer_id'] }
    ],
    between: ['volunteer', 'volunteer']
  },
  'many to many by the pair': {
    make: [paired('volunteer', 'ward', { name: 'duty' })],
    table: 'duty',
    seen: [
      { to: 'volunteer', ...SIDE, by: ['volunteer_id'] },
      { to: 'ward', ...SIDE, by: ['ward_code'] }
    ],
    between: ['volunteer', 'ward']
  },
  'many to many, the same pair at several times': {
    make: [
      paired('volunteer', 'pen', {
        name: 'duty',
        own: [{ name: 'begun_at', type: 'timestamp', inKey: true, required: true }]
      })
    ],
    table: 'duty',
    seen: [
      { to: 'volunteer', ...SIDE, by: ['volunteer_id'] },
      { to: 'pen', ...SIDE, by: ['ward_code', 'pen_no'] }
    ],
    between: ['volunteer', 'pen']
  },
  'many to many by a number of its own, the pair unique': {
    make: [paired('volunteer', 'ward', { name: 'duty', keyed: 'own' })],
    table: 'duty',
    seen: [
      { to: 'volunteer', ...MANY, by: ['volunteer_id'] },
      { to: 'ward', ...MANY, by: ['ward_code'] }
    ],
    between: ['volunteer', 'ward']
  },
  'a junction of three': {
    make: [
      paired('volunteer', 'ward', {
        name: 'duty',
        own: [
          { name: 'skill_id', type: '> skill', inKey: true, required: true },
          { name: 'set_by', type: '> staff.person', inKey: false, required: false }
        ]
      })
    ],
    table: 'duty',
    seen: [
      { to: 'volunteer', ...SIDE, by: ['volunteer_id'] },
      { to: 'ward', ...SIDE, by: ['ward_code'] },
      { to: 'skill', ...SIDE, by: ['skill_id'] },
      { to: 'person', ofChild: 'at most one', ofParent: 'any number of', by: ['set_by'] }
    ],
    between: ['volunteer', 'ward', 'skill']
  },
  'to a junction': {
    make: [badge, related('badge', 'volunteer_skill', ['exactly one', 'any number of'])],
    table: 'badge',
    seen: [{ to: 'volunteer_skill', ...MANY, by: ['volunteer_id', 'skill_id'] }]
  }
}

const namesOf = (table: Table, { pairs }: ForeignKey): string[] =>
  pairs.map(({ column }) => table.columns.find(({ id }) => id === column)?.name ?? '')

/** What a design says of a table's references, to be compared with what was wanted. */
function recognised(design: Design, table: Table): Seen[] {
  return table.foreignKeys.map((key) => {
    const { ofChild, ofParent, identifying } = readingOf(table, key)
    const parent = tableOf(design, key.table)
    return {
      to: parent?.name ?? '',
      ofChild,
      ofParent,
      by: namesOf(table, key),
      ...(identifying && { identifying }),
      ...(parent?.primaryKey?.id !== key.key && { byUnique: true })
    }
  })
}

/** A table's own name; where an engine has no schemas, that of its schema stands before it. */
const short = (name: string): string => sayTable(name).replace(/^(staff|front_desk)[._]/, '')

/** The same of what an engine holds, told from its catalog alone: there, what leans on something names it. */
function held(table: CatalogTable, tables: readonly CatalogTable[]): Seen[] {
  const primary = (of: CatalogTable | undefined): string[] => [...(of?.primaryKey?.columns ?? [])]
  return table.foreignKeys.map((key) => {
    const parent = tables.find(({ id }) => id === key.table)
    const keys = [primary(table), ...table.uniques.map(({ columns }) => columns)]
    const within = (columns: readonly string[]): boolean =>
      columns.length > 0 && columns.every((each) => key.columns.includes(each))
    const required = key.columns.every((id) => table.columns.find((each) => each.id === id)?.required)
    const isPrimary = JSON.stringify(primary(parent)) === JSON.stringify(key.refersTo)
    return {
      to: short(parent?.name ?? ''),
      ofChild: required ? 'exactly one' : 'at most one',
      ofParent: keys.some(within) ? 'at most one' : 'any number of',
      by: key.columns.map((id) => table.columns.find((each) => each.id === id)?.name ?? ''),
      ...(key.columns.every((each) => primary(table).includes(each)) && { identifying: true }),
      ...(!isPrimary && { byUnique: true })
    }
  })
}

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))('on %s', (_, dialect) => {
  let engine: Engine
  beforeAll(async () => {
    engine = await testEngine(dialect)
  })
  afterAll(() => engine.close())

  it.each(Object.entries(SHAPES))('%s', async (_what, { make, table, seen, between = [] }) => {
    const end = run(start, ...make)
    const of = need(end, table)
    expect(recognised(end, of)).toEqual(expect.arrayContaining(seen))
    expect(junctionSides(of).map((key) => tableOf(end, key.table)?.name)).toEqual(between)
    const proof = await proveMigration(start, end, dialect, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    const { tables } = await dialect.engine.read(engine.query)
    const found = tables.find(({ name }) => short(name) === table)
    expect(held(found ?? expect.fail('it is not there'), tables)).toEqual(expect.arrayContaining(seen))
  })
})
