import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { flawsOf } from '../design/integrity.ts'
import { columnOf, fullName, tableOf } from '../design/directory.ts'
import type { Design } from '../design/model.ts'
import { nativeFlaw, parseType, typeText } from '../design/type.ts'
import { parseValue } from '../design/value.ts'
import { parseDefault } from '../design/default.ts'
import { apply } from './apply.ts'
import { operationSchema } from './all.ts'
import type { Operation } from './operation.ts'

const { design } = fernhollow()
function done(of: Design, ...operations: Operation[]): Design {
  return operations.reduce((current, operation) => {
    const result = apply(current, operation)
    if (!result.ok) throw new Error(result.refusal.message)
    expect(flawsOf(result.design)).toEqual([])
    const back = apply(result.design, result.inverse)
    expect(back.ok && back.design).toEqual(current)
    return result.design
  }, of)
}
function refused(operation: Operation, of = design): string {
  const result = apply(of, operation)
  return result.ok ? 'it was done' : result.refusal.message
}
const dose = { table: 't_dose' }
const column = (name: string, type: string) => ({
  id: `c_new_${name}`,
  name,
  type: (() => {
    const parsed = parseType(type)
    return parsed.ok ? parsed.value : expect.fail(type)
  })(),
  required: false
})

describe('what a table holds its rows to', () => {
  it.each<[string, Operation, string]>([
    [
      'a column computed from itself',
      { kind: 'column.compute', ...dose, column: 'c_dose_cost', expression: '{c_dose_cost} + 1' },
      'Cost cannot be computed: it is worked out from itself (cost, cost).'
    ],
    [
      'a condition on a column that is not there',
      { kind: 'check.add', ...dose, check: { id: 'x_n', condition: '{c_nowhere} > 1' } },
      'There is no column called c_nowhere here.'
    ],
    [
      'a condition that changes with the moment',
      { kind: 'check.add', ...dose, check: { id: 'x_n', condition: '{c_dose_given_at} < now()' } },
      'now gives something else each time'
    ],
    [
      'an index on nothing',
      { kind: 'index.add', ...dose, index: { id: 'i_n', columns: [], unique: false } },
      'An index needs a column.'
    ],
    [
      'a column that a check needs',
      { kind: 'column.remove', table: 't_pen', column: 'c_pen_capacity' },
      'capacity cannot go by itself: a check needs it.'
    ],
    [
      'a type that a check makes no sense with',
      { kind: 'column.retype', table: 't_pen', column: 'c_pen_capacity', type: { kind: 'text' } },
      'capacity cannot be text while a check says what it does'
    ],
    [
      'a default on a computed column',
      {
        kind: 'column.setDefault',
        ...dose,
        column: 'c_dose_cost',
        default: { kind: 'value', value: '1.00' }
      },
      'cost is computed, so it has no default.'
    ],
    [
      'a computed key',
      { kind: 'key.setPrimary', ...dose, key: { id: 'k_n', columns: ['c_dose_cost'] } },
      'cost is computed, and a primary key is given'
    ],
    [
      'a list of values that columns use',
      { kind: 'enum.remove', enum: 'e_level' },
      'volunteer_skill has a column of level.'
    ],
    [
      'a value that a row has',
      { kind: 'enum.change', enum: { id: 'e_level', name: 'level', values: ['learning', 'trusted'] } },
      'Row 1 of volunteer_skill holds "teaching" in level'
    ],
    ['a schema with tables in it', { kind: 'schema.remove', schema: 's_staff' }, 'person stands in staff.'],
    [
      'a value in a computed column',
      { kind: 'table.setRows', ...dose, rows: [{ c_dose_cost: '1.00' }] },
      'cost is computed, so no value can be put there.'
    ]
  ])('%s is refused in plain words', (_, operation, message) => {
    const said = refused(operation)
    expect(said.toLowerCase()).toContain(message.toLowerCase())
    // What is offered can be done, or leads on to what can.
    let result = apply(design, operation)
    for (
      let offer = result.ok ? undefined : result.refusal.offers[0], tries = 0;
      offer;
      offer = result.ok ? undefined : result.refusal.offers[0]
    ) {
      expect(tries++).toBeLessThan(4)
      result = apply(design, offer.operation)
    }
  })

  it('round a circle of two is refused as well', () => {
    const two = done(design, {
      kind: 'column.add',
      ...dose,
      column: { ...column('twice', 'decimal(10,2)'), computed: '{c_dose_cost} * 2' }
    })
    expect(
      refused(
        { kind: 'column.compute', ...dose, column: 'c_dose_cost', expression: '{c_new_twice} / 2' },
        two
      )
    ).toContain('worked out from itself (cost, twice, cost)')
  })

  it('goes and comes back whole with the column that it is about', () => {
    const result = apply(design, { kind: 'column.remove', table: 't_pen', column: 'c_pen_capacity' })
    const offer = result.ok ? undefined : result.refusal.offers[0]
    expect(offer?.label).toBe('Remove a check and the column')
    expect(tableOf(done(design, offer?.operation as Operation), 't_pen')?.checks).toEqual([])
  })

  it('is named, left to the policy, changed and taken away, and each can be undone', () => {
    done(
      design,
      { kind: 'constraint.rename', ...dose, constraint: 'x_dose_quantity', name: 'some of it' },
      { kind: 'constraint.rename', ...dose, constraint: 'x_dose_quantity', name: null },
      { kind: 'check.change', ...dose, check: { id: 'x_dose_quantity', condition: '{c_dose_quantity} > 1' } },
      { kind: 'check.remove', ...dose, check: 'x_dose_quantity' },
      {
        kind: 'index.change',
        table: 't_carer_note',
        index: {
          id: 'i_carer_note_latest',
          columns: [{ column: 'c_carer_note_words', descending: false }],
          unique: false
        }
      },
      { kind: 'index.remove', table: 't_carer_note', index: 'i_carer_note_latest' },
      {
        kind: 'rowPolicy.change',
        table: 't_carer_note',
        rowPolicy: {
          id: 'p_carer_note_open',
          name: 'mine',
          command: 'ALL',
          condition: 'current_user() = {c_carer_note_words}'
        }
      },
      { kind: 'rowPolicy.remove', table: 't_carer_note', rowPolicy: 'p_carer_note_open' },
      { kind: 'column.compute', ...dose, column: 'c_dose_cost', expression: null },
      { kind: 'column.copy', ...dose, column: 'c_dose_unit_cost', copied: null }
    )
  })

  it('lets a copied value be the row’s own when what it is copied from, or by, goes', () => {
    const without = done(design, { kind: 'foreignKey.remove', ...dose, foreignKey: 'f_dose_medicine_id' })
    expect(
      columnOf(tableOf(without, 't_dose') as Design['tables'][number], 'c_dose_unit_cost')?.copied
    ).toBeUndefined()
    done(design, { kind: 'column.remove', table: 't_medicine', column: 'c_medicine_unit_cost' })
  })
})

