import { describe, expect, it } from 'vitest'
import { tableSql } from '../core/definitions/outputs.ts'
import { emptyDesign, type Design, type Row, type Table } from '../core/design/model.ts'
import { DIALECTS } from '../core/dialect/index.ts'
import type { Operation } from '../core/edit/operation.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { CONDITIONS, PENS, WARDS } from '../demo/later-rows.ts'
import { ADMISSIONS, FINDERS, MEDICINES, PATIENTS, REASONS, SPECIES } from '../demo/rows.ts'
import { build, check, refer, rows, table } from '../demo/words.ts'
import { Key } from './browser.ts'
import { session } from './session.ts'

/** What the hospital's first attempt at its tables was, with everything in it that somebody changes their mind about. */
function firstAttempt(): Design {
  const { versions } = fernhollow()
  const demo = versions.at(-1)?.design
  const asInDemo = (name: string): Operation => {
    const found = demo?.tables.find((each) => each.name === name)
    if (!found) throw new Error(name)
    return { kind: 'table.add', table: { ...found, foreignKeys: [], checks: [], indexes: [], rows: [] } }
  }
  const rulesOf = (name: string): Pick<Table, 'checks' | 'indexes'> => {
    const found = demo?.tables.find((each) => each.name === name)
    return { checks: found?.checks ?? [], indexes: found?.indexes ?? [] }
  }
  const patient = (id: unknown): string => ADMISSIONS.find(([, of]) => of === id)?.[3] as string
  const finder = (id: unknown) => FINDERS.find(([each]) => each === id) ?? []
  return build(
    {
      ...emptyDesign('First attempt', 'd_first'),
      enums: demo?.enums ?? [],
      dialects: ['postgresql', 'sqlite']
    },
    [
      asInDemo('species'),
      asInDemo('reason'),
      asInDemo('medicine'),
      asInDemo('ward'),
      {
        kind: 'table.add',
        table: table({
          name: 'patient',
          note: '',
          key: ['patient_id'],
          columns: [
            ['patient_id', 'integer', 'required', 'generated'],
            ['species_code', 'char(6)', 'required'],
            ['reason_code', 'char(6)', 'required'],
            ['ring_no', 'text(12)'],
            ['ward_name', 'text(40)', 'required'],
            ['sex', 'char(1)'],
            ['found_on', 'date', 'required'],
            ['found_at', 'text(120)']
          ],
          uniques: ['ring_no']
        })
      },
      {
        kind: 'table.add',
        table: table({
          name: 'admission',
          note: '',
          key: ['admission_id'],
          columns: [
            ['admission_id', 'integer', 'required', 'generated'],
            ['patient_id', 'integer', 'required'],
            ['finder_name', 'text(80)'],
            ['finder_telephone', 'text(24)'],
            ['finder_postcode', 'text(10)'],
            ['admitted_at', 'timestamp zone', 'required', 'now'],
            ['weight_g', 'integer'],
            ['medicine_id', 'integer']
          ]
        })
      },
      {
        kind: 'table.add',
        table: {
          ...table({
            name: 'pen',
            note: '',
            key: ['pen_no'],
            columns: [
              ['ward_code', 'char(3)', 'required'],
              ['pen_no', 'smallint', 'required'],
              ['capacity', 'smallint', 'required', '1']
            ]
          }),
          primaryKey: undefined
        }
      },
      {
        kind: 'table.add',
        table: {
          ...table({
            name: 'stay',
            note: '',
            key: ['admission_id', 'started_at'],
            columns: [
              ['admission_id', 'integer', 'required'],
              ['started_at', 'timestamp zone', 'required', 'now'],
              ['ended_at', 'timestamp zone']
            ]
          }),
          ...rulesOf('stay')
        }
      },
      ...['wound', 'illness'].map((name): Operation => ({
        kind: 'table.add',
        table: table({
          name,
          note: '',
          key: ['name'],
          columns: [
            ['name', 'text(60)', 'required'],
            ['contagious', 'boolean', 'required', 'false']
          ]
        })
      })),
      refer('patient', ['species_code'], 'species', 'RESTRICT', { child: 'is of', parent: 'has' }),
      refer('patient', ['reason_code'], 'reason', 'RESTRICT', { child: 'has', parent: 'is given for' }),
      refer('admission', ['patient_id'], 'patient', 'RESTRICT', { child: 'is of', parent: 'has' }),
      refer('admission', ['medicine_id'], 'medicine', 'RESTRICT', {
        child: 'was given',
        parent: 'was given in'
      }),
      refer('pen', ['ward_code'], 'ward', 'CASCADE', { child: 'is in', parent: 'has' }),
      refer('stay', ['admission_id'], 'admission', 'CASCADE', { child: 'belongs to', parent: 'has' }),
      (design) => check(design, 'pen', 'capacity', 'capacity between 1 and 40'),
      (design) => check(design, 'admission', 'weight', 'weight_g > 0'),
      rows('species', ['species_code', 'common_name', 'latin_name', 'protected'], SPECIES),
      rows('reason', ['reason_code', 'description'], REASONS),
      rows('medicine', ['medicine_id', 'name', 'strength', 'unit', 'unit_cost'], MEDICINES),
      rows('ward', ['ward_code', 'name', 'housing'], WARDS),
      rows('pen', ['ward_code', 'pen_no', 'capacity'], PENS),
      rows(
        'patient',
        ['patient_id', 'species_code', 'ring_no', 'ward_name', 'sex', 'found_on', 'found_at', 'reason_code'],
        PATIENTS.map((each) => [...each, patient(each[0])])
      ),
      rows(
        'admission',
        [
          'admission_id',
          'patient_id',
          'admitted_at',
          'weight_g',
          'medicine_id',
          'finder_name',
          'finder_telephone',
          'finder_postcode'
        ],
        ADMISSIONS.map(([id, of, by, , at, weight, medicine]) => [
          id ?? null,
          of ?? null,
          at ?? null,
          weight ?? null,
          medicine ?? null,
          ...finder(by).slice(1)
        ])
      ),
      rows(
        'wound',
        ['name', 'contagious'],
        CONDITIONS.filter(([, , spreads]) => spreads !== true).map(([, ...each]) => each)
      ),
      rows(
        'illness',
        ['name', 'contagious'],
        CONDITIONS.filter(([, , spreads]) => spreads === true).map(([, ...each]) => each)
      )
    ]
  )
}

