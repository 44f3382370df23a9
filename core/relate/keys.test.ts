import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow } from '../../tests/designs.ts'
import { flawsOf } from '../design/integrity.ts'
import { columnsIn, referencesTo, sameSet, tableOf } from '../design/directory.ts'
import { emptyDesign, emptyTable, FIRST_POLICY, type Design, type Table } from '../design/model.ts'
import { parseType, type Parsed } from '../design/type.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { DIALECTS } from '../dialect/index.ts'
import { withSampleRows } from '../rows/sample.ts'
import { proposeKey } from './keys.ts'
import { inCase, tableName, wordsOf } from '../naming/names.ts'
import { adoptPolicy, renamingsUnder } from '../naming/policy.ts'
import { generatedInstead, switchKey, switchTo } from '../restructure/another-key.ts'
import { plural, singular } from '../naming/words.ts'
import { times } from '../../tests/times.ts'

const { design } = fernhollow()
const need = (id: string, of: Design = design): Table => tableOf(of, id) ?? expect.fail(id)
function done(of: Design, operation: Operation | Parsed<Operation>): Design {
  if ('ok' in operation && !operation.ok) throw new Error(operation.message)
  const result = apply(of, 'ok' in operation ? operation.value : operation)
  if (!result.ok) throw new Error(result.refusal.message)
  expect(flawsOf(result.design)).toEqual([])
  return result.design
}
const keyNames = (table: Table): string[] =>
  columnsIn(table, table.primaryKey?.columns ?? []).map((column) => column.name)

describe('a key for a table without one', () => {
  const table = (columns: [name: string, type: string, required?: boolean][]): Table => ({
    ...emptyTable('pen', 't_p'),
    columns: columns.map(([name, type, required = true], at) => {
      const parsed = parseType(type)
      return { id: `c_${at}`, name, type: parsed.ok ? parsed.value : expect.fail(type), required }
    })
  })
  it.each<[string, Table, string]>([
    [
      'is a unique key that is always filled',
      {
        ...table([
          ['a', 'text(9)'],
          ['b', 'integer']
        ]),
        uniques: [{ id: 'k_u', columns: ['c_1'] }]
      },
      'Make b the primary key'
    ],
    [
      'is a column that is called like one',
      table([
        ['name', 'text(9)'],
        ['pen_no', 'smallint']
      ]),
      'Make pen_no the primary key'
    ],
    [
      'is a generated number where nothing else will do',
      table([['name', 'text(9)']]),
      'Add pen_id, a generated number, as the primary key'
    ],
    [
      'is no column that holds no key well',
      table([['id', 'float']]),
      'Add pen_id, a generated number, as the primary key'
    ]
  ])('%s', (_, bare, says) => {
    const proposed = proposeKey(bare, FIRST_POLICY)
    expect(proposed.says).toBe(says)
    expect(
      keyNames(done({ ...emptyDesign('x'), tables: [bare] }, proposed.operation).tables[0] as Table)
    ).toHaveLength(1)
  })

  it('is the pair, for a table of two references', () => {
    const bare = done(design, { kind: 'key.setPrimary', table: 't_volunteer_skill', key: null })
    expect(proposeKey(need('t_volunteer_skill', bare), FIRST_POLICY).says).toBe(
      'Make volunteer_id, skill_id the primary key, one row for each pair'
    )
  })
})

