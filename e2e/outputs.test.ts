import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { isDeepStrictEqual } from 'node:util'
import { unzipSync } from 'fflate'
import { afterAll, describe, expect, it } from 'vitest'
import { OUTPUTS } from '../core/definitions/outputs.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

/** What an application is given of a design. */
describe('outputs', () => {
  const downloads = mkdtempSync(join(tmpdir(), 'patient-key-outputs-'))
  const { app, browser } = session({ demo: true, downloads })
  afterAll(() => rmSync(downloads, { recursive: true, force: true }))
  const given = async (): Promise<Record<string, string> | undefined> =>
    (await app.design('d_fernhollow')).outputs

  it('are written live, each by its own means, without a word amiss', async () => {
    for (const { name, kind } of OUTPUTS) {
      if (kind !== 'code') continue
      await browser.open(`${app.address}/d/d_fernhollow/outputs/${name}`)
      await browser.says('Fernhollow Wildlife Hospital', '.cm-content')
      expect(await browser.driver.findElements(By.css('[role=alert]'))).toEqual([])
    }
    await browser.open(`${app.address}/d/d_fernhollow/outputs/typescript`)
    await browser.says('Fernhollow Wildlife Hospital, version 4 and what was changed since.', '.cm-content')
  })

  it('are given an application in a place of its tree, which must be one, and as a folder', async () => {
    await browser.click('label', 'the application is given this')
    await browser.until('it is given', async () => (await given())?.typescript === 'rows.ts')
    const place = await browser.see('.given input.lined')
    await place.sendKeys(Key.chord(Key.CONTROL, 'a'), '../rows.ts', Key.ENTER)
    await browser.says('“../rows.ts” is no place for a file')
    expect(await given()).toEqual({ typescript: 'rows.ts' })
    await place.sendKeys(Key.chord(Key.CONTROL, 'a'), 'src/rows.ts', Key.ENTER)
    await browser.until('it is elsewhere', async () => (await given())?.typescript === 'src/rows.ts')
    await browser.click('a', 'GraphQL')
    await browser.click('label', 'the application is given this')
    await browser.says('2 outputs in all')
    await browser.click('button', 'as a folder (zip)')
    const files = unzipSync(readFileSync(await browser.downloaded('.zip')))
    expect(Object.keys(files).sort()).toEqual(['schema.graphql', 'src/rows.ts'])
    expect(Buffer.from(files['src/rows.ts'] ?? []).toString()).toContain('export interface Admission {')
    for (let n = 0; n < 3; n++) await browser.chord(Key.CONTROL, 'z')
    await browser.until('three undone steps take it back', async () => (await given()) === undefined)
  })

  it('are written as is chosen of them, which is kept with the design', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/outputs/data-access`)
    const settings = async (): Promise<unknown> => (await app.design('d_fernhollow')).outputSettings
    await browser.click('button', 'ward_name')
    await browser.click('button', 'plain values')
    await browser.until('they are kept', async () =>
      isDeepStrictEqual(await settings(), { 'data-access': { keys: 'plain', names: 'lower_snake' } })
    )
    await browser.says('ward_name: string', '.cm-content')
    await browser.click('button', 'wardName')
    await browser.click('button', 'told apart by their table')
    await browser.until('as usual is not kept', async () => (await settings()) === undefined)
    await browser.open(`${app.address}/d/d_fernhollow/outputs/php`)
    const namespace = await browser.see('[aria-label=namespace]')
    await namespace.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Fern\\class', Key.ENTER)
    await browser.says('“Fern\\class” cannot be the namespace', '[role=alert]')
    await namespace.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Fern\\Hollow', Key.ENTER)
    await browser.says('namespace Fern\\Hollow;', '.cm-content')
  })

  it('mark where they are otherwise than in the last version, and lead from one place to the next', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/outputs/typescript`)
    await browser.says('otherwise than in version 4')
    await browser.click('button', 'show the first')
    await browser.says('show the next')
    const marked = await browser.driver.findElements(By.css('.cm-line.is-marked'))
    expect(await Promise.all(marked.map((line) => line.getText()))).toContain('mayContact: boolean')
  })

  it('are called in code as is said, wherever they stand', async () => {
    await browser.click('button', 'names in code')
    const name = await browser.see('[aria-label="What a row of species is called in code"]')
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), 'kind of animal', Key.ENTER)
    await browser.until(
      'it is kept',
      async () => (await app.design('d_fernhollow')).codeNames?.t_species === 'kind of animal'
    )
    await browser.click('button', 'Done')
    await browser.says('export interface KindOfAnimal {', '.cm-content')
    await browser.chord(Key.CONTROL, 'z')
    await browser.says('export interface Species {', '.cm-content')
  })

  it('are of templates of one’s own too, which are written while one types, and say what is amiss', async () => {
    await browser.click('button', 'a template of your own')
    const field = await browser.driver.switchTo().activeElement()
    await field.sendKeys('Kinds of rows', Key.ENTER)
    await browser.says('Species is a row of species, found by speciesCode', '.cm-content')
    const text = await browser.see('[aria-label="Template kinds-of-rows"]')
    await text.sendKeys(Key.chord(Key.CONTROL, 'a'), '{% for entity in entities %}record {{ entity.typ }};')
    await browser.says('The template gives nothing: tag', '[role=alert]')
    await text.sendKeys('{% endfor %}')
    await browser.says('undefined variable: entity.typ', '[role=alert]')
    await text.sendKeys(
      Key.chord(Key.CONTROL, 'a'),
      '{% for entity in entities %}record {{ entity.type }};{% endfor %}'
    )
    await browser.says('record Species;record Patient;', '.cm-content')
    await browser.click('button', 'a file for each table')
    await browser.says('Species.txt:', '.cm-content')
    await browser.click('button', 'remove it')
    await browser.until('it is gone', async () => (await app.design('d_fernhollow')).templates === undefined)
  })
})
