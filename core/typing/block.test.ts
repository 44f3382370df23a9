import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { columnsIn, tableOf } from '../design/directory.ts'
import type { Table } from '../design/model.ts'
import { typeText } from '../design/type.ts'
import { apply } from '../edit/apply.ts'
import { newTable } from '../relate/propose.ts'
import { isBlock, linesOf, pasteLines, takenApart } from './block.ts'
import { duplicateTable } from './duplicate.ts'
import { EMPTY_LINE } from './edits.ts'
import { readRule, ruleText } from './rules.ts'

const { design } = fernhollow()
const patient = tableOf(design, 't_patient') as Table

describe('a pasted block', () => {
  it.each([
    [
      'weight_g integer\nname text(20) required,\nbroken ???',
      [
        ['weight_g', 'integer', false, ''],
        ['name', 'text(20)', true, ''],
        ['broken', '???', false, '']
      ]
    ],
    [
      'name\ttype\trequired\tdefault\tnote\nunit_cost\tdecimal(8,2)\tyes\t0.50\ton the day\n',
      [['unit_cost', 'decimal(8,2)', true, '0.50']]
    ],
    [
      '(\n  seen_at timestamp zone not null default now, -- when it was seen\n  "two words" text\n);',
      [
        ['seen_at', 'timestamp zone', true, 'now'],
        ['two words', 'text', false, '']
      ]
    ],
    [
      'a\ttext\nb\ttext\tx',
      [
        ['a', 'text', false, ''],
        ['b', 'text', true, '']
      ]
    ],
    [
      '"a\nb"\ttext\nc\ttext',
      [
        ['a\nb', 'text', false, ''],
        ['c', 'text', false, '']
      ]
    ],
    [
      'name\ttext(20)\tyes\nfield\tinteger',
      [
        ['name', 'text(20)', true, ''],
        ['field', 'integer', false, '']
      ]
    ],
    [
      'name text(20)\nkind text',
      [
        ['name', 'text(20)', false, ''],
        ['kind', 'text', false, '']
      ]
    ],
    // Headings say what stands under them, wherever it stands.
    [
      "Column name\tNull?\tData type\tDefault\nnest_no\tNO\tint(11)\t((0))\nis_open\tNO\ttinyint(1)\t1\nshut\tYES\tbit\tb'0'\nkind\tYES\tvarchar(20)\tNULL",
      [
        ['nest_no', 'int(11)', true, '0'],
        ['is_open', 'tinyint(1)', true, 'true'],
        ['shut', 'bit', false, 'false'],
        ['kind', 'varchar(20)', false, '']
      ]
    ],
    [
      '+----+----+\n| Field | Type | Null | Key | Default | Extra |\n+----+----+\n| id | int(11) | NO | PRI | NULL | auto_increment |\n| kind | varchar(20) | YES | | box | |\n+----+----+',
      [
        ['id', 'int(11)', true, 'generated'],
        ['kind', 'varchar(20)', false, 'box']
      ]
    ],
    [
      " Column | Type | Collation | Nullable | Default\n---+---+---+---+---\n id | integer | | not null | nextval('nest_id_seq'::regclass)\n kind | character varying(20) | | | 'box'::character varying",
      [
        ['id', 'integer', true, 'generated'],
        ['kind', 'character varying(20)', false, "'box'"]
      ]
    ],
    [
      "`nest_no` int(11) NOT NULL AUTO_INCREMENT COMMENT 'the number, on it',\nbuilt_on timestamptz default now(),\nid bigserial",
      [
        ['nest_no', 'int(11)', true, 'generated'],
        ['built_on', 'timestamptz', false, 'now'],
        ['id', 'bigint', true, 'generated']
      ]
    ]
  ])('%j is lines', (text, lines) => {
    expect(isBlock(text)).toBe(true)
    expect(linesOf(text).map((line) => [line.name, line.type, line.required, line.default])).toEqual(lines)
  })

  it('is a block only with more than one line or cell', () =>
    expect(['weight_g', 'two words', 'a > b\n'].map(isBlock)).toEqual([false, false, false]))

  it.each([
    ['bought date', ['bought', 'date', false]],
    ['call_name text(40) not null', ['call_name', 'text(40)', true]],
    ['nurse > volunteer', ['nurse', '> volunteer', false]],
    ['size one of small, large', ['size', 'one of small, large', false]],
    ['"due date" date', ['due date', 'date', false]],
    ['given name', ['given name', '', false]],
    ['weight', ['weight', '', false]]
  ])('of one name, %j, is taken apart where a type follows', (name, read) => {
    const line = takenApart({ ...EMPTY_LINE, name }, [])
    expect([line.name, line.type, line.required]).toEqual(read)
    // What stands in the type's place is what was meant.
    expect(takenApart({ ...EMPTY_LINE, name, type: 'text' }, []).name).toBe(name)
  })

  it('comes as one step, each line behind those before it, and what cannot be taken stays as it was', () => {
    const pasted = pasteLines(
      design,
      patient,
      linesOf(
        'chip_no text(20) required\nspecies_code_2 > nothing\nring_no text\nlikes one of worms, slugs\nhates likes\nhome > pen'
      ),
      2
    )
    expect(pasted.left.map((line) => line.name)).toEqual(['species_code_2', 'ring_no'])
    const result = pasted.operation && apply(design, pasted.operation)
    if (!result?.ok) throw new Error('it was refused')
    const after = tableOf(result.design, 't_patient') as Table
    const lists = result.design.enums
    expect(
      after.columns.slice(2, 7).map((column) => `${column.name} ${typeText(column.type, lists)}`)
    ).toEqual([
      'chip_no text(20)',
      'likes enum likes',
      'hates enum likes',
      'ward_code char(3)',
      'pen_no smallint'
    ])
    expect(after.foreignKeys.at(-1)?.pairs).toHaveLength(2)
  })
})

