import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
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

/** Moves a table in the drawing that the browser keeps, which nobody would lay out so; says whether there was one. */
const MOVE_KEPT = `
  const [design, id, by, done] = arguments;
  const opening = indexedDB.open('patient-key-drawings');
  opening.onsuccess = () => {
    const store = opening.result.transaction('drawings', 'readwrite').objectStore('drawings');
    const asking = store.getAll();
    asking.onsuccess = () => {
      const drawing = asking.result.find(({ name }) => name.includes(design));
      if (!drawing) return done(false);
      const place = drawing.own.get(id);
      drawing.own.set(id, { x: place.x + by, y: place.y });
      drawing.scene.tables.find((table) => table.id === id).x += by;
      store.put(drawing).onsuccess = () => { opening.result.close(); done(true); };
    };
  }`

describe('the diagram of a large design', () => {
  const { app, browser } = session({ downloads })
  const design = lifelike(170)
  const count = async (css: string): Promise<number> =>
    (await browser.driver.findElements(By.css(css))).length
  const saveAs = async (kind: string): Promise<void> => {
    await browser.click('span', 'save as…')
    await browser.click('span', kind)
  }
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

  it('is kept across screens and reloads, until all is placed anew', async () => {
    const address = await open()
    const [table] = design.tables.map(({ id }) => id)
    const leftOf = async (): Promise<number> => {
      const paper = await browser.see(`[data-table="${table}"] path.paper`)
      return Number(/^M(-?[\d.]+)/.exec((await paper.getAttribute('d')) ?? '')?.[1])
    }
    const laidOut = await leftOf()
    await browser.until('the drawing is kept', () =>
      browser.driver.executeAsyncScript<boolean>(MOVE_KEPT, address.split('/').at(-2), table, 30)
    )
    await browser.open(address)
    await browser.until('it stands where it was kept', async () => (await leftOf()) === laidOut + 30)
    await browser.click('button', 'Place all anew')
    await browser.until('it stands where it was laid out', async () => (await leftOf()) === laidOut)
  })

  it('lights up what is looked for, and goes from one to the next', async () => {
    await open()
    await (await browser.see('.asks input')).sendKeys('volunteer_log')
    await browser.says('1', '.asks [role=status]')
    expect(await count('.place.lit')).toBe(1)
    expect(await count('.place.behind')).toBe(169)
    await browser.type(Key.ENTER, Key.ESCAPE)
    await browser.until('all are as they were', async () => (await count('.place.behind')) === 0)
  })

  it('draws what is near a table, by the keyboard, and all again', async () => {
    await open()
    await browser.driver.executeScript('document.querySelector("[data-table=t_volunteer_batch]").focus()')
    await browser.type('1')
    await browser.says('volunteer_batch', '.asks')
    await browser.until('few are drawn', async () => (await count('[data-table]')) < 12)
    const one = await count('[data-table]')
    await browser.click('button', '2 steps')
    await browser.until('more are drawn', async () => (await count('[data-table]')) > one)
    await browser.click('button', 'all 170 tables')
    await browser.until('all are drawn', async () => (await count('[data-table]')) === 170)
    await browser.click('button', 'drawn how')
    await browser.click('button', 'keys')
    await browser.until('it is a smaller sheet', async () => (await count('[data-table]')) === 170)
    expect(await browser.driver.getCurrentUrl()).toContain('rows=keys')
  })

  it('is saved as it is seen', async () => {
    await browser.open(`${await open()}?near=t_volunteer_batch&steps=1&rows=keys`)
    await browser.until('few are drawn', async () => {
      const drawn = await count('[data-table]')
      return drawn > 0 && drawn < 12
    })
    await saveAs('SVG')
    const saved = await browser.downloaded('.svg')
    const svg = readFileSync(saved, 'utf8')
    expect(svg).toContain('>volunteer_batch<')
    expect(svg).not.toContain('>ward_kind<')
    await saveAs('PNG')
    const png = readFileSync(await browser.downloaded('.png'))
    const [, wide, high] = /width="(\d+)" height="(\d+)"/.exec(svg) ?? []
    // Its width and height stand behind the first sixteen bytes (ISO/IEC 15948, 11.2.2).
    expect([png.readUInt32BE(16), png.readUInt32BE(20)]).toEqual([Number(wide) * 2, Number(high) * 2])
    await saveAs('PDF')
    const paper = readFileSync(await browser.downloaded('.pdf')).toString('latin1')
    expect(paper).toMatch(/^%PDF-1\.\d[^]*%%EOF\s*$/)
    // It brings its fonts along, and they are found and read where it is opened by itself.
    await browser.open(pathToFileURL(saved).href)
    const faces = await browser.driver.executeAsyncScript<string[]>(FACES)
    expect(faces).toEqual(['loaded', 'loaded', 'loaded', 'loaded'])
  })
})

