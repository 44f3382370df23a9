import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { unzipSync } from 'fflate'
import { afterAll, describe, expect, it } from 'vitest'
import { readDesignFile, type DesignFile } from '../core/design/file.ts'
import type { Design } from '../core/design/model.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

/** From nothing to a proven migration, by the keyboard as far as a person would use it. */
describe('a newcomer', () => {
  const downloads = mkdtempSync(join(tmpdir(), 'patient-key-downloads-'))
  const { app, browser } = session({ downloads })
  afterAll(() => rmSync(downloads, { recursive: true, force: true }))

  const stored = (): Promise<Design> => app.design()
  const columns = (name: string, design: Design): string[] =>
    design.tables.find((table) => table.name === name)?.columns.map((column) => column.name) ?? []

  const fileOf = async (id: string): Promise<DesignFile> => {
    const read = readDesignFile(await (await fetch(`${app.address}/api/designs/${id}/file`)).text())
    return read.ok ? read.value : expect.fail(read.message)
  }

  it('designs two tables on the bench by keyboard alone', async () => {
    await browser.open(app.address)
    await browser.says('Nothing on the shelf')
    await browser.type('Ward book', Key.ENTER)
    await browser.says('Nothing is designed yet')
    await browser.type('medicine', Key.ENTER)
    await browser.see('.sheet')
    await browser.says('refers to medicine')
    // The generated key is there; three columns are typed, one of them completed.
    await browser.type('name', Key.TAB, 'text(60)', Key.TAB, Key.SPACE, Key.ENTER)
    await browser.type('unit_cost', Key.TAB, 'decimal(8,2)', Key.TAB, Key.TAB, '0.50', Key.ENTER)
    await browser.type('stocked_on', Key.TAB, 'dat', Key.TAB, Key.TAB, 'now', Key.ENTER)
    await browser.type('code', Key.TAB, 'char(6)', Key.TAB, Key.SPACE, Key.ENTER, Key.ESCAPE)
    await browser.driver.wait(async () => columns('medicine', await stored()).length === 5, 10_000)
    // A natural key instead: the line of the code, then K.
    await browser.type(Key.ARROW_UP, 'k')
    await browser.driver.wait(async () => {
      const table = (await stored()).tables[0]
      return table?.primaryKey?.columns[0] === table?.columns.find((column) => column.name === 'code')?.id
    }, 10_000)
    await browser.chord(Key.CONTROL, 'z')
    await browser.type('/', 'admission', Key.ENTER)
    await browser.says('refers to admission')
    // Or all of it in the place of the name.
    await browser.type('admitted_at timestamp zone required', Key.ENTER, Key.ESCAPE)
    await browser.driver.wait(async () => columns('admission', await stored()).length === 2, 10_000)
    const [medicine] = (await stored()).tables
    expect(
      medicine?.columns.map((column) => [
        column.name,
        column.type.kind,
        column.required,
        column.default?.kind
      ])
    ).toEqual([
      ['medicine_id', 'integer', true, 'generated'],
      ['name', 'text', true, undefined],
      ['unit_cost', 'decimal', false, 'value'],
      ['stocked_on', 'date', false, 'now'],
      ['code', 'char', true, undefined]
    ])
    expect(medicine?.primaryKey?.columns).toEqual([medicine?.columns[0]?.id])
  })

  it('relates them many to many through a junction, shown before it is built, and one undo takes it away', async () => {
    await browser.type('r')
    await browser.see('.relate')
    await browser.type('medicine', Key.ENTER)
    await browser.says('Each medicine has', '.relate')
    // Any number of medicines is chosen; the other side becomes any number of admissions.
    await browser.type(Key.TAB, Key.ARROW_UP, Key.ARROW_UP)
    await browser.says('Many on both sides', '.relate')
    await browser.says('admission_id', '.relate')
    await browser.says('> medicine integer', '.relate')
    await browser.says('deletes its admission_medicines too', '.relate')
    await browser.type(Key.TAB, 'dose')
    await browser.says('CREATE TABLE dose', '.relate')
    await browser.click('button', 'new column about the pair')
    await browser.type('quantity', Key.ENTER, 'decimal(6,2)', Key.ENTER)
    await browser.says('quantity     numeric(6,2)', '.relate')
    await browser.type(Key.ENTER)
    await browser.says('dose refers to')
    await browser.driver.wait(async () => columns('dose', await stored()).length === 3, 10_000)
    await browser.chord(Key.CONTROL, 'z')
    await browser.driver.wait(async () => (await stored()).tables.length === 2, 10_000)
    await browser.chord(Key.CONTROL, 'y')
    await browser.driver.wait(
      async () => columns('dose', await stored()).join() === 'admission_id,medicine_id,quantity',
      10_000
    )
    const dose = (await stored()).tables.find((table) => table.name === 'dose')
    expect(dose?.primaryKey?.columns).toEqual(dose?.columns.slice(0, 2).map((column) => column.id))
    expect(dose?.columns.slice(0, 2).map((column) => [column.type.kind, column.default])).toEqual([
      ['integer', undefined],
      ['integer', undefined]
    ])
  })

  it('walks along the keys, with readings on the neighbours', async () => {
    await browser.type('/', 'admission', Key.ENTER)
    await browser.says('Deleting an admission deletes its doses too', '[data-side=many]')
    await browser.says('on the far side', '[data-side=many]')
    await browser.untilLineHasKeyboard()
    await browser.type(Key.ARROW_RIGHT, Key.ENTER)
    await browser.says('dose refers to')
    await browser.untilLineHasKeyboard()
    await browser.type(Key.ARROW_LEFT, Key.ARROW_DOWN, Key.ENTER)
    await browser.says('refers to medicine')
    await browser.untilLineHasKeyboard()
    await browser.type(Key.BACK_SPACE)
    await browser.says('dose refers to')
    expect(await browser.text('.trail')).toContain('admission')
  })

  it('holds a bad line back with a word beside it, and refuses to tear a relationship, with an offer', async () => {
    await browser.type('/', 'dose', Key.ENTER)
    await browser.says('dose refers to')
    await browser.type('n', 'odd', Key.TAB, 'numbre', Key.ENTER)
    await browser.says('“numbre” is not a type', '.slip')
    expect(await browser.values('.line.writing input[data-cell=type]')).toEqual(['numbre'])
    await browser.type(Key.ESCAPE)
    await browser.type(Key.HOME, Key.DELETE)
    await browser.says('cannot go by itself')
    await browser.says('Remove the relationship and the column')
    await browser.click('button', 'Leave it as it is')
    expect(columns('dose', await stored())).toContain('admission_id')
  })

  it('sees it all in the diagram, ones left of manys, and puts a table elsewhere', async () => {
    await browser.chord(Key.ALT, '3')
    await browser.see('[data-table] .paper')
    await browser.driver.wait(
      async () => (await browser.driver.findElements(By.css('g.line'))).length === 2,
      10_000
    )
    const left = async (name: string): Promise<number> =>
      (await (await browser.named('*[@data-table]', `${name},`)).getRect()).x
    expect(await left('medicine')).toBeLessThan(await left('dose'))
    expect(await left('admission')).toBeLessThan(await left('dose'))
    const table = await browser.named('*[@data-table]', 'medicine,')
    await browser.driver
      .actions()
      .move({ origin: table })
      .press()
      .move({ origin: table, x: -40, y: 60 })
      .release()
      .perform()
    await browser.driver.wait(async () => Object.keys((await stored()).positions).length === 1, 10_000)
  })

  it('gets the SQL of the draft, and the diagram as a file', async () => {
    await browser.chord(Key.ALT, '6')
    await browser.says('CREATE TABLE dose', '.cm-content')
    await browser.says('ON DELETE CASCADE', '.cm-content')
    await browser.click('a', 'SQLite')
    await browser.says('PRIMARY KEY AUTOINCREMENT', '.cm-content')
    await browser.click('a', 'Diagram (SVG)')
    await browser.see('.page img')
    await browser.click('button', 'Download')
    const svg = readFileSync(await browser.downloaded('Ward book diagram.svg'), 'utf8')
    expect(svg).toContain('<svg xmlns="http://www.w3.org/2000/svg"')
    for (const name of ['medicine', 'admission', 'dose']) expect(svg).toContain(`>${name}</text>`)
  })

  it('saves two versions, reads the change in words, and proves the migration on three engines', async () => {
    await browser.chord(Key.ALT, '5')
    await browser.says('No version yet')
    await (await browser.see('.save input')).sendKeys('Two things and a junction', Key.ENTER)
    await browser.says('version 1', '.line')
    // A rename, a required column with a default, a dropped column, a new table.
    await browser.chord(Key.ALT, '1')
    await browser.type('/', 'medicine', Key.ENTER)
    await browser.says('refers to medicine')
    await browser.untilLineHasKeyboard()
    await browser.type(Key.ARROW_DOWN, Key.ENTER, 'trade_name', Key.ENTER, Key.ESCAPE)
    await browser.driver.wait(async () => columns('medicine', await stored()).includes('trade_name'), 10_000)
    await browser.type(
      'n',
      'controlled',
      Key.TAB,
      'boolean',
      Key.TAB,
      Key.SPACE,
      Key.TAB,
      'false',
      Key.ENTER,
      Key.ESCAPE
    )
    await browser.driver.wait(async () => columns('medicine', await stored()).includes('controlled'), 10_000)
    await browser.type(Key.END, Key.ARROW_UP, Key.DELETE)
    await browser.driver.wait(async () => !columns('medicine', await stored()).includes('code'), 10_000)
    await browser.type('/', 'ward', Key.ENTER)
    await browser.says('refers to ward')
    await browser.driver.wait(async () => (await stored()).tables.length === 4, 10_000)
    await browser.chord(Key.ALT, '5')
    await (await browser.see('.save input')).sendKeys('Wards, and controlled medicines', Key.ENTER)
    await browser.says('from version 1 to version 2')
    for (const sentence of [
      'medicine.name is renamed to trade_name',
      'medicine.controlled is new: boolean, required, default false',
      'medicine.code is removed',
      'ward is new',
      'Medicine.name is called Medicine.tradeName now.',
      'Medicine.controlled is new.'
    ])
      await browser.says(sentence, '.words')
    await browser.says('keepsake_medicine', '.words')
    await browser.says('RENAME COLUMN name TO trade_name', '.sql')
    await browser.click('label', 'SQLite')
    await browser.says('PRAGMA foreign_keys = OFF', '.sql')
    await browser.click('button', 'Prove the migration')
    // The page stays usable while the engines run.
    await browser.says('PostgreSQL', '.proof')
    await browser.driver
      .wait(async () => ((await browser.text('.proof h3')).match(/^proven$/gm) ?? []).length === 3, 90_000)
      .catch(async () => {
        throw new Error(await browser.text('.proof'))
      })
    expect(await browser.text('.proof')).toContain('up once more')
    expect(await browser.text('.proof')).not.toContain('failed')
    expect(((await browser.text('.proof')).match(/^good$/gm) ?? []).length).toBe(24)
  })

  it('says otherwise what a version is for, and puts the draft into the last', async () => {
    const note = await browser.see('[aria-label="Note on version 1"]')
    await note.sendKeys(', and more', Key.ENTER)
    await browser.chord(Key.ALT, '1')
    await browser.type('/', 'ward', Key.ENTER)
    await browser.says('refers to ward')
    await browser.untilLineHasKeyboard()
    await browser.type('n', 'beds', Key.TAB, 'smallint', Key.ENTER, Key.ESCAPE)
    await browser.driver.wait(async () => columns('ward', await stored()).includes('beds'), 10_000)
    await browser.chord(Key.ALT, '5')
    await browser.click('button', 'put the draft into version 2')
    await browser.click('button', 'Yes')
    await browser.driver.wait(async () => {
      const [first, second] = (await fileOf((await stored()).id)).versions
      return (
        first?.note === 'Two things and a junction, and more' &&
        second !== undefined &&
        columns('ward', second.design).includes('beds')
      )
    }, 10_000)
  })

  it('takes all versions as a folder of scripts', async () => {
    // SQLite was chosen before the page was left.
    await browser.click('button', 'folder of all versions')
    const files = unzipSync(readFileSync(await browser.downloaded('Ward book sqlite.zip')))
    expect(Object.keys(files)).toEqual(
      expect.arrayContaining(['0001/up.sql', '0002/down.sql', 'up-to-date.sql'])
    )
    const database = join(downloads, 'ward.sqlite')
    for (const [name, text] of Object.entries(files)) {
      mkdirSync(dirname(join(downloads, name)), { recursive: true })
      writeFileSync(join(downloads, name), text)
    }
    const shell = spawnSync('sqlite3', [database], {
      input: files['up-to-date.sql'],
      cwd: downloads,
      encoding: 'utf8'
    })
    expect([shell.stderr, shell.status]).toEqual(['', 0])
    expect(shell.stdout).toContain('Done: this database is at version 2.')
  })

  it('saves a version of some of the changes, and leaves the rest in the draft', async () => {
    await browser.chord(Key.ALT, '1')
    await browser.type('/', 'ward', Key.ENTER)
    await browser.says('refers to ward')
    await browser.untilLineHasKeyboard()
    await browser.type(
      'n',
      'heated',
      Key.TAB,
      'boolean',
      Key.ENTER,
      'built',
      Key.TAB,
      'date',
      Key.ENTER,
      Key.ESCAPE
    )
    await browser.driver.wait(async () => columns('ward', await stored()).includes('built'), 10_000)
    await browser.chord(Key.ALT, '5')
    await browser.click('input', 'ward.heated is new')
    await browser.says('Version 3 gets 1 of 2 changes, the others stay in the draft', '.words')
    await browser.says('ADD COLUMN built', '.sql')
    expect(await browser.text('.sql')).not.toContain('heated')
    await browser.click('button', 'Save version 3: 1 of 2')
    await browser.says('from version 2 to version 3', '.words')
    const { versions, design } = await fileOf((await stored()).id)
    const third = columns('ward', versions[2]?.design as Design)
    expect([third.includes('built'), third.includes('heated')]).toEqual([true, false])
    expect(columns('ward', design)).toContain('heated')
  })
})
