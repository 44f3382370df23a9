import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { districts } from '../../demo/districts.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow, Maker } from '../../tests/designs.ts'
import { flawsOf } from '../design/integrity.ts'
import {
  emptyDesign,
  emptyTable,
  type Column,
  type Design,
  type ForeignKey,
  type Index,
  type Table
} from '../design/model.ts'
import { parseType } from '../design/type.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import type { Finding } from './finding.ts'
import { findingsIn, findingsOn, findingsInTurns } from './index.ts'
import { leavingOut } from './leaving-out.ts'
import { times } from '../../tests/times.ts'

function column(name: string, type: string, required = true): Column {
  const parsed = parseType(type)
  if (!parsed.ok) throw new Error(parsed.message)
  return {
    id: `c_${name
      .toLowerCase()
      .replaceAll(/[^a-z0-9_]/g, '_')
      .slice(0, 30)}`,
    name,
    type: parsed.value,
    required
  }
}
const KEY: Column = { ...column('pen_id', 'integer'), default: { kind: 'generated' } }
const table = (columns: Column[], rest: Partial<Table> = {}): Table => ({
  ...emptyTable('pen', 't_pen'),
  columns: [KEY, ...columns],
  primaryKey: { id: 'k_pen', columns: [KEY.id] },
  ...rest
})
const WARD: Table = {
  ...emptyTable('ward', 't_ward'),
  columns: [{ ...column('ward_code', 'char(3)'), id: 'c_code' }],
  primaryKey: { id: 'k_ward', columns: ['c_code'] }
}
const index = (id: string, unique: boolean): Index => ({
  id,
  columns: [{ column: 'c_ward', descending: false }],
  unique
})
const emptying = (columns: string[], onUpdate: ForeignKey['onUpdate']): ForeignKey => ({
  id: 'f_pen_ward',
  table: 't_ward',
  key: 'k_ward',
  pairs: columns.map((id) => ({ column: id, refersTo: 'c_code' })),
  onDelete: 'SET NULL',
  onUpdate
})
const design = (tables: Table[], dialects: string[] = ['postgresql', 'mariadb', 'sqlite']): Design => ({
  ...emptyDesign('Checks', 'd_c'),
  dialects,
  tables
})
const found = (of: Design): Finding[] => [...findingsIn(of).values()].flat()

