import { describe, expect, it } from 'vitest'
import { writeDesignFile } from '../core/design/file.ts'
import type { Design, Table } from '../core/design/model.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

/** Changes of mind and findings, as somebody comes upon them, on the demo and its rows. */
describe('on the demo', () => {
  const { app, browser } = session({ demo: true })
  const stored = (): Promise<Design> => app.design('d_fernhollow')
  const table = async (name: string): Promise<Table | undefined> =>
    (await stored()).tables.find((each) => each.name === name)

  async function mind(id: string): Promise<void> {
    await browser.open(`${app.address}/d/d_fernhollow/bench/${id}`)
    await browser.see('.wires path')
    await browser.untilLineHasKeyboard()
    await browser.type('m')
    await browser.see('.mind [aria-selected=true]:focus')
  }

  /** Goes down the list, as the arrow keys do, to the offer that says so. */
  async function choose(says: string): Promise<void> {
    await browser.until(`“${says}” is chosen`, async () => {
      if ((await browser.text('.mind .seen h1')).startsWith(says)) return true
      await browser.type(Key.ARROW_DOWN)
      return false
    })
  }

  it('makes one to many many to many with its rows, seen before it is done, and takes it back whole', async () => {
    const before = writeDesignFile(await stored())
    await mind('t_admission')
    await choose('Each admission has any number of finders')
    await browser.says('not there yet', '.mind .seen')
    await browser.says('What admission.finder_id held is carried into admission_finder.', '.mind .seen')
    await browser.says('1 Ines Toller', '.mind .seen')
    await browser.type(Key.ENTER)
    await browser.until('the junction is there', async () => (await table('admission_finder')) !== undefined)
    const admissions = (await table('admission'))?.rows.length ?? 0
    const made = await table('admission_finder')
    expect(made?.rows.length).toBeGreaterThan(5)
    expect(made?.rows.length).toBeLessThan(admissions)
    expect((await table('admission'))?.columns.some(({ name }) => name === 'finder_id')).toBe(false)
    await browser.says('Ctrl Z takes it back.')
    await browser.chord(Key.CONTROL, 'z')
    await browser.until('all is as it was', async () => writeDesignFile(await stored()) === before)
  })

  it('says in words, with the rows, why a change cannot be, and does nothing on Enter', async () => {
    const before = writeDesignFile(await stored())
    await mind('t_admission')
    await choose('Each patient refers to an admission')
    await browser.says('One patient has several admissions, and can refer to only one.', '.mind .slip')
    await browser.says('“Bramble, 2026-06-19 22:15”', '.mind .slip')
    await browser.type(Key.ENTER)
    await browser.see('.mind .slip')
    expect(writeDesignFile(await stored())).toBe(before)
    await browser.type(Key.ESCAPE)
    await browser.untilLineHasKeyboard()
  })

  it('asks what it needs to know, and goes by the answer', async () => {
    await mind('t_finder')
    await choose('What only some finders have')
    const name = await browser.named('input', 'What it is called')
    await name.clear()
    await name.sendKeys('finder_contact', Key.TAB)
    await browser.says('finder_contact', '.mind .seen')
    await browser.click('button', 'Make it so')
    await browser.until('the table is called so', async () => (await table('finder_contact')) !== undefined)
    const made = await table('finder_contact')
    expect(made?.columns.map((column) => column.name)).toEqual(['finder_id', 'telephone', 'postcode'])
    expect((await table('finder'))?.columns.map((column) => column.name)).toEqual([
      'finder_id',
      'name',
      'may_contact'
    ])
  })

  it('lists all findings, mends one when what it changes was seen, and lets another stand for a reason', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/findings`)
    await browser.says('volunteer_id looks like a reference to volunteer', '.findings')
    await browser.click('button', 'Refer to volunteer')
    await browser.says('release refers to volunteer by volunteer_id', '.findings li')
    await (await browser.see('.findings .more .button.main')).click()
    await browser.until('it refers', async () =>
      ((await table('release'))?.foreignKeys ?? []).some(({ table: to }) => to === 't_volunteer')
    )
    const rows = await browser.driver.findElements(By.css('.findings .row'))
    await browser.click('button', 'let it stand')
    await browser.type('the paper form says so', Key.ENTER)
    await browser.says('“the paper form says so”', '.findings')
    await browser.until('that is kept', async () => (await stored()).setAside?.length === 1)
    await browser.click('button', 'take it up again')
    await browser.until('it is open again', async () => (await stored()).setAside === undefined)
    expect(await browser.driver.findElements(By.css('.findings .row'))).toHaveLength(rows.length)
  })
})
