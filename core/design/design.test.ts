import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import page from '../../docs/design-file.schema.json?raw'
import { choices, Maker, TYPES } from '../../tests/designs.ts'
import { BOUNDS } from '../bounds.ts'
import { apply } from '../edit/apply.ts'
import { designFileJsonSchema, parseDesignFile, readDesignFile, writeDesignFile } from './file.ts'
import { emptyDesign, type Design, type Version } from './model.ts'
import { findTables } from './find.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { DIALECTS } from '../dialect/index.ts'
import type { DialectName } from '../dialect/dialect.ts'
import { LOOSE } from '../dialect/facts.ts'
import { ownDefault } from './spellings.ts'
import { parseType, typeText } from './type.ts'
import { fits, parseValue } from './value.ts'
import { defaultText, parseDefault } from './default.ts'
import { times } from '../../tests/times.ts'

describe('types and values as they are typed', () => {
  it('read back as they are written, however they are spaced', () => {
    for (const type of TYPES) {
      expect(parseType(typeText(type))).toEqual({ ok: true, value: type })
      expect(parseType(`  ${typeText(type).toUpperCase().replace('(', ' ( ').replace(')', ' ) ')} `)).toEqual(
        { ok: true, value: type }
      )
    }
  })

  it('are known again as each engine spells them, but for what an engine has no word for', () => {
    const others = (name: DialectName): string[] =>
      TYPES.flatMap((type) => {
        const { sql } = DIALECTS[name].type(type, LOOSE)
        const parsed = parseType(sql.toUpperCase())
        return parsed.ok && typeText(parsed.value) === typeText(type) ? [] : `${typeText(type)}: ${sql}`
      })
    expect(others('postgresql')).toEqual(['binary(16): bytea'])
    expect(others('mariadb')).toEqual([
      'timestamp zone: datetime(6)',
      'json: longtext',
      'interval: varchar(40)',
      'text(3000): longtext'
    ])
    expect(others('sqlite')).toEqual([
      'uuid: UUID_CHAR',
      'json: JSON_TEXT',
      'binary(16): BLOB',
      'interval: DURATION_TEXT'
    ])
    expect(others('sqlserver')).toEqual(['json: nvarchar(max)', 'interval: nvarchar(40)'])
    expect(others('oracle').filter((each) => !each.includes(': number('))).toEqual([
      'time: varchar2(8)',
      'uuid: raw(16)',
      'json: clob',
      'text(3000): clob'
    ])
  })

  it.each([
    ['int(11)', 'integer'],
    ['INT UNSIGNED', 'bigint'],
    ['bigint(20) unsigned', 'decimal(20,0)'],
    ['tinyint(1)', 'boolean'],
    ['tinyint', 'smallint'],
    ['NUMBER(8)', 'decimal(8,0)'],
    ['VARCHAR2 (20 CHAR)', 'text(20)'],
    ['varchar(20) character set utf8mb4 collate utf8mb4_bin', 'text(20)'],
    ['timestamp(6) with time zone', 'timestamp zone'],
    ['timestamp without time zone', 'timestamp'],
    ['interval day to second', 'interval'],
    ['char(3 BYTE)', 'char(3)'],
    ['money', 'decimal(19,4)'],
    ['text 40', 'text(40)'],
    ['Decimal 8 2', 'decimal(8,2)'],
    ['string', 'text'],
    ['number', 'integer'],
    ['yes/no', 'boolean'],
    ['date and time', 'timestamp']
  ])('what is called %s is %s', (spelled, own) => {
    const parsed = parseType(spelled)
    expect(parsed.ok && typeText(parsed.value)).toBe(own)
  })

  it.each([
    ["nextval('ward_id_seq'::regclass)", 'generated'],
    ["'box'::character varying(20)", "'box'"],
    ['((0))', '0'],
    ["(N'box')", "'box'"],
    ['NULL::text', ''],
    ['current_timestamp(6)', 'now'],
    ['(getdate())', 'now'],
    ["'a) or (b'", "'a) or (b'"],
    ['= (1) + (2)', '= (1) + (2)']
  ])('an engine’s default %s is %s', (printed, own) => expect(ownDefault(printed)).toBe(own))

  it('never fail on nonsense, but say what would do', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), (text) => {
        const parsed = parseType(text)
        if (!parsed.ok) expect(parsed.message).toMatch(/\.$/)
        for (const type of TYPES) {
          const value = parseValue(text, type)
          if (value.ok) expect(fits(value.value, type)).toBe(true)
        }
      }),
      { numRuns: times(500) }
    )
  })

  it('of a default read back as they are shown', () => {
    fc.assert(
      fc.property(fc.string(), fc.constantFrom(...TYPES), (text, type) => {
        const parsed = parseDefault(text, type)
        if (parsed.ok && parsed.value)
          expect(parseDefault(defaultText(parsed.value, type), type)).toEqual(parsed)
      }),
      { numRuns: times(1000) }
    )
  })

  it.each([
    ['2026-02-30', 'date'],
    ['25:00', 'time'],
    ['32768', 'smallint'],
    ['9223372036854775808', 'bigint'],
    ['1.234', 'decimal(8,2)'],
    ['NaN', 'float'],
    ['yes', 'boolean'],
    ['abcdefg', 'char(6)'],
    ['1; DROP TABLE patient', 'integer']
  ])('%s is no %s', (text, type) => {
    const parsed = parseType(type)
    expect(parsed.ok && parseValue(text, parsed.value).ok).toBe(false)
  })
})

