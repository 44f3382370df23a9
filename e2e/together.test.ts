import { describe, expect, it } from 'vitest'
import type { Design } from '../core/design/model.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

const PATIENT = '/d/d_fernhollow/bench/t_patient'

/** Two tabs on one design, and a server that goes away. */
describe('two tabs', () => {
  const { app, browser } = session({ demo: true })

  const stored = (): Promise<Design> => app.design('d_fernhollow')
  const names = async (): Promise<string[]> =>
    (await stored()).tables.find((table) => table.id === 't_patient')?.columns.map((column) => column.name) ??
    []
  const typeColumn = async (name: string): Promise<void> => {
    await browser.type(Key.END, Key.ENTER, name, Key.TAB, 'text(20)', Key.ENTER, Key.ESCAPE)
  }

  it('see each other’s changes without reloading', async () => {
    const { driver } = browser
    await browser.open(app.address + PATIENT)
    await browser.see('.sheet')
    const first = await driver.getWindowHandle()
    await driver.switchTo().newWindow('tab')
    await browser.open(app.address + PATIENT)
    await browser.see('.sheet')
    await typeColumn('from_tab_two')
    await driver.wait(async () => (await names()).includes('from_tab_two'), 10_000)
    const second = await driver.getWindowHandle()
    await driver.switchTo().window(first)
    await driver.wait(
      async () => (await browser.values('.line input[data-cell=name]')).includes('from_tab_two'),
      10_000
    )
    await typeColumn('from_tab_one')
    await driver.switchTo().window(second)
    await driver.wait(
      async () => (await browser.values('.line input[data-cell=name]')).includes('from_tab_one'),
      10_000
    )
    await driver.close()
    await driver.switchTo().window(first)
  })

  it('leave what is being typed alone while another changes the same table', async () => {
    await browser.type(Key.END, Key.ENTER, 'half_ty')
    const { revision } = (await (await fetch(`${app.address}/api/designs/d_fernhollow`)).json()) as {
      revision: number
    }
    const column = { id: 'c_meanwhile', name: 'meanwhile', type: { kind: 'boolean' }, required: false }
    await fetch(`${app.address}/api/designs/d_fernhollow/operations`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({
        revision,
        operationId: crypto.randomUUID(),
        client: 'another',
        operation: { kind: 'column.add', table: 't_patient', column }
      })
    })
    await browser.driver.wait(
      async () => (await browser.values('.line input[data-cell=name]')).includes('meanwhile'),
      10_000
    )
    await browser.type('ped', Key.TAB, 'date', Key.ENTER, Key.ESCAPE)
    await browser.driver.wait(async () => (await names()).includes('half_typed'), 10_000)
  })

  it('go on while the server is gone, keep what is typed, and send it when it is back', async () => {
    await app.kill()
    await browser.says('The server does not answer')
    await typeColumn('typed_meanwhile')
    await browser.says('1 so far')
    await typeColumn('and_another')
    expect(await browser.values('.line input[data-cell=name]')).toContain('and_another')
    // Even a reload loses nothing: what is on its way is kept in the browser.
    await app.run()
    await browser.driver.wait(async () => (await names()).includes('and_another'), 20_000)
    expect(await names()).toEqual(expect.arrayContaining(['from_tab_one', 'from_tab_two', 'typed_meanwhile']))
    await browser.driver.wait(async () => !(await browser.text()).includes('does not answer'), 10_000)
  })

  it('keep what was typed even when the page is closed while the server is gone', async () => {
    await app.kill()
    await browser.says('The server does not answer')
    await typeColumn('before_closing')
    await browser.says('1 so far')
    await browser.open('about:blank')
    await app.run()
    expect(await names()).not.toContain('before_closing')
    await browser.open(app.address + PATIENT)
    await browser.driver.wait(async () => (await names()).includes('before_closing'), 10_000)
    expect((await browser.driver.findElements(By.css('.notice-bar'))).length).toBe(0)
  })
})
