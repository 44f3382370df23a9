import { mkdirSync, writeFileSync } from 'node:fs'
import { apply } from '../core/edit/apply.ts'
import { proposeSubjects } from '../core/diagram/propose-subjects.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { lifelike } from '../demo/lifelike.ts'
import { App } from './app.ts'
import { Browser, By, Key } from './browser.ts'

/** Makes the pictures of docs/screenshots anew from the demo: `npm run screenshots`, with the pages built. */
const folder = new URL('../docs/screenshots/', import.meta.url)
mkdirSync(folder, { recursive: true })

const app = await new App({ demo: true }).start()
const demo = `${app.address}/d/d_fernhollow`

async function take(
  name: string,
  address: string,
  prepare: (browser: Browser) => Promise<unknown>,
  dark = false
): Promise<void> {
  const browser = await new Browser({ dark }).start()
  try {
    await browser.open(address)
    await prepare(browser)
    await new Promise((resolve) => setTimeout(resolve, 700))
    writeFileSync(new URL(`${name}.png`, folder), await browser.picture())
    console.log(name)
  } finally {
    await browser.stop()
  }
}

try {
  await take('shelf', app.address, (browser) => browser.see('.drawing .paper'))
  await take('bench', `${demo}/bench/t_admission`, (browser) => browser.see('.wires path'))
  await take('bench-dark', `${demo}/bench/t_dose`, (browser) => browser.see('.wires path'), true)
  await take('junction', `${demo}/bench/t_patient`, async (browser) => {
    await browser.see('.sheet')
    await browser.type('r')
    await browser.see('.relate input')
    await browser.type('medicine', Key.ENTER)
    await browser.says('Each medicine has', '.relate')
    await browser.type(Key.TAB, Key.ARROW_UP, Key.ARROW_UP, Key.TAB, 'allergy')
    await browser.click('button', 'new column about the pair')
    await browser.type('noticed_on', Key.ENTER, 'date', Key.ENTER, 'severity', Key.ENTER, 'smallint', Key.TAB)
  })
  await take('reading', `${await app.put(fernhollow().design)}/bench/t_ward`, async (browser) => {
    await browser.see('.wires path')
    await browser.untilLineHasKeyboard()
    await browser.click('span', 'How many pens each ward has')
    await browser.click('div[@role="option"]', 'at least one')
    await browser.click('button', 'find those without')
  })
  await take('mind', `${demo}/bench/t_admission`, async (browser) => {
    await browser.see('.wires path')
    await browser.untilLineHasKeyboard()
    await browser.type('m')
    await browser.see('.mind [aria-selected=true]:focus')
    for (let tries = 0; tries < 40; tries++) {
      if ((await browser.text('.mind h1')).startsWith('Each admission has any number of finders')) break
      await browser.type(Key.ARROW_DOWN)
    }
    await browser.says('not there yet', '.mind')
  })
  await take('findings', `${demo}/findings`, async (browser) => {
    await browser.see('.findings .row')
    await browser.click('button', 'Refer to volunteer')
  })
  await take('ledger', `${demo}/ledger/t_stay`, async (browser) => {
    await browser.see('.sheet .reading')
    await browser.untilLineHasKeyboard()
    await browser.type(Key.ARROW_DOWN, Key.ARROW_DOWN, 'q')
    await browser.see('.strip .cm-line')
  })
  await take('diagram', `${demo}/diagram`, (browser) => browser.see('.place'))
  const large = lifelike(170)
  const subjects = proposeSubjects(large).map((each, at) => ({ id: `b_${at}`, ...each }))
  await take('diagram-large', `${await app.put({ ...large, subjects })}/diagram`, (browser) =>
    browser.see('.label')
  )
  await take('diagram-since', `${demo}/diagram?since=2`, (browser) => browser.see('.paper.added'))
  const inRows = async (browser: Browser): Promise<void> =>
    browser.until('the rows have the keyboard', async () => (await browser.focused()).startsWith('Rows of'))
  await take('rows', `${demo}/rows/t_volunteer`, async (browser) => {
    await inRows(browser)
    await browser.type(Key.ARROW_DOWN)
  })
  await take('rehearsal', `${demo}/rows/t_admission`, async (browser) => {
    await inRows(browser)
    await browser.type(Key.ARROW_DOWN, Key.DELETE)
    await browser.says('nothing is kept yet')
  })
  await take('refusal', `${demo}/rows/t_patient`, async (browser) => {
    await inRows(browser)
    await browser.type(Key.DELETE)
    await browser.says('refuses it')
  })
  await take('rules', `${demo}/rules`, (browser) => browser.says('26 references'))
  await take('reach', `${demo}/reach/t_admission`, async (browser) => {
    await browser.says('other tables along')
    await browser.click('button', 'diagram')
    await browser.see('.drawing .paper')
  })
  const broken = apply(fernhollow().design, {
    kind: 'foreignKey.setActions',
    table: 't_admission',
    foreignKey: 'f_admission_patient_id',
    onDelete: 'CASCADE',
    onUpdate: 'CASCADE'
  })
  if (!broken.ok) throw new Error(broken.refusal.message)
  await take('rulings', `${await app.put({ ...broken.design, id: 'd_broken' })}/rulings`, (browser) =>
    browser.says('1 ruling not kept to')
  )
  await take('outputs', `${demo}/outputs/data-access`, async (browser) => {
    await browser.click('button', 'show the first')
    await browser.see('.cm-line.is-marked')
  })
  await take('versions', `${demo}/versions`, async (browser) => {
    await browser.see('.line')
    const [from] = await browser.driver.findElements(By.css('input[name=from]'))
    const [, to] = await browser.driver.findElements(By.css('input[name=to]'))
    await from?.sendKeys(' ')
    await to?.sendKeys(' ')
    await browser.click('button', 'Prove the migration')
    await browser.driver.wait(
      async () => ((await browser.text('.proof h3')).match(/^proven$/gm) ?? []).length === 3,
      90_000
    )
  })
} finally {
  await app.stop()
}
