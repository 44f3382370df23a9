import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { findingsIn } from '../check/index.ts'
import { emptyDesign, emptyTable, type Column, type Design } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import { planMigration } from '../version/plan.ts'
import type { DialectName } from './dialect.ts'
import { DIALECTS } from './index.ts'
import { isBefore } from './versions.ts'
import { writeSql } from '../definitions/create-script.ts'

const column = (id: string, type: Column['type'], more: Partial<Column> = {}): Column => ({
  id,
  name: id.slice(2),
  type,
  required: false,
  ...more
})

/** A table of a carer's visits, with what the versions of engines differ in. */
const visits = (dialect: DialectName, oldest?: string, more: Partial<Column> = {}): Design => ({
  ...emptyDesign('Visits', 'd_visits'),
  dialects: [dialect],
  ...(oldest !== undefined && { oldest: { [dialect]: oldest } }),
  tables: [
    {
      ...emptyTable('visit', 't_visit'),
      columns: [
        column('c_visit_code', { kind: 'uuid' }, { required: true }),
        column('c_carer', { kind: 'text', length: 40 }),
        column('c_is_open', { kind: 'boolean' }),
        column('c_notes', { kind: 'json' }),
        column('c_called', { kind: 'text', length: 40 }, { computed: 'trim({c_carer})', ...more })
      ],
      primaryKey: { id: 'k_visit', columns: ['c_visit_code'] },
      checks: [{ id: 'x_open', condition: '{c_is_open} OR {c_carer} IS NOT NULL' }]
    }
  ]
})

const generating = (design: Design): Design => ({
  ...design,
  tables: design.tables.map((table) => ({
    ...table,
    columns: table.columns.map((each) =>
      each.id === 'c_visit_code'
        ? { ...each, default: { kind: 'expression' as const, expression: 'new_uuid()' } }
        : each
    )
  }))
})

describe('the version of an engine', () => {
  it('comes before another by its numbers, and not by its letters', () => {
    const version = fc.tuple(fc.nat(3000), fc.option(fc.nat(99), { nil: undefined }))
    const text = ([first, second]: [number, number | undefined]): string =>
      second === undefined ? String(first) : `${first}.${second}`
    fc.assert(
      fc.property(version, version, (one, other) => {
        const [a, b] = [one, other].map(([first, second = 0]) => first * 1000 + second) as [number, number]
        expect(isBefore(text(one), text(other))).toBe(a < b)
      })
    )
    expect(isBefore('9', '10')).toBe(true)
  })

  it('is the usual one where none is said, or none that is known', () => {
    for (const dialect of Object.values(DIALECTS)) {
      const { versions, oldest } = dialect.facts
      expect(versions.all).toContain(versions.usual)
      expect(oldest).toBe(versions.usual)
      expect(dialect.for({ oldest: { [dialect.name]: '1' } })).toBe(dialect)
      for (const version of versions.all)
        expect(dialect.for({ oldest: { [dialect.name]: version } }).facts.oldest).toBe(version)
    }
  })

  it.each<[DialectName, older: string, newer: string, onlyOlder: RegExp, onlyNewer: RegExp]>([
    ['mariadb', '10.6', '10.11', /visit_code char\(36\).*REGEXP/s, /visit_code uuid/],
    ['sqlserver', '2016', '2017', /ltrim\(rtrim\(carer\)\)/, /[^r]trim\(carer\)/],
    ['oracle', '21', '23', /is_open\s+number\(1\).*is_open = 1/s, /is_open\s+boolean/]
  ])('%s writes otherwise for %s than for %s', (name, older, newer, onlyOlder, onlyNewer) => {
    const [old, fresh] = [older, newer].map((version) => writeSql(visits(name, version), DIALECTS[name]))
    expect(old).toContain(`for ${DIALECTS[name].title} ${older} and later`)
    expect(old).toMatch(onlyOlder)
    expect(old).not.toMatch(onlyNewer)
    expect(fresh).toMatch(onlyNewer)
    expect(fresh).not.toMatch(onlyOlder)
  })

  it.each<[DialectName, too: string, enough: string, about: string]>([
    ['postgresql', '12', '13', 'gen_random_uuid'],
    ['sqlite', '3.35', '3.38', 'json_valid']
  ])('%s %s lacks what came with %s: a finding, which its fix mends', (name, too, enough, about) => {
    const of = (design: Design): string[] =>
      [...findingsIn(design).values()]
        .flat()
        .flatMap(({ rule, message }) => (rule === 'version that is too old' ? [message] : []))
    const design = generating(visits(name, too))
    const [found] = [...findingsIn(design).values()]
      .flat()
      .filter(({ rule }) => rule === 'version that is too old')
    expect(found?.message).toContain(about)
    const mended = found?.fix && apply(design, found.fix.operation)
    expect(mended?.ok && mended.design.oldest).toEqual({ [name]: enough })
    expect(mended?.ok && of(mended.design)).toEqual([])
    const back = mended?.ok && apply(mended.design, mended.inverse)
    expect(back && back.ok && back.design).toEqual(design)
  })

  it('that changes makes of one type another, there and back', () => {
    const [old, fresh] = [visits('mariadb', '10.6'), visits('mariadb', '10.11')]
    const plan = planMigration(old, fresh, DIALECTS.mariadb)
    expect(plan.up.map(({ sql }) => sql).join('\n')).toMatch(/MODIFY COLUMN visit_code uuid/)
    expect(plan.down.map(({ sql }) => sql).join('\n')).toMatch(/MODIFY COLUMN visit_code char\(36\)/)
    expect(plan.dialect.facts.oldest).toBe('10.11')
  })

  it('that is too old for DROP EXPRESSION gets a column in its place', () => {
    const free = { computed: undefined }
    const ways = ['12', '13'].map((version) =>
      planMigration(visits('postgresql', version), visits('postgresql', version, free), DIALECTS.postgresql)
        .up.map(({ sql }) => sql)
        .join('\n')
    )
    expect(ways[0]).not.toContain('DROP EXPRESSION')
    expect(ways[0]).toContain('RENAME COLUMN called_kept TO called')
    expect(ways[1]).toContain('DROP EXPRESSION')
  })
})
