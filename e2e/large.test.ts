import { describe, expect, it } from 'vitest'
import { districts } from '../demo/districts.ts'
import { grow, Maker, type Choice } from '../tests/designs.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

/** Many tables, and names that no one should give one. */
describe('a design out of the ordinary', () => {
  const { app, browser } = session()

  /** Parts of the page that run out over their own edge. */
  const spilled = (css: string): Promise<string[]> =>
    browser.driver.executeScript<string[]>(
      'return [...document.querySelectorAll(arguments[0])].filter((each) => each.scrollWidth > each.clientWidth + 1).map((each) => each.innerText.slice(0, 60))',
      css
    )

  it('of 300 tables is found through, edited, drawn and written', async () => {
    const address = await app.put(districts(300))
    await browser.open(`${address}/bench/t_species`)
    await browser.see('.sheet')
    expect((await browser.driver.findElements(By.css('[data-side=many] article'))).length).toBe(15)
    await browser.type('/', 'd7_adm', Key.ENTER)
    await browser.says('refers to d7_admission')
    await browser.untilLineHasKeyboard()
    await browser.type('n', 'ward_round', Key.TAB, 'date', Key.ENTER, Key.ESCAPE)
    await browser.driver.wait(
      async () => (await browser.values('.line input[data-cell=name]')).includes('ward_round'),
      5000
    )
    await browser.chord(Key.ALT, '3')
    await browser.driver.wait(
      async () => (await browser.driver.findElements(By.css('g.place'))).length === 300,
      60_000
    )
    await browser.chord(Key.ALT, '6')
    await browser.says('CREATE TABLE species', '.cm-content')
  })

  it('with names of every kind stays inside its cards, and its sheet inside the page', async () => {
    const taken: Choice[] = [
      [0, 0, 1, 22],
      [0, 0, 2, 23],
      [0, 0, 3, 12],
      [0, 0, 3, 13],
      [1, 0, 8, 22],
      [1, 0, 9, 23],
      [1, 0, 13, 10],
      [10, 0, 1, 2],
      [10, 2, 0, 3],
      [11, 0, 1, 0],
      [11, 0, 3, 0]
    ]
    const design = grow(taken, undefined, new Maker())
    expect(design.tables.length).toBeGreaterThan(4)
    const address = await app.put({
      ...design,
      name: 'A design with a name that goes on for longer than any header would like it to'
    })
    for (const { id } of design.tables) {
      await browser.open(`${address}/bench/${id}`)
      await browser.see('.sheet')
      expect(await spilled('article .inside, .sheet, .screen')).toEqual([])
    }
    await browser.open(`${address}/outputs`)
    await browser.says('CREATE TABLE', '.cm-content')
    await browser.open(app.address)
    await browser.says('A design with a name')
    expect(await spilled('li .sheet')).toEqual([])
  })
})
