import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { afterAll, describe, expect, it } from 'vitest'
import { fonts } from '../cli/picture.ts'
import { OUTPUTS } from '../core/definitions/outputs.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { lifelike } from '../demo/lifelike.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

const downloads = mkdtempSync(join(tmpdir(), 'patient-key-pictures-'))
afterAll(() => rmSync(downloads, { recursive: true, force: true }))

/** Reads every face that a document has. */
const FACES = `
  const done = arguments[0];
  Promise.all([...document.fonts].map((face) => face.load())).then((all) => done(all.map(({ status }) => status)))`

describe('the diagram of a large design', () => {
  const { app, browser } = session({ downloads })
  const design = lifelike(170)
  const count = async (css: string): Promise<number> =>
    (await browser.driver.findElements(By.css(css))).length
  const open = async (): Promise<string> => {
    const address = `${await app.put(design)}/diagram`
    await browser.open(address)
    await browser.until('all tables are drawn', async () => (await count('[data-table]')) === 170)
    return address
  }

  it('has names that can be read from afar, and columns nearer by', async () => {
    await open()
    expect(await count('text.label')).toBeGreaterThan(40)
    expect(await count('text.column')).toBe(0)
    const sizes = await browser.driver.executeScript<number[]>(
      'return [...document.querySelectorAll("text.label")].map((each) => each.getBoundingClientRect().height)'
    )
    expect(Math.min(...sizes)).toBeGreaterThan(8)
    for (let step = 0; step < 9; step++) await browser.click('button', '+')
    await browser.until('columns are written', async () => (await count('text.column')) > 10)
    expect(await count('text.label')).toBe(0)
    expect(await count('[data-table]')).toBeLessThan(120)
  })

  it('lights up what is looked for, and goes from one to the next', async () => {
    await open()
    await (await browser.see('.asked input')).sendKeys('volunteer_log')
    await browser.says('1', '.asked [role=status]')
    expect(await count('.place.lit')).toBe(1)
    expect(await count('.place.behind')).toBe(169)
    await browser.type(Key.ENTER, Key.ESCAPE)
    await browser.until('all are as they were', async () => (await count('.place.behind')) === 0)
  })

  it('draws what is near a table, by the keyboard, and all again', async () => {
    await open()
    await browser.driver.executeScript('document.querySelector("[data-table=t_volunteer_batch]").focus()')
    await browser.type('1')
    await browser.says('volunteer_batch', '.asked')
    await browser.until('few are drawn', async () => (await count('[data-table]')) < 12)
    const one = await count('[data-table]')
    await browser.click('button', '2 steps')
    await browser.until('more are drawn', async () => (await count('[data-table]')) > one)
    await browser.click('button', 'all 170 tables')
    await browser.until('all are drawn', async () => (await count('[data-table]')) === 170)
    await browser.click('button', 'keys')
    await browser.until('it is a smaller sheet', async () => (await count('[data-table]')) === 170)
    expect(await browser.driver.getCurrentUrl()).toContain('rows=keys')
  })

  it('is saved as it is seen', async () => {
    await browser.open(`${await open()}?near=t_volunteer_batch&steps=1&rows=keys`)
    await browser.until('few are drawn', async () => (await count('[data-table]')) < 12)
    await browser.click('button', 'Save as SVG')
    const saved = (): string | undefined => readdirSync(downloads).find((name) => name.endsWith('.svg'))
    await browser.until('it is there', () => Promise.resolve(saved() !== undefined))
    const svg = readFileSync(join(downloads, saved() ?? ''), 'utf8')
    expect(svg).toContain('>volunteer_batch<')
    expect(svg).not.toContain('>ward_kind<')
    await browser.click('button', 'as PNG')
    const picture = (): string | undefined => readdirSync(downloads).find((name) => name.endsWith('.png'))
    await browser.until('it is there as a picture', () => Promise.resolve(picture() !== undefined))
    const png = readFileSync(join(downloads, picture() ?? ''))
    const [, wide, high] = /width="(\d+)" height="(\d+)"/.exec(svg) ?? []
    // Its width and height stand behind the first sixteen bytes (ISO/IEC 15948, 11.2.2).
    expect([png.readUInt32BE(16), png.readUInt32BE(20)]).toEqual([Number(wide) * 2, Number(high) * 2])
    // It brings its fonts along, and they are found and read where it is opened by itself.
    await browser.open(pathToFileURL(join(downloads, saved() ?? '')).href)
    const faces = await browser.driver.executeAsyncScript<string[]>(FACES)
    expect(faces).toEqual(['loaded', 'loaded', 'loaded', 'loaded'])
  })
})

describe('the page that stands alone', () => {
  const { browser } = session()
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-page-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))

  it('is opened from a file: moved about in, searched, and gone through from table to table', async () => {
    const file = join(folder, 'hospital.html')
    const page = OUTPUTS.find(({ name }) => name === 'page') ?? expect.fail('there is no page')
    writeFileSync(file, page.write(fernhollow().design, { fonts: fonts() }))
    await browser.open(pathToFileURL(file).href)
    await browser.says('22 tables', 'header')
    const place = (): Promise<string> =>
      browser.driver.executeScript('return document.querySelector("#picture svg").style.transform')
    const before = await place()
    await (await browser.see('input')).sendKeys('weight_g', Key.ENTER)
    await browser.says('admission', 'section.here h2')
    const shown = await browser.driver.findElements(By.css('section[data-of]:not([hidden])'))
    expect(shown).toHaveLength(1)
    expect(await place()).not.toBe(before)
    expect(await browser.driver.findElements(By.css('#picture .found'))).toHaveLength(1)
    await (await browser.see('input')).sendKeys(Key.chord(Key.CONTROL, 'a'), Key.BACK_SPACE)
    await browser.click('button', 'Show all')
    expect(await place()).toBe(before)
    await browser.driver
      .actions()
      .move({ origin: await browser.see('[data-table=t_ward]') })
      .click()
      .perform()
    await browser.says('ward', 'section.here h2')
    const faces = await browser.driver.executeAsyncScript<string[]>(FACES)
    expect(faces).toEqual(['loaded', 'loaded', 'loaded', 'loaded'])
  })
})