/** Each rule with a table that it is about, what it says, and whether it has something to mend it with. */
const CASES: [
  rule: string,
  design: Design,
  severity: Finding['severity'],
  says: string | RegExp,
  mends: boolean
][] = [
  [
    'no primary key',
    design([{ ...table([]), primaryKey: undefined }]),
    'wrong',
    'pen has no primary key',
    true
  ],
  [
    'key column may be empty',
    design([
      table([column('ward', 'text(9)', false), column('no', 'integer')], {
        uniques: [{ id: 'k_u', columns: ['c_ward', 'c_no'] }]
      })
    ]),
    'doubtful',
    'ward, no is unique, but ward may be empty',
    true
  ],
  [
    'key with a column too many',
    design([
      table([column('no', 'integer')], {
        primaryKey: { id: 'k_pen', columns: ['c_pen_id', 'c_no'] },
        uniques: [{ id: 'k_u', columns: ['c_no'] }]
      })
    ]),
    'doubtful',
    'pen_id adds nothing to the primary key',
    true
  ],
  [
    'emptied, and required',
    design([
      WARD,
      table([column('ward_code', 'char(3)')], { foreignKeys: [emptying(['c_ward_code'], 'RESTRICT')] })
    ]),
    'refused',
    'Where what it refers to is deleted, ward_code of pen is to be emptied, and may not be empty: MariaDB refuses the table, and elsewhere that fails.',
    true
  ],
  [
    'emptied, and required',
    design(
      [
        WARD,
        table([column('ward_code', 'char(3)')], {
          primaryKey: { id: 'k_pen', columns: ['c_pen_id', 'c_ward_code'] },
          foreignKeys: [emptying(['c_ward_code'], 'SET NULL')]
        })
      ],
      ['sqlite']
    ),
    'wrong',
    'is deleted or gets another key, ward_code of pen is to be emptied, and may not be empty: that fails for each row',
    true
  ],
  [
    'index that is there already',
    design([table([column('ward', 'text(9)')], { indexes: [index('i_one', false), index('i_two', false)] })]),
    'doubtful',
    'The index on ward of pen does nothing that another index on the same does not.',
    true
  ],
  [
    'index that is there already',
    design([
      table([column('ward', 'text(9)')], {
        uniques: [{ id: 'k_u', columns: ['c_ward'] }],
        indexes: [index('i_one', true)]
      })
    ]),
    'doubtful',
    'The index on ward of pen does nothing that a key on the same does not.',
    true
  ],
  ['name', design([table([column('order', 'integer')])]), 'doubtful', 'order is a word of SQL', true],
  [
    'name',
    design([
      table([column('a_name_that_goes_on_for_rather_longer_than_any_engine_is_likely_to_want', 'integer')])
    ]),
    'doubtful',
    'is too long for PostgreSQL and MariaDB',
    true
  ],
  [
    'name',
    design([table([column('xmin', 'integer')])]),
    'doubtful',
    'PostgreSQL keeps the name xmin for itself: it is written as own_xmin.',
    true
  ],
  ['name', design([table([column('🦔', 'integer')])]), 'doubtful', 'MariaDB takes some characters', false],
  [
    'names alike when cut',
    design([
      table(
        ['one', 'two']
          .map((end) =>
            column(`a_name_that_goes_on_for_rather_longer_than_any_engine_is_likely_to_${end}`, 'integer')
          )
          .map((each, at) => ({ ...each, id: `c_long${at}` }))
      )
    ]),
    'doubtful',
    'is still the same as another',
    false
  ],
  [
    'key too long',
    design([
      table([column('title', 'text(1000)')], {
        indexes: [
          {
            id: 'i_t',
            columns: [
              { column: 'c_title', descending: false },
              { column: 'c_pen_id', descending: true }
            ],
            unique: false
          }
        ]
      })
    ]),
    'refused',
    'MariaDB refuses it (3,072).',
    true
  ],
  [
    'money in floating point',
    design([table([column('unitCost', 'float')])]),
    'wrong',
    'unitCost looks like money',
    true
  ],
  [
    'repeated group',
    design([
      table([
        column('phone1', 'text(20)', false),
        column('phone2', 'text(20)', false),
        column('phone_3', 'text(20)', false)
      ])
    ]),
    'doubtful',
    'phone1, phone2, phone_3 are one list in 3 columns',
    true
  ],
  [
    'undeclared reference',
    design([WARD, table([column('ward_code', 'char(3)')])]),
    'wrong',
    'ward_code looks like a reference to ward, but nothing holds it to it.',
    true
  ],
  [
    'undeclared reference',
    design([WARD, table([column('Ward_Code', 'text(9)', false)])]),
    'wrong',
    'the type is not that of its key (char(3))',
    true
  ]
]