describe('one key in another’s place', () => {
  it('takes along what refers to it, with its rows, and comes back by the other way', () => {
    const generated = done(design, generatedInstead(design, need('t_reason')))
    expect(keyNames(need('t_reason', generated))).toEqual(['reason_id'])
    const admission = need('t_admission', generated)
    expect(admission.columns.map((column) => column.name)).toContain('reason_id')
    expect(admission.columns.map((column) => column.name)).not.toContain('reason_code')
    const reasonOf = (of: Design, row: number): unknown => {
      const [reason, table] = [need('t_reason', of), need('t_admission', of)]
      const pair = table.foreignKeys.find((each) => each.table === 't_reason')?.pairs[0]
      return reason.rows.find((each) => each[pair?.refersTo ?? ''] === table.rows[row]?.[pair?.column ?? ''])
        ?.c_reason_description
    }
    for (const row of [0, 1, 5, 14]) expect(reasonOf(generated, row)).toBe(reasonOf(design, row))
    const [natural] = need('t_reason', generated).uniques
    const back = done(
      generated,
      switchKey(generated, need('t_reason', generated), natural ?? expect.fail('no natural key'))
    )
    expect(need('t_admission', back).columns.map((column) => [column.name, column.type.kind])).toEqual(
      need('t_admission').columns.map((column) => [column.name, column.type.kind])
    )
    for (const row of [0, 1, 5, 14]) expect(reasonOf(back, row)).toBe(reasonOf(design, row))
  })

  it('goes into the keys of what refers to it, and of what refers to that, and stops where it cannot be one', () => {
    const wider = done(
      done(design, { kind: 'check.remove', table: 't_species_conflict', check: 'x_species_conflict_once' }),
      { kind: 'unique.add', table: 't_species', key: { id: 'k_common', columns: ['c_species_common_name'] } }
    )
    const switched = done(
      wider,
      switchKey(wider, need('t_species', wider), { id: 'k_common', columns: ['c_species_common_name'] })
    )
    expect(keyNames(need('t_species_conflict', switched))).toEqual(['common_name', 'common_name_2'])
    const patient = done(design, {
      kind: 'column.require',
      table: 't_patient',
      column: 'c_patient_ring',
      required: false
    })
    expect(
      switchKey(patient, need('t_patient', patient), { id: 'k_patient_ring', columns: ['c_patient_ring'] })
    ).toMatchObject({ ok: false, message: expect.stringContaining('may be empty') as string })
    const ward = done(
      design,
      switchKey(design, need('t_ward'), { id: 'k_ward_name', columns: ['c_ward_name'] })
    )
    expect(keyNames(need('t_pen', ward))).toEqual(['ward_name', 'pen_no'])
    const [stay] = need('t_stay', ward).foreignKeys.filter(({ table }) => table === 't_pen')
    const columns = stay?.pairs.map(({ column }) => column) ?? []
    expect(columnsIn(need('t_stay', ward), columns).map(({ name }) => name)).toEqual(['ward_name', 'pen_no'])
  })
})

/** For each reference to a table, the place of the row that each row of the other table refers to. */
function ledTo(of: Design, parent: Table): string[] {
  return referencesTo(of, parent.id)
    .map(
      ({ table, foreignKey }) =>
        `${table.id} ${table.rows.map((row) => parent.rows.findIndex((each) => foreignKey.pairs.every((pair) => (row[pair.column] ?? null) !== null && each[pair.refersTo] === row[pair.column]))).join()}`
    )
    .sort()
}

