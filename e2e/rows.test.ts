import { fileURLToPath } from 'node:url'
import { describe, expect, it } from 'vitest'
import { tableOf } from '../core/design/directory.ts'
import { emptyDesign, emptyTable, type Design } from '../core/design/model.ts'
import { INTAKES, MISTAKEN } from '../demo/intake.ts'
import { column } from '../tests/columns.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

const SHEET = fileURLToPath(new URL('../demo/intake-sheet.csv', import.meta.url))

describe('rows', () => {
  const { app, browser } = session({ demo: true })
  const demo = (): string => `${app.address}/d/d_fernhollow`
  const rowsOf = async (table: string): Promise<number> =>
    tableOf(await app.design('d_fernhollow'), table)?.rows.length ?? -1
  const isInGrid = async (): Promise<boolean> => (await browser.focused()).startsWith('Rows of')

  it('are seen from both sides, and walked along', async () => {
    await browser.open(`${demo()}/rows/t_shift`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.says('4 shift_volunteers of 4 volunteers', '[data-side=many]')
    await browser.says('Water birds', '[data-side=one]')
    await browser.type(Key.ARROW_LEFT)
    await browser.until('what it refers to has the keyboard', async () =>
      (await browser.focused()).startsWith('ward')
    )
    await browser.type(Key.ENTER)
    await browser.says('ward', 'h1')
    await browser.type(Key.BACK_SPACE)
    await browser.says('shift', 'h1')
    // What is looked for is found where one is.
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.type('/', 'telephone', Key.ENTER)
    await browser.says('finder', 'h1')
    await browser.until('the column has the keyboard', async () =>
      browser.driver.executeScript<boolean>(
        'return document.querySelector(".cell.at")?.ariaColIndex === "4" && !location.search'
      )
    )
  })

  it('say beforehand what a delete does; a rule is changed there, and it is put back or kept', async () => {
    await browser.open(`${demo()}/rows/t_patient`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.type(Key.DELETE)
    await browser.says('refuses it: everything stays as it was', '.rehearsal')
    await browser.says('patient “Bramble” cannot be deleted', '.rehearsal')
    await browser.click('span', 'What deleting a patient does to admission')
    await browser.click('div[@role="option"]', 'deletes its admissions too')
    await browser.says('2 admissions deleted', '.rehearsal')
    await browser.says('doses deleted', '.rehearsal')
    await browser.says('nothing is kept yet', '.rehearsal')
    expect(await rowsOf('t_admission')).toBe(15)
    await browser.says('Broken: the ruling “A patient that was admitted is not deleted.”')
    // First what is said goes, then what is tried.
    await browser.type(Key.ESCAPE, Key.ESCAPE)
    await browser.until('the rows have the keyboard', isInGrid)
    expect(await rowsOf('t_patient')).toBe(12)

    await browser.type(Key.DELETE)
    await browser.says('2 admissions deleted', '.rehearsal')
    await browser.click('button', 'run it on real engines')
    await browser.until(
      'the engines do the same',
      async () => (await browser.text('.runs')).match(/the same rows, each of them/g)?.length === 3,
      90_000
    )
    await browser.click('button', 'SQLite, not asked to')
    await browser.says('2 admissions left astray', '.rehearsal')
    await browser.click('button', 'SQLite')
    await browser.click('button', 'Keep it')
    await browser.until('it is kept', async () => (await rowsOf('t_patient')) === 11)
    expect(await rowsOf('t_admission')).toBe(13)
    await browser.click('button', 'Undo')
    await browser.until('all is as before', async () => (await rowsOf('t_patient')) === 12)
    expect(await rowsOf('t_admission')).toBe(15)
  })

  it('are within reach, which shrinks with a rule', async () => {
    await browser.open(`${demo()}/reach/t_patient`)
    await browser.says('can take 94 rows of 6 other tables along', '.bar')
    await browser.click('span', 'What deleting a patient does to admission')
    await browser.click('div[@role="option"]', 'is refused while admissions refer to it')
    await browser.says('can take no rows of no other tables along', '.bar')
    await browser.says('before the last change of a rule it was 94 rows of 6 tables')
    await browser.says('15 rows refuse it')
    await browser.click('button', 'diagram')
    await browser.says('refuses: 15 rows', '.drawing')
    await browser.click('option', 'Bramble')
    await browser.says('refuses: 2 rows', '.drawing')
  })

  it('are held to rulings: one that a rule breaks is named at once, and kept to again when it is taken back', async () => {
    await browser.open(`${demo()}/rows/t_medicine`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.type(Key.DELETE)
    await browser.says('refuses it: everything stays as it was', '.rehearsal')
    await browser.click('button', 'make it a ruling')
    await browser.until('what it says is written', async () => (await browser.focused()) === 'What it says')
    await browser.type('A medicine that was given stays in the books.', Key.ENTER)
    await browser.says('Kept as a ruling')
    const before = await browser.text('header .found')
    await browser.click('span', 'What deleting a medicine does to dose')
    await browser.click('div[@role="option"]', 'deletes its doses too')
    await browser.says('Broken: the ruling “A medicine that was given stays in the books.”')
    await browser.until('it is found too', async () => (await browser.text('header .found')) !== before)
    await browser.open(`${demo()}/rulings`)
    await browser.says('1 ruling not kept to', '.bar')
    await browser.says('It is taken, with', '.page .broken')
    await browser.click('button', 'Undo')
    await browser.says('5 rulings', '.bar')
    await browser.until(
      'it is kept to again',
      async () => !(await browser.text('.bar')).includes('not kept to')
    )
    await browser.click('button', 'see it happen')
    await browser.says('refuses it: everything stays as it was', '.rehearsal')
    await browser.type(Key.ESCAPE)
  })

  it('have all rules on one page, which are read and changed there', async () => {
    await browser.open(`${demo()}/rules`)
    await browser.says('26 references', '.bar')
    await browser.click('span', 'What deleting a finder does to admission')
    await browser.click('div[@role="option"]', 'deletes its admissions too')
    await browser.says('SET NULL is usual, since it may be without', 'table')
    await browser.until(
      'the rule is kept',
      async () =>
        tableOf(await app.design('d_fernhollow'), 't_admission')?.foreignKeys.find(
          (key) => key.table === 't_finder'
        )?.onDelete === 'CASCADE'
    )
    await browser.click('button', 'Undo')
  })

  it('are put in as the missing pairs of a junction, which none are missing of by then', async () => {
    await browser.open(`${demo()}/rows/t_shift`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.type(Key.ARROW_DOWN, Key.ARROW_DOWN, Key.ARROW_DOWN, Key.ARROW_DOWN)
    await browser.says('refers to “Small mammals, 2026-05-21 18:00”')
    const before = await rowsOf('t_shift_volunteer')
    await browser.driver.executeScript('document.querySelector("[data-side=many] .more button").focus()')
    await browser.click('button', 'Missing pairs of shift_volunteer')
    await browser.see('.relate .side')
    const [, has] = await browser.driver.findElements(By.css('.relate .side:nth-of-type(2) select'))
    await has?.sendKeys('skill bottle feeding')
    await browser.says('INSERT INTO shift_volunteer', '.relate')
    const said = await browser.text('.relate [role=status]')
    const count = Number(/^(\d+) pairs?/.exec(said)?.[1])
    expect(count).toBeGreaterThan(0)
    await browser.click('button', 'Put ')
    await browser.until('they are there', async () => (await rowsOf('t_shift_volunteer')) === before + count)
  })

  it('are connected by hand, and how their tables are related follows from what is answered', async () => {
    await browser.open(`${demo()}/rows/t_volunteer`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.click('button', 'connect rows')
    await browser.click('option', 'patient')
    const choose = async (volunteer: string, patient: string): Promise<void> => {
      await browser.click('li/button', volunteer)
      await browser.click('li/button', patient)
    }
    await choose('Hester Quill', 'Bramble')
    await browser.says('Each volunteer has at most one patient', '.relate')
    await choose('Hester Quill', 'Dapple')
    await browser.says('May a volunteer have several patients?', '.relate .ask')
    await browser.click('button', 'Yes, several patients')
    await choose('Lin Mossgrove', 'Dapple')
    await browser.says('May a patient have several volunteers?', '.relate .ask')
    await browser.click('button', 'No, one')
    await browser.says('patient refers to volunteer', '.relate')
    await browser.click('button', 'Relate them so')
    await browser.until('patient refers to volunteer', async () => {
      const patient = tableOf(await app.design('d_fernhollow'), 't_patient')
      const key = patient?.foreignKeys.find(({ table }) => table === 't_volunteer')
      const column = key?.pairs[0]?.column ?? ''
      return patient?.rows.filter((row) => (row[column] ?? null) !== null).length === 2
    })
    await browser.click('button', 'Undo')
  })

  it('that point at nothing are found where nothing holds them, and mended', async () => {
    await browser.open(`${demo()}/rows/t_release`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.type(Key.END, '77', Key.ENTER)
    await browser.click('button', 'points at nothing')
    await browser.says('to volunteer', '.relate .ways')
    await browser.says('1 row at nothing', '.relate .ways')
    await browser.says('NOT EXISTS (SELECT 1 FROM volunteer other', '.relate pre')
    const before = await rowsOf('t_volunteer')
    await browser.click('button', 'Mend 1 row')
    await browser.until(
      'the one that was missing is there',
      async () => (await rowsOf('t_volunteer')) === before + 1
    )
    await browser.click('button', 'Done')
    await browser.click('button', 'Undo')
    await browser.click('button', 'Undo')
  })

  it('stand together by what they refer to, and are walked through from group to group', async () => {
    await browser.open(`${demo()}/rows/t_dose`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.type(Key.HOME)
    await browser.chord(Key.ALT, 'g')
    await browser.says('groups', '.sheet header')
    await browser.says('Admiral, 2026-05-09 10:00\n3 doses', '.grid .group')
    await browser.chord(Key.ALT, Key.ARROW_DOWN)
    await browser.chord(Key.ALT, Key.ARROW_DOWN)
    await browser.says('Ash, 2026-07-14 17:30', '.line.here')
    await browser.chord(Key.ALT, 'g')
    await browser.until(
      'they are parted again',
      async () => !(await browser.text('.sheet header')).includes('groups')
    )
  })

  it('are made by a seed, believable and in any number', async () => {
    await browser.open(`${demo()}/rows/t_carer_note`)
    await browser.until('the rows have the keyboard', isInGrid)
    const before = await rowsOf('t_carer_note')
    await browser.click('button', 'make some')
    const [many] = await browser.driver.findElements(By.css('.relate input[type=number]'))
    await many?.clear()
    await many?.sendKeys('2500')
    await browser.click('button', 'Make 2,500 rows')
    await browser.says('2,500 rows made', '.relate')
    await browser.click('button', 'Put 2,500 rows in')
    await browser.until('they are kept', async () => (await rowsOf('t_carer_note')) === before + 2500)
    await browser.click('button', 'Undo')
    await browser.until('they are gone', async () => (await rowsOf('t_carer_note')) === before)
  })

  it('are asked from both sides, with the SQL for it', async () => {
    await browser.open(`${demo()}/rows/t_shift`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.driver.executeScript(
      'document.querySelector("[data-side=many] [aria-label=\'Ask about shift_volunteer\']").focus()'
    )
    await browser.click('button', 'Ask about shift_volunteer')
    await browser.says('Yusra Banning', '.relate .answer')
    await browser.says('JOIN volunteer other ON', '.relate pre')
    await browser.click('label', 'How many volunteers each shift has')
    await browser.says('count(*)', '.relate pre')
    await browser.click('label', 'from the other side')
    await browser.says('How many shifts each volunteer has', '.relate .asks')
    await browser.click('label', 'Attach some')
    await browser.says('INSERT INTO shift_volunteer', '.relate pre')
    await browser.click('button', 'Done')
    await browser.until('the rows have the keyboard', isInGrid)
  })

  it('say how many came of those who were invited, and are ordered by it', async () => {
    await browser.open(`${demo()}/rows/t_volunteer`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.driver.executeScript(
      'document.querySelector("[data-side=many] [aria-label=\'Figure over shift_volunteer\']").focus()'
    )
    await browser.click('button', 'Figure over shift_volunteer')
    await browser.says('Each volunteer says', '.relate .sentence')
    const [where] = await browser.driver.findElements(By.css('.relate .line input'))
    await where?.sendKeys('came is')
    await browser.see('.relate [role=alert]')
    await where?.sendKeys(' null or not came')
    const name = await browser.driver.findElement(By.css('.relate .line:last-of-type input'))
    await name.sendKeys('stayed_away')
    await browser.says('AS stayed_away', '.relate pre')
    await browser.click('button', 'Let each volunteer say it')
    await browser.says('stayed_away', '[role=columnheader].made:last-child')
    const design = await app.design('d_fernhollow')
    const invited = tableOf(design, 't_shift_volunteer')?.rows ?? []
    const away = new Map<unknown, number>()
    for (const row of invited)
      if (row.c_shift_volunteer_came !== true)
        away.set(row.c_shift_volunteer_volunteer_id, (away.get(row.c_shift_volunteer_volunteer_id) ?? 0) + 1)
    await browser.click('span', 'stayed_away')
    await browser.click('span', 'stayed_away')
    const volunteers = tableOf(design, 't_volunteer')?.rows ?? []
    const most = Math.max(...volunteers.map((row) => away.get(row.c_volunteer_volunteer_id) ?? 0))
    expect(most).toBeGreaterThan(1)
    await browser.until(
      'the one who stayed away most comes first',
      async () =>
        (await browser.text('.space [aria-rowindex="2"] [role=gridcell]:last-child')) === String(most)
    )
    await browser.click('button', 'Undo')
  })

  it('are written in the last of many columns, of which those out of view are not drawn', async () => {
    const COLUMNS = 40
    const columns = Array.from({ length: COLUMNS }, (_, at) => column(`reading_${at + 1}`, 'text(20)'))
    const rows = [1, 2].map((row) =>
      Object.fromEntries(columns.map(({ id, name }) => [id, `${name} of ${row}`]))
    )
    const wide: Design = {
      ...emptyDesign('Readings', 'd_readings'),
      tables: [{ ...emptyTable('reading', 't_reading'), columns, rows }]
    }
    const address = await app.put(wide)
    await browser.open(`${address}/rows/t_reading`)
    await browser.until('the rows have the keyboard', isInGrid)
    const drawn = async (): Promise<string[]> => (await browser.text('.line.here')).split('\n')
    expect((await drawn()).length).toBeLessThan(COLUMNS / 2)
    await browser.type(Key.END)
    await browser.says('reading_40 of 1', '.cell.at')
    expect((await drawn()).length).toBeLessThan(COLUMNS / 2)
    // The numbers of the rows stay in sight.
    const number = await browser.driver.findElement(By.css('.numbers span'))
    const grid = await browser.driver.findElement(By.css('.grid'))
    expect([await number.getText(), (await number.getRect()).x]).toEqual(['1', (await grid.getRect()).x])
    await browser.type(Key.ENTER, 'the last', Key.ENTER)
    await browser.says('reading_40 of 2', '.cell.at')
    await browser.until('it is kept', async () => {
      const [reading] = (await app.design('d_readings')).tables
      return reading?.rows[0]?.[columns.at(-1)?.id ?? ''] === 'the last'
    })
    // A click finds its column though others before it are not there.
    const cells = await browser.driver.findElements(By.css('[aria-rowindex="2"] [role=gridcell]'))
    await cells.at(-2)?.click()
    await browser.says('reading_39 of 1', '.cell.at')
    await browser.type(Key.HOME)
    await browser.says('reading_1 of 1', '.cell.at')
  })

  it('are written at the keyboard: a reference by its label; what breaks a rule is kept, and marked', async () => {
    await browser.open(`${demo()}/rows/t_admission`)
    await browser.until('the rows have the keyboard', isInGrid)
    await browser.type(Key.INSERT)
    await browser.until('a cell is written in', async () =>
      (await browser.focused()).startsWith('patient_id of row 16')
    )
    await browser.type('Dapp')
    await browser.says('Dapple', '.under')
    // Nothing is said against a row as long as it is being written.
    expect(await browser.text()).not.toContain('nothing in patient_id')
    await browser.type(Key.ESCAPE, Key.ARROW_UP)
    await browser.says('nothing in patient_id, which is required')
    await browser.says('take that row out', '.amiss')
    await browser.type(Key.ARROW_DOWN, 'Dapp')
    await browser.says('Dapple', '.under')
    await browser.type(Key.TAB)
    await browser.type(Key.TAB)
    await browser.until('the next cell is written in', async () =>
      (await browser.focused()).startsWith('reason_code')
    )
    await browser.type('nothing of that kind', Key.ENTER)
    await browser.says('Row 16: No reason is called', '.amiss')
    await browser.says('nothing of that kind', '.cell.unfit')
    // It waits there, as it was typed, while one looks elsewhere.
    await browser.click('button', 'patient')
    await browser.says('patient', 'h1')
    await browser.type(Key.BACK_SPACE)
    await browser.says('admission', 'h1')
    await browser.says('nothing of that kind', '.cell.unfit')
    await browser.chord(Key.CONTROL, Key.END)
    await browser.type(Key.HOME, Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.ARROW_RIGHT, 'Oiled', Key.ENTER)
    await browser.until('it is kept', async () => {
      const row = tableOf(await app.design('d_fernhollow'), 't_admission')?.rows[15]
      return row?.c_admission_patient_id === 4 && row.c_admission_reason_code === 'OIL'
    })
    // What is offered lies over the rows below, and is what one points at.
    await browser.chord(Key.CONTROL, Key.HOME)
    await browser.type(Key.ARROW_RIGHT, 'D')
    await browser.see('.under [role=option]')
    const pointedAt = await browser.driver.executeScript<string[]>(`
      return [...document.querySelectorAll('.under [role=option]')].map((option) => {
        const { left, top, width, height } = option.getBoundingClientRect()
        return document.elementFromPoint(left + width / 2, top + height / 2).role
      })`)
    expect(new Set(pointedAt)).toEqual(new Set(['option']))
    await browser.type(Key.ESCAPE)
  })

  it('are made on the spot where one is missing, and pasted as a block', async () => {
    await browser.open(`${demo()}/rows/t_admission`)
    await browser.until('the rows have the keyboard', isInGrid)
    const finders = await rowsOf('t_finder')
    await browser.type(Key.HOME, Key.ARROW_RIGHT, Key.ARROW_RIGHT, 'Wren Halloway')
    await browser.says('make finder “Wren Halloway”', '.under')
    await browser.type(Key.ARROW_DOWN, Key.ENTER)
    await browser.until('it is made', async () => (await rowsOf('t_finder')) === finders + 1)
    await browser.says('Wren Halloway', '.space')
    const before = await rowsOf('t_admission')
    await browser.chord(Key.CONTROL, Key.END)
    await browser.type(Key.HOME, Key.ARROW_RIGHT)
    await browser.driver.executeScript(`
      const data = new DataTransfer();
      data.setData('text/plain', 'Dapple\\tWren Halloway\\tOiled\\nBramble\\t\\tfell from a nest');
      document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));`)
    await browser.until('there is a row more', async () => (await rowsOf('t_admission')) === before + 1)
    await browser.says('fell from a nest', '.cell.unfit')
    await browser.says('1 cell cannot stand there')
  })

  it('of a sheet are taken in where they fit, and the others are listed', async () => {
    const intake = {
      ...emptyTable('intake', 't_intake'),
      columns: [
        column('intake_no', 'integer', { required: true }),
        column('taken_in', 'date', { required: true }),
        column('species', 'text(40)', { required: true }),
        column('finder', 'text(60)'),
        column('weight_g', 'integer'),
        column('reason', 'text(40)')
      ],
      primaryKey: { id: 'k_intake', columns: ['c_intake_no'] }
    }
    const design: Design = { ...emptyDesign('Log', 'd_log'), dialects: ['sqlite'], tables: [intake] }
    const address = await app.put(design)
    await browser.open(`${address}/rows/t_intake`)
    await browser.click('button', 'import')
    await browser.see('.relate')
    const file = await browser.driver.findElement(By.css('.relate input[type=file]'))
    await file.sendKeys(SHEET)
    await browser.says(
      `${INTAKES - MISTAKEN} rows of ${INTAKES} lines can be taken; ${MISTAKEN} lines cannot`,
      '.relate'
    )
    await browser.says('“light” is not a whole number', '.relate')
    await browser.says('It has 9 fields, and 10 are named', '.relate')
    await browser.says('with the same intake_no is there already', '.relate')
    await browser.click('button', `Take ${INTAKES - MISTAKEN} rows`)
    await browser.says(`${INTAKES - MISTAKEN} rows`, '.sheet header')
    await browser.until(
      'they are kept',
      async () => (await app.design(address.split('/').at(-1))).tables[0]?.rows.length === INTAKES - MISTAKEN
    )
  })
})
