import { describe, expect, it } from 'vitest'
import { writeSql } from '../core/definitions/create-script.ts'
import type { Design, Table } from '../core/design/model.ts'
import { DIALECTS } from '../core/dialect/index.ts'
import { districts } from '../demo/districts.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

type Line = [name: string, type: string, required?: 'required' | '', value?: string]

/**
 * Ten tables of the demo as a person would type them; a table without a line for its key keeps the one
 * that it is made with.
 */
const TABLES: {
  name: string
  note: string
  own?: boolean
  lines: Line[]
  key?: string[]
  unique?: string[]
  check?: [column: string, condition: string]
  cascade?: string[]
}[] = [
  {
    name: 'species',
    note: 'A kind of animal, by the code that the ward writes on the door.',
    own: true,
    lines: [
      ['species_code', 'char(6)', 'required'],
      ['common_name', 'text(80)', 'required'],
      ['latin_name', 'text(80)', 'required'],
      ['protected', 'boolean', 'required', 'false']
    ],
    key: ['species_code'],
    unique: ['latin_name']
  },
  {
    name: 'patient',
    note: 'One animal, from the day it was found. It keeps its number when it comes again.',
    lines: [
      ['', '> species', 'required'],
      ['ring_no', 'text(12)'],
      ['ward_name', 'text(40)', 'required'],
      ['sex', 'char(1)'],
      ['found_on', 'date', 'required'],
      ['found_at', 'text(120)']
    ],
    unique: ['ring_no']
  },
  {
    name: 'finder',
    note: 'Somebody who brought an animal. May ask to be forgotten.',
    lines: [
      ['name', 'text(80)', 'required'],
      ['telephone', 'text(24)'],
      ['postcode', 'text(10)']
    ]
  },
  {
    name: 'reason',
    note: 'Why an animal is brought in.',
    own: true,
    lines: [
      ['reason_code', 'char(6)', 'required'],
      ['description', 'text(80)', 'required']
    ],
    key: ['reason_code']
  },
  {
    name: 'admission',
    note: 'One stay of one patient, from the door to the release.',
    lines: [
      ['', '> patient', 'required'],
      ['', '> finder'],
      ['', '> reason', 'required'],
      ['admitted_at', 'timestamp zone', 'required', 'now'],
      ['weight_g', 'integer']
    ],
    check: ['weight_g', '> 0']
  },
  {
    name: 'ward',
    note: 'A part of the hospital, by the three letters over its door.',
    own: true,
    lines: [
      ['ward_code', 'char(3)', 'required'],
      ['name', 'text(40)', 'required'],
      ['housing', 'one of cage, pen, pool, aviary', 'required', 'cage']
    ],
    key: ['ward_code'],
    unique: ['name']
  },
  {
    name: 'pen',
    note: 'A place in a ward; numbered in each ward from 1.',
    own: true,
    lines: [
      ['', '> ward', 'required'],
      ['pen_no', 'smallint', 'required'],
      ['capacity', 'smallint', 'required', '1']
    ],
    key: ['ward_code', 'pen_no'],
    check: ['capacity', 'between 1 and 40'],
    cascade: ['ward']
  },
  {
    name: 'volunteer',
    note: 'Somebody who gives time.',
    lines: [
      ['name', 'text(80)', 'required'],
      ['telephone', 'text(24)']
    ]
  },
  {
    name: 'skill',
    note: 'What a volunteer can be trusted with.',
    lines: [['name', 'text(40)', 'required']],
    unique: ['name']
  },
  {
    name: 'volunteer_skill',
    note: 'A skill of a volunteer.',
    own: true,
    lines: [
      ['', '> volunteer', 'required'],
      ['', '> skill', 'required'],
      ['level', 'one of learning, trusted, teaching', 'required', 'learning'],
      ['since', 'date']
    ],
    key: ['volunteer_id', 'skill_id'],
    cascade: ['volunteer']
  }
]

