import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Sequelize } from 'sequelize'
import { afterAll, describe, expect, it } from 'vitest'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

const downloads = mkdtempSync(join(tmpdir(), 'patient-key-downloads-'))
afterAll(() => rmSync(downloads, { recursive: true, force: true }))

/** What keeps designs safe, as a person meets it. */
describe('the shelf', () => {
  const { app, browser } = session({ demo: true, downloads })
  const put = async (path: string): Promise<void> =>
    (await browser.driver.findElement(By.css('input[type=file]'))).sendKeys(path)
  const make = (name: string): Promise<Response> =>
    fetch(`${app.address}/api/designs`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name })
    })

  it('backs everything up in one file, and brings back what is missing', async () => {
    await make('Night book')
    await browser.open(app.address)
    await browser.says('Night book')
    await browser.click('a', 'Back up all')
    const file = await browser.downloaded('.backup.jsonl')
    await browser.click('button', 'remove')
    await browser.click('button', 'Remove Night book and its versions for good')
    await browser.until('it is gone', async () => !(await browser.text('ul')).includes('Night book'))
    await put(file)
    await browser.says('One design was taken in. Here already as it was: one design.')
    await browser.says('Night book', 'ul')
    writeFileSync(file, readFileSync(file, 'utf8').replace('"Night book"', '"Night look"'))
    await put(file)
    await browser.says('is not as it was written')
    writeFileSync(join(downloads, 'latin.json'), Buffer.from([0x7b, 0xe9, 0x7d]))
    await put(join(downloads, 'latin.json'))
    await browser.says('latin.json cannot be read: it is not text in UTF-8')
  })

  it('shows a damaged design with what is wrong, beside the others, and opens what of it is sound', async () => {
    await app.kill()
    const raw = new Sequelize({
      dialect: 'sqlite',
      storage: join(app.data, 'patient-key.sqlite'),
      logging: false
    })
    await raw.query(
      "UPDATE snapshot SET design = replace(design, 'common_name', 'common name') WHERE designId = 'd_fernhollow'"
    )
    await raw.close()
    await app.run()
    await browser.open(app.address)
    await browser.says('What was kept of it is no longer as it was written.', '.damaged')
    await browser.says('Night book', 'ul')
    const notWhole = '-not-whole.backup.jsonl'
    expect(readdirSync(downloads).filter((name) => name.endsWith(notWhole))).toEqual([])
    await browser.click('a', 'Back up all')
    await browser.downloaded(notWhole)
    await browser.click('button', 'Make a design of what is sound')
    await browser.until('it is open', async () =>
      (await browser.driver.getTitle()).startsWith('Fernhollow Wildlife Hospital, what was sound')
    )
    await browser.says('on the far side')
    await browser.open(`${app.address}/d/d_fernhollow/bench`)
    await browser.says('This design is damaged, and stays as it is.')
  })

  it('says in the open page that its design was removed, and keeps what is seen', async () => {
    const { design } = (await (await make('Day book')).json()) as { design: { id: string } }
    await browser.open(`${app.address}/d/${design.id}/bench`)
    await browser.says('Nothing is designed yet')
    await browser.type('/', 'ward', Key.ENTER)
    await browser.see('.sheet')
    await browser.until('it is kept', async () => (await app.design(design.id)).tables.length === 1)
    await fetch(`${app.address}/api/designs/${design.id}`, {
      method: 'DELETE',
      headers: { 'Content-Type': 'application/json' }
    })
    await browser.says('This design was removed. What you change here is not kept any more.')
    await browser.click('button', 'Keep what you see as a new design')
    await browser.until(
      'it is kept anew',
      async () =>
        !(await browser.driver.getCurrentUrl()).includes(design.id) &&
        (await app.design()).tables[0]?.name === 'ward'
    )
  })
})