describe('the key of a pasted block', () => {
  const fresh = { ...newTable('nest'), id: 't_nest' }
  const paste = (table: Table, text: string): string => {
    const on = { ...design, tables: [...design.tables.filter((each) => each.id !== table.id), table] }
    const { operation } = pasteLines(on, table, linesOf(text), table.columns.length)
    const result = operation && apply(on, operation)
    if (!result?.ok) throw new Error('it was refused')
    const after = tableOf(result.design, table.id) as Table
    return `${after.columns.map((column) => column.name).join()} by ${columnsIn(
      after,
      after.primaryKey?.columns ?? []
    )
      .map((column) => column.name)
      .join()}`
  }

  it.each([
    [
      'in the place of the one that the table was made with',
      fresh,
      '| Field | Type | Null | Key |\n| no | int(11) | NO | PRI |\n| ward | char(3) | NO | PRI |\n| kind | text | YES | |',
      'no,ward,kind by no,ward'
    ],
    [
      'of what is counted, and called, as that was',
      fresh,
      'nest_id integer primary key default generated\nkind text',
      'nest_id,kind by nest_id'
    ],
    ['of what it can be', fresh, 'no nonsense primary key\nkind text', 'nest_id,kind by nest_id'],
    [
      'by words, where the table has none',
      { ...fresh, primaryKey: undefined },
      'kind text\nno bigint primary key',
      'kind,no by no'
    ],
    [
      'of a reference, by all its columns',
      fresh,
      'home > pen primary key\nkind text',
      'ward_code,pen_no,kind by ward_code,pen_no'
    ],
    [
      'not where it has another',
      patient,
      'no bigint primary key\nkind text',
      `${[...patient.columns.map((column) => column.name), 'no', 'kind'].join()} by patient_id`
    ]
  ])('is made %s', (_, table, text, after) => expect(paste(table, text)).toBe(after))
})

describe('a rule as a line of text', () => {
  it('reads back as it is shown, for every rule of the demo', () => {
    for (const table of design.tables) {
      for (const kind of ['check', 'index', 'rowPolicy'] as const) {
        for (const rule of { check: table.checks, index: table.indexes, rowPolicy: table.rowPolicies }[kind])
          expect(readRule(kind, design, table, ruleText(kind, table, rule), rule as never)).toEqual({
            ok: true,
            value: rule
          })
      }
    }
  })

  it.each([
    ['check', 'weight > 0', 'There is no column called weight here.'],
    ['index', 'found_on, chip', 'patient has no column called chip.'],
    ['index', '', 'Say which columns'],
    ['index', 'found_on where found_at', 'This is a value, not a condition'],
    ['rowPolicy', 'own for looking: sex is null', 'A row policy is written as'],
    ['rowPolicy', 'own for select to ward_staff: sex >', 'Something is missing at the end.']
  ] as const)('%s “%s” is refused in words', (kind, text, message) =>
    expect(readRule(kind, design, patient, text)).toMatchObject({
      ok: false,
      message: expect.stringContaining(message) as string
    })
  )

  it('takes an index with its order, its condition and its uniqueness', () => {
    const read = readRule('index', design, patient, 'UNIQUE found_on DESC, ring_no where ring_no is not null')
    expect(read.ok && read.value).toMatchObject({
      unique: true,
      columns: [
        { column: 'c_patient_found_on', descending: true },
        { column: 'c_patient_ring', descending: false }
      ],
      where: '{c_patient_ring} IS NOT NULL'
    })
  })
})

describe('a table once more', () => {
  it('has the same columns, keys, references and rules under new ids, and no rows', () => {
    for (const table of design.tables) {
      const operation = duplicateTable(design, table)
      const result = apply(design, operation)
      if (!result.ok) throw new Error(`${table.name}: ${result.refusal.message}`)
      const copy = tableOf(result.design, operation.table.id) as Table
      expect(copy.columns.map((column) => column.name)).toEqual(table.columns.map((column) => column.name))
      expect([
        copy.uniques.length,
        copy.foreignKeys.length,
        copy.checks.length,
        copy.indexes.length,
        copy.rows.length
      ]).toEqual([
        table.uniques.length,
        table.foreignKeys.length,
        table.checks.length,
        table.indexes.length,
        0
      ])
      expect(copy.checks.map((check) => ruleText('check', copy, check))).toEqual(
        table.checks.map((check) => ruleText('check', table, check))
      )
    }
  })

  it('keeps what a rule says in quotes, though it looks like an id', () => {
    const [column] = patient.columns
    const id = column?.id ?? ''
    const table: Table = {
      ...patient,
      checks: [{ id: 'x_quoted', condition: `{${id}} <> length('${id} {${id}}')` }]
    }
    const { table: copy } = duplicateTable(design, table)
    const own = copy.columns[0]?.id ?? ''
    expect(own).not.toBe(id)
    expect(copy.checks[0]?.condition).toBe(`{${own}} <> length('${id} {${id}}')`)
  })
})