describe('the ledger', () => {
  const { app, browser } = session()

  const stored = (): Promise<Design> => app.design()
  const table = async (name: string): Promise<Table> =>
    (await stored()).tables.find((each) => each.name === name) ?? expect.fail(`no table ${name}`)

  /** To the line of a column of the table that the keyboard is in. */
  async function toLine(columns: string[], name: string): Promise<void> {
    await browser.type(Key.HOME, ...Array<string>(columns.indexOf(name)).fill(Key.ARROW_DOWN))
    await browser.until(`the line of ${name} has the keyboard`, async () =>
      (await browser.focused()).startsWith(`${name},`)
    )
  }

  it('takes ten tables of the demo from the keyboard alone, and their SQL is the demo’s', async () => {
    await browser.open(
      (await app.put({
        ...fernhollow().design,
        id: 'd_typed',
        tables: [],
        enums: [],
        schemas: [],
        carries: [],
        positions: {}
      })) + '/ledger'
    )
    await browser.says('written for')
    for (const { name, note, own, lines, key = [], unique = [], check, cascade = [] } of TABLES) {
      // With nothing written down yet the field has the keyboard by itself.
      if (name !== TABLES[0]?.name) await browser.type(Key.ESCAPE, 't')
      await browser.until(
        'the field for a new table has the keyboard',
        async () => (await browser.focused()) === 'Name of a new table'
      )
      await browser.type(name, Key.ENTER)
      await browser.until(`${name} is there`, async () =>
        (await browser.values('.sheet .name')).includes(name)
      )
      await browser.until(
        'its new line has the keyboard',
        async () => (await browser.focused()) === 'new column'
      )
      if (own) await browser.type(Key.HOME, Key.DELETE)
      if (own)
        await browser.until(
          'the key that was made is gone',
          async () => (await stored()).tables.find((each) => each.name === name)?.columns.length === 0
        )
      await browser.type('n')
      for (const [column, type, required, value] of lines)
        await browser.type(
          column,
          Key.TAB,
          type,
          Key.TAB,
          ...(required ? [Key.SPACE] : []),
          ...(value ? [Key.TAB, value] : []),
          Key.ENTER
        )
      await browser.type(Key.ESCAPE)
      await browser.until(
        `all lines of ${name} are columns`,
        async () => (await table(name)).columns.length === lines.length + (own ? 0 : 1)
      )
      const columns = (await table(name)).columns.map((column) => column.name)
      if (key.length === 1) await toLine(columns, key[0] as string)
      if (key.length > 1) {
        await toLine(columns, key[0] as string)
        await browser.chord(Key.SHIFT, Key.ARROW_DOWN)
      }
      if (key.length > 0) await browser.type('k')
      for (const column of unique) {
        await toLine(columns, column)
        await browser.type('u')
      }
      if (check) {
        await toLine(columns, check[0])
        await browser.type('c', check[1], Key.ENTER)
        await browser.until('the check is there', async () => (await table(name)).checks.length === 1)
      }
      for (const parent of cascade) {
        await browser.type(Key.HOME)
        for (
          let tries = 0;
          tries < 20 && !(await browser.focused()).startsWith(`What deleting a ${parent} does`);
          tries++
        )
          await browser.type(Key.TAB)
        await browser.type(Key.ENTER)
        await browser.until(
          'the choices have the keyboard',
          async () =>
            (await browser.driver.executeScript('return document.activeElement?.getAttribute("role")')) ===
            'option'
        )
        await browser.type(Key.ARROW_DOWN, Key.ENTER)
        await browser.until('the rule is another', async () =>
          (await table(name)).foreignKeys.some((each) => each.onDelete === 'CASCADE')
        )
        for (
          let tries = 0;
          tries < 30 && !(await browser.focused()).startsWith(`${columns[0] ?? ''},`);
          tries++
        )
          await browser.chord(Key.SHIFT, Key.TAB)
      }
      await browser.type(Key.HOME)
      await browser.chord(Key.SHIFT, Key.TAB)
      await browser.until(
        'the note has the keyboard',
        async () => (await browser.focused()) === `Note on the table ${name}`
      )
      await browser.type(note, Key.ENTER)
      await browser.until(`the note of ${name} is kept`, async () => (await table(name)).note === note)
    }
    const typed = await stored()
    const demo = fernhollow().versions[3]?.design as Design
    const same: Design = {
      ...demo,
      schemas: [],
      tables: demo.tables.filter((each) => TABLES.some(({ name }) => name === each.name))
    }
    expect(typed.tables.map((each) => each.name)).toEqual(TABLES.map(({ name }) => name))
    for (const dialect of Object.values(DIALECTS))
      expect(writeSql(typed, dialect)).toBe(writeSql(same, dialect))
  }, 240_000)

  it('makes columns of a pasted block, keeps what it cannot take as it was typed, and takes it when it is right', async () => {
    const address = await app.put({ ...fernhollow().design, id: 'd_pasted' })
    await browser.open(`${address}/ledger/t_finder`)
    await browser.until('the first line has the keyboard', async () =>
      (await browser.focused()).startsWith('finder_id,')
    )
    await browser.type(Key.END)
    const paste = (text: string): Promise<void> =>
      browser.driver.executeScript(
        'const data = new DataTransfer(); data.setData("text/plain", arguments[0]); document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }))',
        text
      )
    await paste('email text(120) required,\nborn_on dat\nheard_of\ttext(40)\n')
    const finder = async (): Promise<string[]> =>
      (await app.design('d_pasted')).tables
        .find((each) => each.name === 'finder')
        ?.columns.map((column) => column.name) ?? []
    await browser.says('wait')
    await browser.until('what could be taken is there', async () => (await finder()).includes('email'))
    expect(await browser.values('.line.writing input[data-cell=type]')).toContain('dat')
    await browser.says('is not a type')
    await browser.type(Key.ENTER, Key.TAB, 'date', Key.ENTER)
    await browser.until('the line that waited is a column', async () => (await finder()).includes('born_on'))
    await browser.type(Key.ESCAPE)
    await browser.chord(Key.CONTROL, 'z')
    await browser.until('one undo takes it away', async () => !(await finder()).includes('born_on'))
    await browser.chord(Key.CONTROL, 'z')
    await browser.until('and one the whole block', async () => !(await finder()).includes('email'))
    // Whatever stands in the way is said at each line, and Escape leaves it as it was pasted.
    await paste(`caller > nobody\n${'x'.repeat(10_000)} integer\na\u0000b integer\nname text`)
    await browser.says('There is no table called nobody yet.', '.asks')
    for (const words of [
      'at most 128 characters',
      'no control characters',
      'already has a column called name'
    ])
      await browser.says(words, '.slip')
    await browser.until(
      'the first that waits has the keyboard',
      async () => (await browser.focused()) === 'caller, waits to be a column'
    )
    await browser.type(Key.ENTER, Key.ESCAPE)
    await browser.until('it is still there', async () =>
      (await browser.values('.line.writing input[data-cell=type]')).includes('> nobody')
    )
    // What waits is still there after another screen.
    await browser.click('a', 'Outputs')
    await browser.says('PostgreSQL')
    await browser.click('a', 'Ledger')
    await browser.says('There is no table called nobody yet.')
    const typesWaiting = (): Promise<string[]> => browser.values('.line.writing input[data-cell=type]')
    await (await browser.see('[aria-label="caller, waits to be a column"]')).click()
    await browser.type(Key.ESCAPE)
    await browser.until('the line has the keyboard', async () =>
      (await browser.focused()).startsWith('caller, waits')
    )
    await browser.type(Key.DELETE)
    await browser.until('it can be removed', async () => !(await typesWaiting()).includes('> nobody'))
    await browser.click('button', 'leave all of them out')
    await browser.until('so can the rest', async () => (await typesWaiting()).join('') === '')
    expect(await finder()).toHaveLength(5)
  })

  it('duplicates, moves and removes lines, folds, jumps to what is referred to and back, and mends what was found, by keyboard', async () => {
    const address = await app.put({ ...fernhollow().design, id: 'd_keys' })
    await browser.open(`${address}/ledger/t_release`)
    const columns = async (name: string): Promise<string[]> =>
      (await app.design('d_keys')).tables
        .find((each) => each.name === name)
        ?.columns.map((column) => column.name) ?? []
    await browser.until('the first line has the keyboard', async () =>
      (await browser.focused()).startsWith('admission_id,')
    )
    await browser.says('volunteer_id looks like a reference to volunteer')
    await browser.type(Key.END, Key.ARROW_UP, 'f')
    await browser.until(
      'the reference is declared',
      async () =>
        ((await app.design('d_keys')).tables.find((each) => each.name === 'release')?.foreignKeys.length ??
          0) === 3
    )
    await browser.type(Key.HOME, Key.ARROW_DOWN, Key.ARROW_DOWN, 'd')
    await browser.until('the line is there twice', async () =>
      (await columns('release')).includes('released_on_2')
    )
    await browser.chord(Key.ALT, Key.ARROW_UP)
    await browser.until('it moved', async () => (await columns('release'))[2] === 'released_on_2')
    await browser.type(Key.DELETE)
    await browser.until('it is gone', async () => !(await columns('release')).includes('released_on_2'))
    await browser.type(Key.HOME, Key.ARROW_DOWN, 'g')
    await browser.until(
      'what it refers to has the keyboard',
      async () =>
        (await browser.focused()).startsWith('release_site_id,') &&
        (await browser.driver.getCurrentUrl()).includes('t_release_site')
    )
    await browser.type(Key.BACK_SPACE)
    await browser.until('back where one was', async () =>
      (await browser.driver.getCurrentUrl()).endsWith('t_release')
    )
    await browser.until('its first line has the keyboard', async () =>
      (await browser.focused()).startsWith('admission_id,')
    )
    await browser.type('z')
    await browser.until(
      'the section is folded',
      async () =>
        (await browser.driver.executeScript('return document.activeElement?.dataset.folded')) === 't_release'
    )
    await browser.type('z')
    await browser.until('and unfolded', async () => (await browser.focused()).startsWith('admission_id,'))
    await browser.type('/', 'habit', Key.ENTER)
    await browser.until('a column is found as one types', async () =>
      (await browser.focused()).startsWith('habitat,')
    )
    await browser.type('q')
    await browser.says('CREATE TABLE release_site', '.strip')
  })

  it('changes a key’s type in all that follow it only when that was said', async () => {
    const address = await app.put({ ...fernhollow().design, id: 'd_follow' })
    await browser.open(`${address}/ledger/t_volunteer`)
    await browser.until('the first line has the keyboard', async () =>
      (await browser.focused()).startsWith('volunteer_id,')
    )
    const type = async (): Promise<unknown> =>
      (await app.design('d_follow')).tables
        .find((each) => each.name === 'shift_volunteer')
        ?.columns.find((each) => each.name === 'volunteer_id')?.type
    await browser.type(Key.ENTER, Key.TAB, 'bigint', Key.ENTER)
    await browser.says('2 columns refer to it and change with it')
    expect(await type()).toMatchObject({ size: 'normal' })
    await browser.type(Key.ENTER)
    await browser.until('they have changed', async () => JSON.stringify(await type()).includes('big'))
  })

  it('keeps a thousand tables at hand: only what is in view is made, and any of them is reached by typing', async () => {
    const design = districts(1000)
    await browser.open(`${await app.put(design)}/ledger`)
    await browser.see('.sheet')
    expect((await browser.driver.findElements(By.css('.sheet'))).length).toBeLessThan(15)
    await browser.type('/', design.tables.at(-1)?.name ?? '', Key.ENTER)
    await browser.until('the last table has the keyboard', async () =>
      (await browser.values('.sheet .name')).includes(design.tables.at(-1)?.name ?? '')
    )
    expect((await browser.driver.findElements(By.css('.sheet'))).length).toBeLessThan(15)
  })

  it('has several designs open, each with what can be undone in it', async () => {
    await browser.open(`${app.address}/d/d_keys/ledger`)
    await browser.see('.sheet')
    const name = async (): Promise<string> => (await browser.values('header .name'))[0] ?? ''
    await browser.click('button', '4 more open')
    await browser.says('Fernhollow', '.choice-list')
    await browser.type(Key.ESCAPE)
    const before = await name()
    await browser.type(Key.ESCAPE, 't', 'ambulance', Key.ENTER)
    await browser.until('it is made', async () =>
      (await app.design('d_keys')).tables.some((each) => each.name === 'ambulance')
    )
    await browser.chord(Key.ALT, Key.PAGE_DOWN)
    await browser.until(
      'another design is shown',
      async () =>
        (await browser.driver.getCurrentUrl()).includes('/d/') &&
        !(await browser.driver.getCurrentUrl()).includes('d_keys')
    )
    await browser.chord(Key.ALT, Key.PAGE_UP)
    await browser.until(
      'and the first again',
      async () => (await browser.driver.getCurrentUrl()).includes('d_keys') && (await name()) === before
    )
    await browser.see('.sheet')
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'what was done in it is undone',
      async () => !(await app.design('d_keys')).tables.some((each) => each.name === 'ambulance')
    )
  })
})
