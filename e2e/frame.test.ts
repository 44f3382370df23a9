import { describe, expect, it } from 'vitest'
import { emptyDesign, type Design } from '../core/design/model.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

/** What is around the screens: the line at the top, the shelf, what can be pressed; and the mouse alone. */
describe('around the screens', () => {
  const { app, browser } = session({ demo: true })
  const stored = (): Promise<Design> => app.design('d_fernhollow')
  const columns = async (name: string): Promise<string[]> =>
    ((await stored()).tables.find((each) => each.name === name)?.columns ?? []).map((column) => column.name)
  async function go(table: string): Promise<void> {
    await browser.open(`${app.address}/d/d_fernhollow/bench/t_${table}`)
    await browser.see('.wires path')
    await browser.untilLineHasKeyboard()
  }

  it('shows every open design by its whole name, however many there are', async () => {
    const names = ['Ward book', 'Release sites and surveys', 'Volunteer rota']
    for (const [at, name] of names.entries()) {
      await browser.open(`${await app.put({ ...emptyDesign(name), id: `d_open${at}` })}/bench`)
      await browser.says('Nothing is designed yet')
    }
    await go('admission')
    await browser.click('button', '3 more open')
    const links = await browser.driver.findElements(By.css('.choice-list a'))
    const cut = await Promise.all(
      links.map((link) =>
        browser.driver.executeScript<boolean>(
          'return arguments[0].scrollWidth > arguments[0].clientWidth',
          link
        )
      )
    )
    expect(cut).toEqual([false, false, false])
    expect(await Promise.all(links.map((link) => link.getText()))).toEqual(names)
    await browser.click('a', 'Volunteer rota')
    await browser.says('Nothing is designed yet')
    await browser.click('button', '3 more open')
    await browser.click('button', 'Close Ward book')
    await browser.says('2 more open', 'header')
  })

  it('gives the keyboard back to the bench after a click on its name', async () => {
    await go('ward')
    await browser.click('a', 'Ledger')
    await browser.see('.head')
    await browser.click('a', 'Bench')
    await browser.untilLineHasKeyboard()
    await browser.click('a', 'Bench')
    await browser.type('n')
    await browser.until('a new line is being written', async () =>
      (await browser.focused()).startsWith('Name of the new column')
    )
    await browser.type(Key.ESCAPE)
  })

  it('chooses several lines, makes them the key and moves one, with the mouse alone', async () => {
    await go('pen')
    const mark = (column: string) => browser.see(`[data-column="c_pen_${column}"] .marks`)
    const press = async (column: string, key?: string): Promise<void> => {
      const actions = browser.driver.actions()
      if (key) actions.keyDown(key)
      await actions
        .move({ origin: await mark(column) })
        .press()
        .release()
        .perform()
      if (key) await browser.driver.actions().keyUp(key).perform()
    }
    await press('ward_code')
    await press('capacity', Key.SHIFT)
    const chosen = await browser.driver.findElements(By.css('.line[aria-selected=true]'))
    expect(chosen).toHaveLength(3)
    await press('capacity')
    await browser.type(Key.ESCAPE)
    const [from, to] = [await mark('capacity'), await mark('ward_code')]
    await browser.driver
      .actions()
      .move({ origin: from })
      .press()
      .move({ origin: from, y: -20 })
      .move({ origin: to, y: -8 })
      .release()
      .perform()
    await browser.until('capacity stands first', async () => (await columns('pen'))[0] === 'capacity')
    await browser.chord(Key.CONTROL, 'z')
    await browser.until('it is last again', async () => (await columns('pen')).at(-1) === 'capacity')
  })

  it('begins a new line at the first click, and takes what was being typed', async () => {
    const address = await app.put({ ...fernhollow().design, id: 'd_click', name: 'Clicks' })
    await browser.open(`${address}/bench/t_ward`)
    await browser.untilLineHasKeyboard()
    const names = async (): Promise<string[]> =>
      (await app.design('d_click')).tables
        .find(({ id }) => id === 't_ward')
        ?.columns.map(({ name }) => name) ?? []
    const before = await names()
    await browser.click('button', 'new line')
    await browser.type('floor')
    await browser.click('button', 'new line')
    await browser.until('the first is a column', async () => (await names()).includes('floor'))
    await browser.type('wing', Key.ENTER)
    await browser.until('so is the second', async () => (await names()).includes('wing'))
    expect(await names()).toEqual([...before, 'floor', 'wing'])
  })

  it('comes back from the ledger to the table that one was at, and says what undo did out of sight', async () => {
    await go('medicine')
    await browser.click('a', 'Ledger')
    await browser.until('the same table has the keyboard', async () =>
      (await browser.focused()).startsWith('medicine_id')
    )
    await browser.type(Key.ARROW_DOWN, Key.SPACE)
    await browser.until('a name may be empty', async () => {
      const medicine = (await stored()).tables.find((each) => each.name === 'medicine')
      return medicine?.columns[1]?.required === false
    })
    await browser.click('a', 'Bench')
    await browser.says('medicine refers to')
    await browser.type('/', 'ward', Key.ENTER)
    await browser.says('ward refers to')
    await browser.untilLineHasKeyboard()
    await browser.chord(Key.CONTROL, 'z')
    await browser.says('Taken back: ', '.notices')
  })

  it('says what can be pressed on the screen that one is at', async () => {
    await go('ward')
    await browser.type('?')
    await browser.says('what this table refers to, what refers to it', '.help')
    await browser.type(Key.ESCAPE)
    await browser.chord(Key.ALT, '3')
    await browser.see('[data-table] .paper')
    await browser.type('?')
    await browser.says('in the diagram', '.help')
    expect(await browser.text('.help')).not.toContain('on a line')
  })

  it('finds a design on the shelf, or names a new one, by typing at once', async () => {
    await browser.open(app.address)
    await browser.says('Fernhollow Wildlife Hospital')
    await browser.type('fern')
    await browser.says('1 on the shelf is called so', 'main')
    expect(await browser.text('main ul')).not.toContain('Ward book')
    await browser.type(Key.ARROW_DOWN, Key.ENTER)
    await browser.see('.sheet')
    await browser.open(app.address)
    await browser.says('Fernhollow Wildlife Hospital')
    await browser.type('Night log')
    await browser.says('None on the shelf is called so.')
    await browser.type(Key.ENTER)
    await browser.says('Nothing is designed yet')
  })

  it('shows a saved version on every screen, lets nothing be changed in it, and begins a design with it', async () => {
    const before = await stored()
    await browser.open(`${app.address}/d/d_fernhollow/versions`)
    await (await browser.see('button[aria-label="Look at version 1"]')).click()
    await browser.says('as it was saved on 2 March 2026: Front desk', '.looking')
    await browser.click('a', 'Outputs')
    await browser.says('of version 1, as it was saved')
    await browser.says('CREATE TABLE patient', '.page')
    expect(await browser.text('.page')).not.toContain('CREATE TABLE volunteer')
    await browser.click('a', 'Bench')
    await browser.untilLineHasKeyboard()
    await browser.type(Key.DELETE)
    await browser.says('Version 1 stays as it was saved. Go back to the draft to change something.')
    expect(await stored()).toEqual(before)
    await browser.click('button', 'Begin a new design with it')
    await browser.until('the version is a design of its own', async () => {
      const name = await (await browser.see('header input.name')).getAttribute('value')
      return name === 'Fernhollow Wildlife Hospital, from version 1'
    })
    await browser.open(`${app.address}/d/d_fernhollow/outputs`)
    await browser.says('of the draft, as it stands')
  })
})
