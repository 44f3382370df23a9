import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
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
    await browser.says('Made by Patient Key from the design Fernhollow Wildlife Hospital.', '.cm-content')
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
    await browser.says('2 files in all')
    await browser.click('button', 'all as a folder (zip)')
    const file = (): string | undefined => readdirSync(downloads).find((each) => each.endsWith('.zip'))
    await browser.until('it is there', () => Promise.resolve(file() !== undefined))
    const zip = join(downloads, file() ?? '')
    expect(existsSync(zip)).toBe(true)
    const files = unzipSync(readFileSync(zip))
    expect(Object.keys(files).sort()).toEqual(['schema.graphql', 'src/rows.ts'])
    expect(Buffer.from(files['src/rows.ts'] ?? []).toString()).toContain('export interface Admission {')
    for (let n = 0; n < 3; n++) await browser.chord(Key.CONTROL, 'z')
    await browser.until('three undone steps take it back', async () => (await given()) === undefined)
  })
})