describe('schemas and external tables', () => {
  it('let two tables have one name, and no two one full name', () => {
    const twice = done(design, { kind: 'table.rename', table: 't_volunteer', name: 'person' })
    expect(fullName(twice, tableOf(twice, 't_person') as Design['tables'][number])).toBe('staff.person')
    expect(refused({ kind: 'table.setSchema', table: 't_volunteer', schema: 's_staff' }, twice)).toContain(
      'There is already a table called staff.person'
    )
    done(
      twice,
      { kind: 'schema.rename', schema: 's_staff', name: 'payroll' },
      { kind: 'table.setExternal', table: 't_person', external: false },
      { kind: 'table.move', table: 't_person', to: 0 },
      { kind: 'design.setDialects', dialects: ['oracle'] }
    )
  })
})

describe('types and values as they are typed', () => {
  it('an engine’s own type is words and lengths, and nothing that could begin anything else', () => {
    for (const good of [
      'tsvector',
      'varchar(20)',
      'double precision',
      'integer[]',
      'numeric(8, 2)',
      'nvarchar(max)',
      'timestamp(3) with time zone'
    ])
      expect(nativeFlaw(good)).toBeUndefined()
    for (const bad of [
      '',
      'text; drop table x',
      "text default 'x'",
      'int primary key',
      'int -- x',
      'int) , (y',
      'text not null',
      'geometry(point',
      '"x"',
      'x'.repeat(81)
    ])
      expect(nativeFlaw(bad)).toBeDefined()
    const parsed = parseType('native mariadb: longtext; tsvector')
    expect(parsed.ok && typeText(parsed.value)).toBe('native mariadb: longtext; tsvector')
    expect(
      operationSchema.safeParse({
        kind: 'column.add',
        table: 't_dose',
        column: { ...column('x', 'text'), type: { kind: 'native', spelled: { any: 'text; drop' } } }
      }).success
    ).toBe(false)
  })

  it.each([
    ['2 days 3 hours', 'P2DT3H'],
    ['90 min', 'PT1H30M'],
    ['P1DT0H', 'P1D'],
    ['PT0S', 'PT0S'],
    ['3d 4h 5m 6s', 'P3DT4H5M6S']
  ])('the interval %s is %s', (typed, kept) =>
    expect(parseValue(typed, { kind: 'interval' })).toEqual({ ok: true, value: kept })
  )
  it.each(['1 month', 'P1Y', 'soon', '', 'P'])('%s is no interval', (typed) =>
    expect(parseValue(typed, { kind: 'interval' }).ok).toBe(false)
  )

  it('a default can be worked out, and must fit', () => {
    expect(parseDefault("= upper('x')", { kind: 'text' })).toMatchObject({
      ok: true,
      value: { kind: 'expression' }
    })
    expect(parseDefault('= 2 +', { kind: 'integer', size: 'normal' })).toMatchObject({
      ok: false,
      message: 'Something is missing at the end.'
    })
    expect(parseDefault("= 'x'", { kind: 'integer', size: 'normal' }).ok).toBe(false)
    expect(parseDefault('= weight_g', { kind: 'integer', size: 'normal' })).toMatchObject({
      ok: false,
      message: 'There is no column called weight_g here.'
    })
  })
})