describe('a check', () => {
  it.each(CASES)('finds: %s', (rule, of, severity, says, mends) => {
    const finding =
      found(of).find((each) => each.rule === rule) ??
      expect.fail(`nothing found: ${JSON.stringify(found(of))}`)
    expect(finding).toMatchObject({ severity, table: 't_pen' })
    expect(finding.message).toMatch(
      says instanceof RegExp ? says : new RegExp(says.replaceAll(/[().*]/g, '\\$&'))
    )
    expect(finding.fix !== undefined).toBe(mends)
    if (!finding.fix) return
    const mended = apply(of, finding.fix.operation)
    if (!mended.ok) throw new Error(mended.refusal.message)
    expect(flawsOf(mended.design)).toEqual([])
    expect(
      found(mended.design).filter((each) => each.rule === rule && each.message === finding.message)
    ).toEqual([])
  })

  it('finds nothing on what is right', () => {
    const right = design([
      WARD,
      table(
        [
          column('name', 'text(40)'),
          column('unit_cost', 'decimal(8,2)'),
          column('line1', 'text(9)', false),
          column('ring_no', 'text(9)', false)
        ],
        { uniques: [{ id: 'k_u', columns: ['c_ring_no'] }] }
      )
    ])
    expect(found(right)).toEqual([])
    const { versions } = fernhollow()
    expect(versions.slice(0, -1).flatMap(({ design: version }) => found(version))).toEqual([])
    // What only PostgreSQL has is lost elsewhere, and two of its names are words there.
    expect(
      new Set(versions.flatMap(({ design: version }) => found(version)).map(({ rule }) => rule))
    ).toEqual(new Set(['check that is lost', 'name', 'row policy that is lost']))
  })

  it('is about the dialects that a design is written for, and leaves another system’s tables alone', () => {
    const long = table([column('title', 'text(1000)')], { uniques: [{ id: 'k_u', columns: ['c_title'] }] })
    expect(found(design([long], ['sqlite']))).toEqual([])
    expect(found(design([long], ['postgresql']))[0]).toMatchObject({
      severity: 'doubtful',
      dialects: ['postgresql']
    })
    expect(found(design([{ ...long, external: true }]))).toEqual([])
  })

  it('keeps what it found while nothing that it asked has changed', () => {
    const of = design([WARD, table([column('ward_code', 'char(3)')])])
    const before = findingsOn(of, 't_pen')
    const elsewhere = apply(of, { kind: 'table.annotate', table: 't_ward', note: 'x' })
    expect(elsewhere.ok && findingsOn(elsewhere.design, 't_pen')).toBe(before)
    const renamed = apply(of, { kind: 'column.rename', table: 't_ward', column: 'c_code', name: 'letters' })
    expect(renamed.ok && findingsOn(renamed.design, 't_pen')).toEqual([])
    const called = { ...of, tables: [WARD, table([column('ward_code_ref', 'char(3)')])] }
    expect(findingsOn(called, 't_pen')).toEqual([])
    const other = apply(called, {
      kind: 'design.setPolicy',
      policy: { ...of.policy, reference: '{column}_ref' }
    })
    expect(other.ok && findingsOn(other.design, 't_pen').map((each) => each.rule)).toEqual([
      'undeclared reference'
    ])
  })

  it('mends by what is set now, and not by what was set when it was found', () => {
    const spoke = (n: number): Table => ({
      ...emptyTable(`spoke_${n}`, `t_spoke_${n}`),
      columns: [{ ...KEY, id: 'c_id' }, column('ward_code', 'char(3)')],
      primaryKey: { id: 'k_spoke', columns: ['c_id'] },
      foreignKeys: [{ ...emptying(['c_ward_code'], 'CASCADE'), onDelete: 'CASCADE' }]
    })
    const hub = design([WARD, ...Array.from({ length: 10 }, (_, n) => spoke(n))])
    const fixOf = (of: Design): Operation | undefined =>
      findingsOn(of, 't_ward').find(({ rule }) => rule === 'delete that reaches far')?.fix?.operation
    expect(fixOf(hub)).toBeDefined()
    const set = apply(hub, {
      kind: 'foreignKey.setActions',
      table: 't_spoke_3',
      foreignKey: 'f_pen_ward',
      onDelete: 'CASCADE',
      onUpdate: 'RESTRICT'
    })
    const fix = set.ok && fixOf(set.design)
    const mended = set.ok && fix && apply(set.design, fix)
    if (!mended || !mended.ok) return expect.fail()
    const actions = mended.design.tables[4]?.foreignKeys.map(({ onDelete, onUpdate }) => [onDelete, onUpdate])
    expect(actions).toEqual([['RESTRICT', 'RESTRICT']])
  })

  it('carries the values of a repeated group into its new table, row by row', () => {
    const rows: Table['rows'] = [
      { c_pen_id: 1, c_phone1: '111', c_phone2: '222' },
      { c_pen_id: 2, c_phone2: '333' }
    ]
    const of = design([
      table([column('phone1', 'text(20)', false), column('phone2', 'text(20)', false)], { rows })
    ])
    const [finding] = found(of)
    const split = finding?.fix && apply(of, finding.fix.operation)
    if (!split?.ok) throw new Error('it was not split')
    const [, phones] = split.design.tables
    expect(phones?.name).toBe('pen_phone')
    expect(phones?.rows.map((row) => Object.values(row))).toEqual([
      [1, 1, '111'],
      [1, 2, '222'],
      [2, 2, '333']
    ])
    expect(split.design.carries).toHaveLength(1)
  })
})