describe('a design file', () => {
  const file = fernhollow()

  it('has one entity to a line, and a schema that is written down', () => {
    const text = writeDesignFile(file.design, file.versions.slice(0, 1))
    expect(text.split('\n').filter((line) => line.includes('"name": "patient_id"'))).toHaveLength(4)
    const written = JSON.parse(page) as unknown
    expect(written).toEqual(JSON.parse(JSON.stringify(designFileJsonSchema())))
  })

  it('says of each version what is otherwise in it, and is read as it was written', () => {
    const told = { versions: 0, shared: 0 }
    fc.assert(
      fc.property(choices(40), (taken) => {
        const maker = new Maker()
        let design = emptyDesign('Grown', 'd_grown')
        const versions: Version[] = []
        for (const [at, choice] of taken.entries()) {
          const result = apply(design, maker.operation(design, choice))
          if (result.ok) design = result.design
          if (at % 7 !== 6) continue
          const number = versions.length + 1
          versions.push({ number, note: `n${number}`, savedAt: '2026-05-03T07:40:00Z', design })
        }
        const text = writeDesignFile(design, versions)
        const read = readDesignFile(text)
        if (!read.ok) return expect.fail(read.message)
        const say = (each: Design): string => writeDesignFile(each)
        expect(say(read.value.design)).toBe(say(design))
        expect(read.value.versions.map((each) => say(each.design))).toEqual(
          versions.map((each) => say(each.design))
        )
        expect(writeDesignFile(read.value.design, read.value.versions)).toBe(text)
        told.versions += versions.length
        for (const [at, { design: state }] of read.value.versions.entries())
          told.shared += state.tables.filter((table) =>
            read.value.versions[at - 1]?.design.tables.includes(table)
          ).length
      }),
      { numRuns: times(150) }
    )
    expect(told.versions).toBeGreaterThan(250)
    expect(told.shared).toBeGreaterThan(60)
  })

  it('with a thousand versions is small enough to be read', () => {
    const versions = Array.from({ length: 1000 }, (_, at): Version => ({
      number: at + 1,
      note: '',
      savedAt: '2026-05-03T07:40:00Z',
      design: { ...file.design, name: `Fernhollow ${at}` }
    }))
    const text = writeDesignFile(file.design, versions)
    expect(text.length).toBeLessThan(BOUNDS.file / 100)
    const read = readDesignFile(text)
    expect(read.ok && read.value.versions.at(-1)?.design.name).toBe('Fernhollow 999')
  })

  it.each([
    [
      'a table that is not there',
      { set: {}, tables: [{ id: 't_nowhere', set: { name: 'x' } }] },
      'no table t_nowhere'
    ],
    ['one that cannot go', { set: {}, goneTables: ['t_nowhere'] }, 'no table t_nowhere'],
    ['an order that leaves one out', { set: {}, order: [] }, 'name each once'],
    ['nothing before it', undefined, 'no version before it']
  ])('whose version is otherwise in %s is refused with its place', (_, since, words) => {
    const json = JSON.parse(writeDesignFile(file.design, file.versions)) as { versions: object[] }
    const about = { number: 2, note: '', savedAt: '2026-05-03T07:40:00Z' }
    json.versions = since
      ? [json.versions[0] as object, { ...about, since }]
      : [{ ...about, number: 1, since: { set: {} } }]
    const read = parseDesignFile(json)
    expect(read.ok ? '' : read.message).toContain(words)
  })

  it('that was changed anywhere is read or refused in words, never with an exception', () => {
    const text = writeDesignFile(file.design)
    fc.assert(
      fc.property(fc.nat(text.length), fc.string({ maxLength: 6 }), fc.nat(8), (at, put, cut) => {
        const read = readDesignFile(text.slice(0, at) + put + text.slice(at + cut))
        if (!read.ok) expect(read.message).toMatch(/^This design file|^This is not a design file/)
      }),
      { numRuns: times(300) }
    )
  })
})

describe('finding a table', () => {
  const { design } = fernhollow()
  it('begins with the name, then a part of it, then a column', () => {
    expect(findTables(design, 'medicine').map(({ table }) => table.name)).toEqual(['medicine', 'dose'])
    expect(findTables(design, 'common').map(({ table, column }) => `${table.name}.${column?.name}`)).toEqual([
      'species.common_name'
    ])
    const within = findTables(design, 'spec.NAME').map(({ table, column }) => `${table.name}.${column?.name}`)
    expect(within).toEqual(['species.common_name', 'species.latin_name'])
    expect(findTables(design, '', 3)).toHaveLength(3)
  })
})
