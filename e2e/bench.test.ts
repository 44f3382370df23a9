import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { writeDesignFile } from '../core/design/file.ts'
import { fullName } from '../core/design/directory.ts'
import { emptyDesign, rowSecurityOf, type Design, type Table } from '../core/design/model.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

/** The rest of the bench and the shelf, on the demo. */
describe('on the demo', () => {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-files-'))
  const { app, browser } = session({ demo: true })
  afterAll(() => rmSync(folder, { recursive: true, force: true }))

  const stored = (): Promise<Design> => app.design('d_fernhollow')
  const table = async (name: string): Promise<Table> =>
    (await stored()).tables.find((each) => each.name === name) ?? expect.fail(`no ${name}`)
  async function go(id: string): Promise<void> {
    await browser.open(`${app.address}/d/d_fernhollow/bench/${id}`)
    await browser.see('.sheet')
    await browser.untilLineHasKeyboard()
  }
  /** Opens a choice in a sentence and takes the option that begins with the words. */
  async function choose(label: string, words: string): Promise<void> {
    await (await browser.named('span', label)).click()
    await (
      await browser.driver.wait(
        async () => {
          const options = await browser.driver.findElements(By.css('[role=option]'))
          for (const option of options)
            if (
              (await option.isDisplayed()) &&
              (await option.getText()).replace(/^·\s*/, '').startsWith(words)
            )
              return option
          return undefined as never
        },
        10_000,
        `no option ${words}`
      )
    ).click()
  }

  it('reads a relationship as sentences and changes it in place: how many, the rule, the verb', async () => {
    await go('t_admission')
    await browser.says('Each admission', '[data-side=one]')
    await choose('How many finders each admission has: at most one', 'exactly one')
    // Some of its rows have none.
    await browser.says('of admission have nothing in finder_id, which is required.', '[role=alert]')
    await browser.click('button', 'Do it, and let them refer to the first finder')
    await browser.until('finder is required and its rule follows', async () => {
      const admission = await table('admission')
      return (
        admission.foreignKeys.find((key) => key.id === 'f_admission_finder_id')?.onDelete === 'RESTRICT' &&
        admission.columns.some((column) => column.name === 'finder_id' && column.required)
      )
    })
    await choose('What deleting a finder does to its admissions: ', 'deletes its admissions too')
    await browser.until(
      'the rule is CASCADE',
      async () =>
        (await table('admission')).foreignKeys.find((key) => key.id === 'f_admission_finder_id')?.onDelete ===
        'CASCADE'
    )
    const verb = await browser.driver.findElement(By.css('[data-relation=f_admission_reason_code] .verb'))
    await verb.click()
    await verb.sendKeys(Key.chord(Key.CONTROL, 'a'), 'is for', Key.ENTER)
    await browser.until(
      'the verb is the user’s',
      async () =>
        (await table('admission')).foreignKeys.find((key) => key.id === 'f_admission_reason_code')?.verbs
          ?.child === 'is for'
    )
    for (let n = 0; n < 3; n++) await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'three undone steps give the demo again',
      async () => writeDesignFile(await stored()) === writeDesignFile(fernhollow().design)
    )
  })

  it('is told on which version of an engine it is to run, and whether rows are held to row policies', async () => {
    const address = await app.put({ ...fernhollow().design, id: 'd_held' })
    const held = (): Promise<Design> => app.design('d_held')
    await browser.open(`${address}/ledger`)
    await choose('Oldest version of MariaDB that it is to run on: 10.11 and later', '10.6 and later')
    await browser.until('the version is kept', async () => (await held()).oldest?.mariadb === '10.6')
    await browser.open(`${address}/outputs/mariadb`)
    await browser.says('for MariaDB 10.6 and later')
    await browser.click('label', 'with the design’s rows')
    // Only what is in view is made of a long text.
    await browser.until('the rows are at its end', async () => {
      await browser.driver.executeScript(
        "const page = document.querySelector('.cm-scroller'); page.scrollTop = page.scrollHeight"
      )
      return (await browser.text('.page')).includes('INSERT INTO carer_note')
    })
    await browser.open(`${address}/bench/t_carer_note`)
    await browser.see('.wires path')
    await choose(
      'Whether rows of carer_note are held to row policies: held to their',
      'held to no row policies'
    )
    await browser.says('so open_notes does nothing.')
    await browser.click('button', 'Hold rows to row policies')
    await browser.until('they are held again', async () => {
      const note = (await held()).tables.find(({ name }) => name === 'carer_note')
      return note !== undefined && rowSecurityOf(note) === 'on'
    })
    // Rows can be held to policies before there is one.
    await browser.open(`${address}/bench/t_patient`)
    await browser.see('.wires path')
    await browser.click('button', 'row access')
    await choose(
      'Whether rows of patient are held to row policies: held to no',
      'held to their row policies, for'
    )
    await browser.says('Nobody sees a row of patient in PostgreSQL')
  })

  it('explains a choice that cannot be: a key column is never emptied', async () => {
    await go('t_dose')
    await (await browser.named('span', 'What deleting a medicine does to its doses')).click()
    await browser.says('SET NULL')
    await choose('What deleting a medicine does to its doses', 'empties it')
    await browser.says(
      'medicine_id is required (it is in the primary key), so it cannot be emptied.',
      '[role=alert]'
    )
    await browser.click('button', 'Understood')
  })

  it('resolves a reference to a junction when each side turns out to need many, and carries its rows', async () => {
    await go('t_admission')
    await choose('How many patients each admission has: exactly one', 'any number of')
    await browser.says('Each side turned out to need many', '.relate')
    const name = await browser.see('.relate .names input')
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), 'shared_stay', Key.ENTER)
    await browser.until('the junction holds what the column held', async () =>
      (await stored()).tables.some((each) => each.name === 'shared_stay' && each.rows.length === 15)
    )
    expect((await table('admission')).columns.map((column) => column.name)).not.toContain('patient_id')
    expect((await stored()).carries).toHaveLength(2)
    await browser.says('shared_stay refers to')
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'one undo takes it back',
      async () => writeDesignFile(await stored()) === writeDesignFile(fernhollow().design)
    )
  })

  it('selects lines for a composite key, moves lines, toggles and writes between, by keyboard', async () => {
    await go('t_reason')
    await browser.type('/', 'rota', Key.ENTER)
    await browser.says('refers to rota')
    await browser.until('the line for a new column has the keyboard', async () =>
      (await browser.focused()).startsWith('Name of the new column')
    )
    await browser.type(
      'ward_code',
      Key.TAB,
      'char(3)',
      Key.ENTER,
      'starts_at',
      Key.TAB,
      'timestamp',
      Key.ENTER,
      Key.ESCAPE
    )
    await browser.until('two columns are there', async () => (await table('rota')).columns.length === 3)
    await browser.type(Key.ARROW_UP)
    await browser.chord(Key.SHIFT, Key.ARROW_UP)
    await browser.type('k')
    await browser.until('both are the key, and required', async () => {
      const shift = await table('rota')
      return (
        shift.primaryKey?.columns.length === 2 && shift.columns.slice(1).every((column) => column.required)
      )
    })
    await browser.says('key, in this order')
    await browser.click('button', 'earlier in the key: starts_at')
    await browser.until('their order is another', async () => {
      const shift = await table('rota')
      return shift.primaryKey?.columns[0] === shift.columns.find((column) => column.name === 'starts_at')?.id
    })
    await browser.type(Key.HOME)
    await (await browser.driver.findElement(By.css('.line[data-column]'))).sendKeys(Key.HOME)
    await browser.chord(Key.ALT, Key.ARROW_DOWN)
    await browser.until('the line moved', async () => (await table('rota')).columns[1]?.name === 'rota_id')
    await browser.type(Key.SPACE)
    await browser.until('it may be empty', async () => (await table('rota')).columns[1]?.required === false)
    await browser.type('u')
    await browser.until('it is unique', async () => (await table('rota')).uniques.length === 1)
    await browser.click('button', 'remove this table')
    await browser.until(
      'the table is gone',
      async () => !(await stored()).tables.some((each) => each.name === 'rota')
    )
  })

  it('writes a reference as a type, completed from a few letters, with the key’s type', async () => {
    await go('t_finder')
    await browser.type(Key.END, Key.ENTER, 'kind', Key.TAB, '> spe', Key.TAB)
    await browser.type(Key.ENTER)
    await browser.until(
      'the column refers to species',
      async () => (await table('finder')).foreignKeys[0]?.table === 't_species'
    )
    expect((await table('finder')).columns.at(-1)).toMatchObject({
      name: 'kind',
      type: { kind: 'char', length: 6 }
    })
    await browser.says('Each finder', '[data-side=one]')
    await browser.chord(Key.CONTROL, 'z')
  })

  it('shows a failed proof with what the engine said', async () => {
    await go('t_patient')
    await browser.type('n', 'age', Key.TAB, 'smallint', Key.TAB, Key.SPACE, Key.ENTER, Key.ESCAPE)
    await browser.until('the column is there', async () =>
      (await table('patient')).columns.some((column) => column.name === 'age')
    )
    await browser.chord(Key.ALT, '5')
    await browser.says('patient.age is new, required and has no default', '.warnings')
    await browser.click('button', 'Prove the migration')
    await browser.says('not proven', '.proof', 60_000)
    await browser.driver.wait(
      async () => ((await browser.text('.proof h3')).match(/^not proven$/gm) ?? []).length === 2,
      60_000
    )
    expect(await browser.text('.trouble')).toMatch(/At “up” the engine said: .*null/i)
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'the draft is as it was',
      async () => writeDesignFile(await stored()) === writeDesignFile(fernhollow().design)
    )
  })

  it('goes through the diagram by keyboard, and places all anew', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/diagram`)
    const species = await browser.named('*[@data-table]', 'reason,')
    await browser.driver.executeScript('arguments[0].focus()', species)
    await browser.type(Key.ARROW_RIGHT)
    await browser.until(
      'a neighbour has the keyboard',
      async () => !(await browser.focused()).startsWith('reason,')
    )
    const neighbour = await browser.driver.executeScript<string>(
      'return document.activeElement.dataset.table'
    )
    await browser.chord(Key.ALT, Key.ARROW_DOWN)
    await browser.until('its place is kept', async () => (await stored()).positions[neighbour] !== undefined)
    await browser.click('button', 'Place all anew')
    await browser.until('no place is kept', async () => Object.keys((await stored()).positions).length === 0)
    await browser.driver.executeScript('arguments[0].focus()', await browser.named('*[@data-table]', 'dose,'))
    await browser.type(Key.ENTER)
    await browser.says('dose refers to')
  })

  it('takes a design file onto the shelf, says what is wrong with one that is not, and removes a design', async () => {
    await browser.open(app.address)
    await browser.says('Fernhollow Wildlife Hospital')
    const field = await browser.driver.findElement(By.css('input[type=file]'))
    const [bad, good] = [join(folder, 'bad.json'), join(folder, 'good.json')]
    writeFileSync(bad, '{ "format": 7 }')
    writeFileSync(good, writeDesignFile({ ...fernhollow().design, name: 'A copy' }))
    await field.sendKeys(bad)
    await browser.says('A newer Patient Key wrote it', '[role=alert]')
    await (await browser.driver.findElement(By.css('input[type=file]'))).sendKeys(good)
    await browser.see('.sheet')
    await browser.open(app.address)
    await browser.says('A copy')
    await browser.click('li[contains(., "A copy")]//button', 'remove')
    await browser.click('button', 'Remove A copy and its versions for good')
    await browser.driver.wait(async () => !(await browser.text()).includes('A copy'), 10_000)
    await browser.says('Fernhollow Wildlife Hospital')
  })

  it('finds a column of the table that one is at, and makes a table though a column is called much the same', async () => {
    await go('t_release')
    await browser.type('/', 'released', Key.ENTER)
    await browser.until('the column has the keyboard', async () =>
      (await browser.focused()).startsWith('released_on')
    )
    await browser.type(Key.HOME)
    await browser.type('/', 'released', Key.ENTER)
    await browser.until('it has the keyboard again', async () =>
      (await browser.focused()).startsWith('released_on')
    )
    await browser.type('/', 'released')
    await browser.chord(Key.SHIFT, Key.ENTER)
    await browser.says('refers to released')
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'there is none again',
      async () => !(await stored()).tables.some((each) => each.name === 'released')
    )
  })

  it('makes the table that a reference names when it is asked to, and only then', async () => {
    await go('t_reason')
    await browser.type('n', 'told_by', Key.TAB, '> caller', Key.ENTER)
    await browser.says('There is no table called caller yet.', '.line.writing')
    expect((await stored()).tables.some((each) => each.name === 'caller')).toBe(false)
    await browser.type(Key.ENTER)
    await browser.until(
      'it is made and referred to',
      async () =>
        (await table('reason')).foreignKeys.some((key) => key.pairs.length === 1) &&
        (await table('caller')).columns.length === 1
    )
    await browser.type(Key.ESCAPE)
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'one undo takes both away',
      async () => writeDesignFile(await stored()) === writeDesignFile(fernhollow().design)
    )
    // What is typed instead after the question is taken over like anything else, wherever one goes next.
    await browser.type('n', 'told_by', Key.TAB, '> caller', Key.ENTER)
    await browser.says('There is no table called caller yet.', '.line.writing')
    await browser.chord(Key.CONTROL, 'a')
    await browser.type('text(30)', Key.ARROW_UP)
    await browser.until('it is a column', async () =>
      (await table('reason')).columns.some(
        (column) => column.name === 'told_by' && column.type.kind === 'text'
      )
    )
    await browser.type('n', 'rung_at', Key.TAB, '> caller', Key.ENTER)
    await browser.says('There is no table called caller yet.', '.line.writing')
    await browser.chord(Key.CONTROL, 'a')
    await browser.type('date')
    await (await browser.driver.findElement(By.css('.sheet .note'))).click()
    await browser.until('it is one too', async () =>
      (await table('reason')).columns.some((column) => column.name === 'rung_at')
    )
    await browser.driver.executeScript('document.activeElement.blur()')
    await browser.chord(Key.CONTROL, 'z')
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'both are undone',
      async () => writeDesignFile(await stored()) === writeDesignFile(fernhollow().design)
    )
  })

  it('makes a table in a schema that is made with it, and puts one elsewhere by its name', async () => {
    await browser.open(`${await app.put({ ...emptyDesign('Schemas'), id: 'd_schemas' })}/bench`)
    await browser.see('input[aria-label="Name of the first table"]')
    const isNewLine = async (): Promise<boolean> =>
      (await browser.focused()).startsWith('Name of the new column')
    await browser.type('/staff.person', Key.ENTER)
    await browser.until('a column can be written', isNewLine)
    // The line is empty, so this finds a table.
    await browser.type('/')
    await browser.type('birds.person')
    await browser.says('make birds.person and the schema birds')
    await browser.type(Key.ENTER)
    await browser.says('refers to person')
    await browser.until('a column of the other can be written', isNewLine)
    const stored = async (): Promise<string[]> => {
      const design = await app.design('d_schemas')
      return design.tables.map((table) => fullName(design, table))
    }
    await browser.until('both are there', async () => (await stored()).join() === 'staff.person,birds.person')
    const name = await browser.named('input', 'Name of the table')
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), 'staff.keeper', Key.ENTER)
    await browser.until(
      'it is in the other',
      async () => (await stored()).join() === 'staff.person,staff.keeper'
    )
    expect(await name.getAttribute('value')).toBe('keeper')
    expect(await browser.text('.trail')).toContain('staff.keeper')
  })

  it('can be taken back when the page has been loaded anew', async () => {
    await go('t_reason')
    await browser.type('n', 'kept_back', Key.TAB, 'date', Key.ENTER, Key.ESCAPE)
    await browser.until(
      'it is the last column, since nobody had chosen a place',
      async () => (await table('reason')).columns.at(-1)?.name === 'kept_back'
    )
    await go('t_reason')
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'it is none again',
      async () => writeDesignFile(await stored()) === writeDesignFile(fernhollow().design)
    )
  })

  it('lets what refers to a table follow to another key, by keyboard, or leaves it', async () => {
    await go('t_medicine')
    await browser.type(Key.ARROW_DOWN, 'k')
    await browser.says('dose refers to medicine by its key', '[role=alert]')
    await browser.type(Key.ESCAPE)
    await browser.until(
      'it can be left',
      async () => (await browser.driver.findElements(By.css('.notices [role=alert]'))).length === 0
    )
    await browser.type('k')
    await browser.says('Make name the key, and let what refers follow', '[role=alert]')
    await browser.chord(Key.ALT, Key.ENTER)
    await browser.until('dose refers by the name', async () =>
      (await table('dose')).columns.some((column) => column.name === 'medicine_name')
    )
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'one undo takes it back',
      async () => writeDesignFile(await stored()) === writeDesignFile(fernhollow().design)
    )
  })

  it('says on the page of versions what a migration looks up, and first of all what would stop it', async () => {
    await go('t_skill')
    await browser.type(Key.ARROW_DOWN, 'k')
    await browser.says('let what refers follow', '[role=alert]')
    await browser.chord(Key.ALT, Key.ENTER)
    await browser.until('shift refers by the name', async () =>
      (await table('shift')).columns.some((column) => column.name === 'skill_name')
    )
    await browser.type('n', 'rate', Key.TAB, 'smallint', Key.TAB, Key.SPACE, Key.ENTER, Key.ESCAPE)
    await browser.until('a required column is there', async () =>
      (await table('skill')).columns.some((column) => column.name === 'rate' && column.required)
    )
    await browser.chord(Key.ALT, '5')
    await browser.says('shift.skill_name is looked up in the skill that skill_id refers to.', '.words')
    await browser.says('IN ACCESS EXCLUSIVE MODE')
    expect(
      (await browser.text('.words')).indexOf(
        'skill.rate is new, required and has no default: the migration stops if skill has rows.'
      )
    ).toBeLessThan((await browser.text('.words')).indexOf('from version 4'))
    const ask = await browser.see('.fill input')
    await ask.sendKeys('much', Key.ENTER)
    await browser.see('.fill .slip')
    await ask.clear()
    await ask.sendKeys('3', Key.ENTER)
    await browser.says('skill.rate gets 3 in rows that have nothing there.', '.words')
    await browser.says('SET rate = ', '.sql')
    expect(await browser.text('.words')).not.toContain('the migration stops if skill has rows')
    await browser.until('the rows have it', async () =>
      (await table('skill')).rows.every((row) => Object.values(row).includes(3))
    )
    for (let undone = 0; undone < 3; undone++) await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'both are undone',
      async () => writeDesignFile(await stored()) === writeDesignFile(fernhollow().design)
    )
  })

  it('keeps the theme that was chosen', async () => {
    await browser.click('button', 'Dark')
    await browser.open(`${app.address}/d/d_fernhollow/bench`)
    await browser.see('.sheet')
    expect(await browser.driver.executeScript('return document.documentElement.dataset.theme')).toBe('dark')
  })
})