describe('one key in another’s place, in any design', () => {
  it('leads every row to the row that it led to, and is taken back as one step', () => {
    let switched = 0
    fc.assert(
      fc.property(choices(50, 20), (taken) => {
        const of = withSampleRows(grow(taken))
        for (const table of of.tables) {
          for (const proposed of [
            generatedInstead(of, table),
            ...table.uniques.map((unique) => switchKey(of, table, unique))
          ]) {
            if (!proposed.ok) {
              expect(proposed.message).toMatch(/\.$/)
              continue
            }
            const result = apply(of, proposed.value)
            if (!result.ok) throw new Error(result.refusal.message)
            switched++
            const now = need(table.id, result.design)
            expect(flawsOf(result.design)).toEqual([])
            expect(ledTo(result.design, now)).toEqual(ledTo(of, table))
            const old = table.primaryKey
            const left = now.uniques.filter((key) => old && sameSet(key.columns, old.columns))
            const by = referencesTo(result.design, table.id).map(({ foreignKey }) => foreignKey.key)
            const had = table.uniques.map(({ id }) => id)
            expect(left.filter(({ id }) => by.includes(id) && !had.includes(id))).toEqual([])
            const back = apply(result.design, result.inverse)
            expect(back.ok && back.design).toEqual(of)
          }
        }
      }),
      { numRuns: times(60) }
    )
    expect(switched).toBeGreaterThan(100)
  })

  it('is made one first where it is none yet, and not where its rows are not apart', () => {
    expect(switchTo(design, need('t_patient'), ['c_patient_species_code'])).toEqual({
      ok: false,
      message: expect.stringMatching(
        /^Rows [\d, ]+ and \d+ more of patient are not apart in species_code, which is a key of it\.$/
      ) as string
    })
    const named = done(design, switchTo(design, need('t_medicine'), ['c_medicine_name']))
    expect(keyNames(need('t_medicine', named))).toEqual(['name'])
    expect(need('t_medicine', named).uniques.map((key) => key.columns)).toEqual([['c_medicine_medicine_id']])
    expect(keyNames(need('t_dose', named))).toEqual(['admission_id', 'medicine_name', 'given_at'])
    const optional = done(design, {
      kind: 'column.require',
      table: 't_finder',
      column: 'c_finder_name',
      required: false
    })
    expect(
      need(
        't_finder',
        done(optional, switchTo(optional, need('t_finder', optional), ['c_finder_name']))
      ).columns.find((column) => column.name === 'name')?.required
    ).toBe(true)
  })
})

describe('a naming policy', () => {
  const camel = {
    ...FIRST_POLICY,
    letterCase: 'UpperCamel' as const,
    tables: 'plural' as const,
    primaryKey: 'PK_{table}'
  }

  it('puts names into its letters, whatever they were in', () => {
    expect(
      ['pen_no', 'penNo', 'PenNo', 'PEN_NO', 'pen no', 'pen-no'].map((name) =>
        wordsOf(name).join(' ').toLowerCase()
      )
    ).toEqual(Array(6).fill('pen no'))
    expect(inCase('HTTPRequest_id', 'lower_snake')).toBe('http_request_id')
    expect(tableName('carer_note', camel)).toBe('CarerNotes')
    for (const name of [
      'diagnosis',
      'species',
      'patient',
      'box',
      'company',
      'person',
      'bus',
      'address',
      'house',
      'dose',
      'release',
      'analysis',
      'branch'
    ])
      expect(singular(plural(name))).toBe(name)
  })

  it('shows what it would rename, renames just that, and can be taken back at once', () => {
    const { renamings } = renamingsUnder(design, camel)
    expect(renamings).toContainEqual({
      what: 'table',
      place: 'carer_note',
      from: 'carer_note',
      to: 'CarerNotes'
    })
    expect(renamings).toContainEqual({ what: 'constraint', place: 'dose', from: 'dose_pk', to: 'PK_dose' })
    expect(renamings.some((each) => each.place === 'person')).toBe(false)
    const renamed = done(design, adoptPolicy(design, camel, true))
    expect(renamingsUnder(renamed, camel).renamings).toEqual([])
    const result = apply(design, adoptPolicy(design, camel, true))
    expect(result.ok && done(result.design, result.inverse)).toEqual(design)
  })

  it('for what is new leaves every name in the SQL as it is', () => {
    const names = (of: Design): string[] =>
      DIALECTS.postgresql
        .catalog(of)
        .catalog.tables.flatMap((table) => [
          table.name,
          ...[table.primaryKey, ...table.uniques, ...table.foreignKeys].map((each) => each?.name ?? ''),
          ...table.indexes.filter((index) => !index.id.endsWith('_ix')).map((index) => index.name)
        ])
    expect(names(done(design, adoptPolicy(design, camel, false)))).toEqual(names(design))
  })
})