/** A finding as a person knows it again: what was found, and where. */
const known = ({ rule, table, column, message }: Finding): string =>
  JSON.stringify([rule, table, column, message])

/** All that was found; ids that a fix makes anew are told by the order in which they come. */
function settled(design: Design, findings: readonly Finding[]): unknown {
  const there = new Set<string>()
  JSON.stringify(design, (_key, value: unknown) => (typeof value === 'string' && there.add(value), value))
  return findings.map((finding) => {
    const made = new Map<string, string>()
    const text = JSON.stringify(finding, (key, value: unknown) => {
      if (typeof value !== 'string' || there.has(value) || !MADE.test(value)) return value
      if (!made.has(value)) made.set(value, `${key} ${made.size}`)
      return made.get(value)
    })
    return [...made.keys()].reduce((all, id, at) => all.replaceAll(`{${id}}`, `{${at}}`), text)
  })
}
const MADE = /^[a-z]_[a-z0-9]{10}$/

describe('what is found in any design', () => {
  it('is mended by what mends it: that can be done, leaves no flaw, and it is found no more', () => {
    fc.assert(
      fc.property(choices(40), (taken) => {
        const design = grow(taken)
        for (const finding of found(design)) {
          if (!finding.fix) continue
          const mended = apply(design, finding.fix.operation)
          if (!mended.ok) {
            // What stands in the way is said in words, with what else could be done.
            expect(mended.refusal.message, finding.message).toMatch(/\.$/)
            continue
          }
          expect(flawsOf(mended.design)).toEqual([])
          expect(found(mended.design).map(known)).not.toContain(known(finding))
        }
      }),
      { numRuns: times(150) }
    )
  })

  it('about some engines is found no more when nobody writes for these, which is offered until they are chosen', () => {
    let offered = 0
    fc.assert(
      fc.property(choices(40), (taken) => {
        const design = { ...grow(taken), dialects: [] }
        for (const finding of found(design)) {
          const way = leavingOut(design, finding)
          expect(way !== undefined, finding.message).toBe((finding.dialects?.length ?? 6) < 6)
          if (!way) continue
          offered++
          const left = apply(design, way.operation)
          if (!left.ok) return expect.fail(left.refusal.message)
          // What engines are left may have to say something of their own.
          expect(found(left.design).map(known)).not.toContain(known(finding))
          expect(found(left.design).flatMap((each) => leavingOut(left.design, each) ?? [])).toEqual([])
        }
      }),
      { numRuns: times(60) }
    )
    expect(offered).toBeGreaterThan(50)
  })

  it('is the same, with what mends it, whether it was looked for edit by edit or all at once', () => {
    let mending = 0
    fc.assert(
      fc.property(choices(40), (taken) => {
        const maker = new Maker()
        let design = emptyDesign('Fernhollow', 'd_test')
        for (const choice of taken) {
          const result = apply(design, maker.operation(design, choice))
          if (!result.ok) continue
          design = result.design
          findingsIn(design)
        }
        const [once, anew] = [found(design), found(structuredClone(design))].map((each) =>
          settled(design, each)
        )
        expect(once).toEqual(anew)
        mending += found(design).filter(({ fix }) => fix).length
      }),
      { numRuns: times(100) }
    )
    expect(mending).toBeGreaterThan(150)
  })

  it('is looked for with stops, and then at hand', () => {
    const design = districts(60)
    const stops = [...findingsInTurns(design)].length
    expect(stops).toBeGreaterThanOrEqual(5)
    expect(findingsIn(design)).toEqual(findingsIn({ ...design }))
    expect(findingsIn(design).size).toBeGreaterThan(0)
  })
})
