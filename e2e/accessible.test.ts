import axe from 'axe-core'
import { describe, expect, it } from 'vitest'
import { Key, type Browser } from './browser.ts'
import { session } from './session.ts'

interface Violation {
  id: string
  impact: string
  nodes: { html: string; any: { message: string }[] }[]
}

/** What axe finds serious or worse on the page as it stands. */
async function serious(browser: Browser): Promise<string[]> {
  await browser.driver.executeScript(axe.source)
  const violations = await browser.driver.executeAsyncScript<Violation[]>(
    'const done = arguments[0]; axe.run(document, { resultTypes: ["violations"] }).then((r) => done(r.violations), (e) => done([{ id: String(e), impact: "serious", nodes: [] }]))'
  )
  return violations
    .filter((each) => ['serious', 'critical'].includes(each.impact))
    .flatMap((each) =>
      each.nodes.map((node) => `${each.id}: ${node.html.slice(0, 160)} · ${node.any[0]?.message ?? ''}`)
    )
}

describe.each([
  { theme: 'light', dark: false },
  { theme: 'dark', dark: true }
])('the $theme theme', ({ dark }) => {
  const { app, browser } = session({ demo: true, dark })

  it.each([
    ['shelf', '/', '.drawing .paper'],
    ['bench', '/d/d_fernhollow/bench/t_dose', '.wires path'],
    ['bench, with what was found', '/d/d_fernhollow/bench/t_release', '.finding'],
    ['ledger', '/d/d_fernhollow/ledger/t_release', '.finding'],
    ['diagram', '/d/d_fernhollow/diagram', '.place'],
    ['versions', '/d/d_fernhollow/versions', '.cm-line'],
    ['findings', '/d/d_fernhollow/findings', '.findings .row'],
    ['rows', '/d/d_fernhollow/rows/t_admission', '.grid .line'],
    ['rules', '/d/d_fernhollow/rules', 'tbody tr'],
    ['reach', '/d/d_fernhollow/reach/t_admission', '.steps .card'],
    ['outputs', '/d/d_fernhollow/outputs', '.cm-line']
  ])('has nothing serious on the %s', async (_, path, sign) => {
    await browser.open(app.address + path)
    await browser.see(sign)
    expect(await serious(browser)).toEqual([])
  })

  it('has nothing serious on the ledger with its policy, a rule being written and the SQL pulled up', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/ledger`)
    await browser.see('.sheet')
    await browser.click('button', 'change the policy')
    await browser.see('.preview')
    await browser.driver.executeScript('document.querySelector(".line[data-column]").focus()')
    await browser.type('q', 'c')
    await browser.see('.strip .cm-line')
    expect(await serious(browser)).toEqual([])
  })

  it('has nothing serious on the changes of mind about a table', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/bench/t_finder`)
    await browser.see('.wires path')
    await browser.untilLineHasKeyboard()
    await browser.type('m')
    await browser.says('telephone', '.mind .seen')
    expect(await serious(browser)).toEqual([])
  })

  it('has nothing serious on the card that relates two tables', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/bench/t_patient`)
    await browser.see('.sheet')
    await browser.type('r')
    await browser.see('.relate input')
    await browser.type('medicine', Key.ENTER)
    await browser.says('Each medicine has', '.relate')
    await browser.type(Key.TAB, Key.ARROW_UP, Key.ARROW_UP)
    await browser.says('Many on both sides', '.relate')
    expect(await serious(browser)).toEqual([])
  })
})