describe('the diagram of the demo', () => {
  const { app, browser } = session({ demo: true })
  const count = async (css: string): Promise<number> =>
    (await browser.driver.findElements(By.css(css))).length
  const at = async (query: string): Promise<void> => {
    await browser.open(`${app.address}/d/d_fernhollow/diagram${query}`)
    await browser.until('it is drawn', async () => (await count('[data-table]')) > 0)
  }
  const focus = (table: string): Promise<unknown> =>
    browser.driver.executeScript(`document.querySelector("[data-table=t_${table}]").focus()`)
  const lit = async (): Promise<number> => count('.place.lit')
  const reads = (text: string): Promise<void> =>
    browser.until(`${text} is in the picture`, () =>
      browser.driver.executeScript<boolean>(
        'return document.querySelector(".diagram > svg").textContent.includes(arguments[0])',
        text
      )
    )

  it('stands in subjects, one of which is drawn alone and changed, and kept as a view with a title', async () => {
    await at('')
    expect(await count('.region')).toBe(4)
    await browser.click('button', 'subjects')
    await browser.click('button', 'Wards and release')
    await browser.click('label', 'condition')
    await browser.click('button', 'draw it alone')
    await browser.until('it is alone', async () => (await count('[data-table]')) < 12)
    expect(await count('[data-table=t_condition]')).toBe(1)
    expect(await count('.paper.slim')).toBeGreaterThan(0)
    await browser.click('button', 'drawn how')
    await browser.click('button', 'min..max')
    await reads('0..*')
    await browser.click('button', 'roles')
    await reads('stays')
    await browser.click('button', 'keep as a view')
    await (await browser.see('#view-name')).sendKeys('Where they live')
    await browser.click('button', 'Keep it')
    await browser.until('it is gone back to', async () =>
      (await browser.driver.getCurrentUrl()).includes('view=v_')
    )
    await browser.says('Where they live', '.asks')
    expect(await count('.numbers')).toBeGreaterThan(3)
    await browser.click('button', 'Undo')
    await browser.until('it is the whole again', async () => (await count('[data-table]')) === 22)
  })

  it('is asked by the keyboard what a delete reaches, which way leads where, and what has a finding', async () => {
    await at('')
    await focus('ward')
    await browser.type('d')
    await browser.says('what deleting from ward can touch', '.asks')
    expect(await lit()).toBe(5)
    await browser.type('w')
    await focus('skill')
    await browser.type('w')
    await browser.says('the shortest ways from ward to skill', '.asks')
    expect(await lit()).toBe(3)
    await browser.click('button', 'alone')
    await browser.until('they are alone', async () => (await count('[data-table]')) < 12)
    expect([await lit(), (await count('[data-table]')) - (await count('.paper.slim'))]).toEqual([0, 3])
    await focus('ward')
    await browser.type('k')
    await browser.until('its key lights up', async () => (await count('.line.lit')) > 1)
    await browser.type('k', '0')
    await browser.until('all are there', async () => (await count('[data-table]')) === 22)
    await browser.click('button', 'findings')
    await browser.until('some are lit', async () => (await lit()) > 0)
  })

  it('has two states in one picture, with a list to step through', async () => {
    await at('?since=1')
    await browser.says('26 changes', '.changes')
    expect(await count('.paper.added')).toBe(16)
    await (await browser.see('.changes li:nth-child(4) button')).click()
    await browser.says('patient.ring is renamed', '.changes .here')
    await browser.until('the keyboard is at it', () =>
      browser.driver.executeScript<boolean>('return document.activeElement.dataset.table === "t_patient"')
    )
    await reads('was ring')
    await browser.type('.')
    await browser.says('finder.may_contact is new', '.changes .here')
    await browser.click('button', 'done')
    await browser.until('it is one state again', async () => (await count('.paper.added')) === 0)
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