/** Without the notes, which nobody wrote here, and for the same engines. */
const plain = (design: Design): Design => ({
  ...design,
  dialects: [],
  tables: design.tables.map((each) => ({
    ...each,
    note: undefined,
    columns: each.columns.map((column) => ({ ...column, note: undefined }))
  }))
})

/** A first attempt becomes the demo's design, one change of mind after the other, and its rows go along. */
describe('a hospital that changes its mind', () => {
  const { app, browser } = session()
  const start = firstAttempt()
  const stored = (): Promise<Design> => app.design('d_first')
  const find = async (name: string): Promise<Table | undefined> =>
    (await stored()).tables.find((each) => each.name === name)
  const need = async (name: string): Promise<Table> =>
    (await find(name)) ?? expect.fail(`${name} is not there`)
  const columns = async (name: string): Promise<string[]> =>
    ((await find(name))?.columns ?? []).map((column) => column.name)
  /** A table's rows by what its columns are called. */
  async function said(name: string): Promise<Record<string, Row[string]>[]> {
    const { columns: all, rows: held } = await need(name)
    return held.map((row) => Object.fromEntries(all.map((column) => [column.name, row[column.id] ?? null])))
  }
  const becomes = async (name: string, wanted: string): Promise<void> => {
    let has = ''
    await browser
      .until(name, async () => (has = (await columns(name)).join(' ')) === wanted)
      .catch(async () => expect.fail(`${name} has ${has}\n${await browser.text()}`))
  }

  /** Brings a table to the middle, with the keyboard on its first line. */
  async function go(name: string): Promise<void> {
    await browser.open(`${app.address}/d/d_first/bench/${(await need(name)).id}`)
    await browser.see('.wires')
    await browser.untilLineHasKeyboard()
    await browser.type(Key.HOME)
  }
  async function mind(name: string, says: string): Promise<void> {
    await go(name)
    await browser.type('m')
    await browser.see('.mind [aria-selected=true]:focus')
    await browser.until(`“${says}” is chosen`, async () => {
      if ((await browser.text('.mind .seen h1')).startsWith(says)) return true
      await browser.type(Key.ARROW_DOWN)
      return false
    })
  }
  async function tick(...names: string[]): Promise<void> {
    for (const label of await browser.driver.findElements({ css: '.mind .some label' })) {
      const box = await label.findElement({ css: 'input' })
      if ((await box.isSelected()) !== names.includes((await label.getText()).trim())) await label.click()
    }
  }
  const line = async (column: string): Promise<void> => {
    await browser.type(Key.HOME)
    await browser.until(`the line of ${column} has the keyboard`, async () => {
      if ((await browser.focused()).startsWith(`${column},`)) return true
      await browser.type(Key.ARROW_DOWN)
      return false
    })
  }
  /** What stands on one line of a junction's own columns. */
  async function own(
    at: number,
    says: { name?: string; type?: string; takes?: string; key?: boolean }
  ): Promise<void> {
    const [found] = (await browser.driver.findElements({ css: '.relate .own' })).slice(at)
    if (!found) throw new Error(`there is no line ${at}`)
    const write = async (css: string, text: string | undefined): Promise<void> => {
      if (text !== undefined) await found.findElement({ css }).sendKeys(Key.chord(Key.CONTROL, 'a'), text)
    }
    await write('[data-cell=name]', says.name)
    await write('[data-cell=type]', says.type)
    await write('.takes input', says.takes)
    if (says.key === true) await found.findElement({ css: '.flags input' }).click()
  }
  const up = (): Promise<void> => browser.chord(Key.ALT, Key.ARROW_UP)

  it('splits the finder off from what admissions repeat', async () => {
    await app.put(start)
    await mind('admission', 'What several admissions repeat')
    await browser.says('1 Ines Toller', '.mind .seen').catch(() => undefined)
    await browser.type(Key.ENTER)
    await becomes('finder', 'finder_id name telephone postcode')
    await becomes('admission', 'admission_id patient_id finder_id admitted_at weight_g medicine_id')
    const finders = await said('finder')
    expect(finders.map(({ name }) => name).sort()).toEqual(FINDERS.map(([, name]) => name).sort())
    const byNumber = new Map(finders.map((row) => [row.finder_id, row.name]))
    expect((await said('admission')).map((row) => byNumber.get(row.finder_id) ?? null)).toEqual(
      ADMISSIONS.map(([, , by]) => FINDERS.find(([id]) => id === by)?.[1] ?? null)
    )
    // Every one has a name, so it may be required.
    await go('finder')
    await line('name')
    await browser.type(Key.SPACE)
    await browser.until('it is', async () => (await need('finder')).columns[1]?.required === true)
  })

  it('moves the reason, which was put on the patient, to the admission', async () => {
    await mind('patient', 'What was said once of each patient')
    await tick('reason_code')
    await browser.says('reason', '.mind .seen')
    await browser.type(Key.chord(Key.CONTROL, Key.ENTER))
    await becomes(
      'admission',
      'admission_id patient_id finder_id admitted_at weight_g medicine_id reason_code'
    )
    await go('admission')
    await line('reason_code')
    for (let steps = 0; steps < 3; steps++) await up()
    await becomes(
      'admission',
      'admission_id patient_id finder_id reason_code admitted_at weight_g medicine_id'
    )
    const reasons = new Map(PATIENTS.map(([id]) => [id, ADMISSIONS.find(([, of]) => of === id)?.[3]]))
    expect((await said('admission')).map((row) => row.reason_code)).toEqual(
      ADMISSIONS.map(([, of]) => reasons.get(of ?? null))
    )
  })

  it('lets an admission have many medicines, by doses with a quantity and a time', async () => {
    await go('admission')
    await browser.click('span', 'How many medicines each admission has: at most one')
    await browser.click('div[@role="option"]', 'any number of')
    await browser.says('Each side turned out to need many', '.relate')
    const name = await browser.see('.relate .names input')
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), 'dose')
    await browser.click('button', 'Add the usual fact: when')
    await browser.until('its type has the keyboard', async () =>
      (await browser.focused()).startsWith('Type of')
    )
    await own(0, { name: 'given_at', takes: 'admitted_at', key: true })
    await browser.click('button', 'Add the usual fact: how many')
    await own(1, { name: 'quantity', type: 'decimal(6,2)', takes: '1' })
    await browser.click('button', 'new column about the pair')
    await own(2, { name: 'unit_cost', type: 'decimal(8,2)' })
    await browser.says('PRIMARY KEY (admission_id, medicine_id, given_at)', '.relate')
    await browser.click('button', 'Make dose')
    await becomes('dose', 'admission_id medicine_id given_at quantity unit_cost')
    expect(await said('dose')).toEqual(
      ADMISSIONS.filter(([, , , , , , medicine]) => medicine !== null).map(([id, , , , at, , medicine]) => ({
        admission_id: id,
        medicine_id: medicine,
        given_at: at,
        quantity: '1',
        unit_cost: null
      }))
    )
    await go('dose')
    await line('given_at')
    await browser.type(Key.ENTER, Key.TAB, Key.TAB, Key.TAB, 'now', Key.ENTER, Key.ESCAPE)
    await browser.until(
      'a dose is given now',
      async () => (await need('dose')).columns[2]?.default?.kind === 'now'
    )
  })

  it('gives pens their composite key and refers to them from stays', async () => {
    await go('pen')
    await browser.chord(Key.SHIFT, Key.ARROW_DOWN)
    await browser.type('k')
    await browser.until('both are the key', async () => (await need('pen')).primaryKey?.columns.length === 2)
    await go('stay')
    await browser.type('r')
    await browser.see('.relate')
    await browser.type('pen', Key.ENTER)
    // Each stay is in exactly one pen, and a pen has any number of stays.
    await browser.click('input[@name="first"][@value="exactly one"]/parent::label', '')
    await browser.click('input[@name="second"][@value="any number of"]/parent::label', '')
    await browser.says('stay holds the key of pen', '.relate')
    await browser.type(Key.ENTER)
    await becomes('stay', 'admission_id started_at ended_at ward_code pen_no')
    await go('stay')
    await line('ended_at')
    for (let steps = 0; steps < 2; steps++) await browser.chord(Key.ALT, Key.ARROW_DOWN)
    await becomes('stay', 'admission_id started_at ward_code pen_no ended_at')
  })

  it('relates species to species, with roles, each pair once', async () => {
    await go('species')
    await browser.type('r')
    await browser.see('.relate')
    await browser.type('species', Key.ENTER)
    await (await browser.named('input', 'What one species is to the other')).sendKeys('species')
    await (await browser.named('input', 'What the other species is to the one')).sendKeys('other species')
    await browser.click('input[@name="first"][@value="any number of"]/parent::label', '')
    await browser.click('input[@name="second"][@value="any number of"]/parent::label', '')
    await browser.click('label', 'once, whichever way round')
    const name = await browser.see('.relate .names input')
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), 'species_conflict')
    await browser.click('button', 'new column about the pair')
    await own(0, { name: 'reason', type: 'text(120)' })
    await browser.click('button', 'Make species_conflict')
    await becomes('species_conflict', 'species_code other_species_code reason')
    expect((await need('species_conflict')).checks).toHaveLength(1)
  })

  it('makes one list of two', async () => {
    await mind('wound', 'Wounds and illnesses are one kind of thing')
    const name = await browser.named('input', 'What it is called')
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), 'condition', Key.TAB)
    await browser.click('button', 'Make it so')
    await becomes('condition', 'condition_id kind name contagious')
    expect((await said('condition')).map((row) => [row.kind, row.name, row.contagious])).toEqual(
      CONDITIONS.map(([, called, spreads]) => [spreads === true ? 'illness' : 'wound', called, spreads]).sort(
        ([one, first], [other, second]) => (`${one} ${first}` < `${other} ${second}` ? -1 : 1)
      )
    )
    // Which of them it was is not wanted after all: the names alone tell them apart.
    await go('condition')
    await line('name')
    await browser.type('u')
    await line('kind')
    await browser.type(Key.DELETE)
    await browser.chord(Key.ALT, Key.ENTER)
    await becomes('condition', 'condition_id name contagious')
  })

  it('has come to the SQL of the demo', async () => {
    const design = plain(await stored())
    for (const name of [
      'species',
      'reason',
      'medicine',
      'ward',
      'patient',
      'finder',
      'admission',
      'dose',
      'pen',
      'stay',
      'species_conflict',
      'condition'
    ]) {
      const { versions } = fernhollow()
      // Doses as they were in the second version, before they were given by somebody.
      const demo = plain(versions[name === 'dose' ? 1 : 3]?.design ?? expect.fail())
      for (const dialect of Object.values(DIALECTS))
        expect(tableSql(design, (await need(name)).id, dialect)).toBe(tableSql(demo, `t_${name}`, dialect))
    }
  })
})
