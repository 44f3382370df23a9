import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeDesignFile } from '../core/design/file.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { write } from './commands.ts'
import type { DrawOptions } from './draw.ts'
import { CannotDo } from './outcome.ts'

const folder = mkdtempSync(join(tmpdir(), 'patient-key-draw-'))
const at = (name: string): string => join(folder, name)
beforeAll(() => {
  const { design, versions } = fernhollow()
  writeFileSync(at('demo.json'), writeDesignFile(design, versions))
  writeFileSync(at('first.json'), writeDesignFile((versions[0] ?? expect.fail('it has no version')).design))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

async function drawn(as: string, options: DrawOptions = {}): Promise<Buffer> {
  const file = at(`drawn.${as}`)
  expect((await write(at('demo.json'), { as, output: file, ...options })).status).toBe(0)
  return readFileSync(file)
}
const svg = async (options: DrawOptions = {}): Promise<string> => (await drawn('svg', options)).toString()

describe('diagrams on the command line', () => {
  it('show a view, a subject, what is near a table, and two states in one', async () => {
    const tables = (picture: string): string[] =>
      [...picture.matchAll(/data-table="t_(\w+)"/g)].map(([, name]) => name ?? '').sort()
    const view = await svg({ view: 'for the vets' })
    for (const said of [
      'What is given, and for what',
      'For the meeting in October',
      '>0..*<',
      '>is given in<'
    ])
      expect(view).toContain(said)
    expect(await svg({ view: 'for the vets', notation: 'feet' })).not.toContain('>0..*<')
    const animals = tables(await svg({ subject: 'Animals' }))
    expect(animals).toEqual(['admission', 'patient', 'species', 'species_conflict'])
    expect(tables(await svg({ near: 'ward' }))).toEqual(['pen', 'shift', 'ward'])
    expect(await svg({ theme: 'dark' })).toContain('fill="#121A17"')
    const since = await svg({ since: at('first.json'), words: 'roles' })
    for (const said of ['>was ring<', 'line-through">medicine_id<', '>+ new<', '>admissions<'])
      expect(since).toContain(said)
    expect(await svg({ since: `${at('demo.json')}@4` })).not.toContain('>+ new<')
  })

  it('are PNG, and PDF on one page or over several, with equal bytes for equal designs', async () => {
    const [, wide, high] = /width="([\d.]+)" height="([\d.]+)"/.exec(await svg()) ?? []
    const png = await drawn('png', { scale: '0.5' })
    // Its width and height stand behind the first sixteen bytes (ISO/IEC 15948, 11.2.2).
    expect(Math.abs(png.readUInt32BE(16) - Number(wide) / 2)).toBeLessThanOrEqual(1)
    expect(Math.abs(png.readUInt32BE(20) - Number(high) / 2)).toBeLessThanOrEqual(1)
    const one = await drawn('pdf')
    const pages = (pdf: Buffer): number => pdf.toString('latin1').match(/\/Type \/Page\b/g)?.length ?? 0
    expect([pages(one), pages(await drawn('pdf', { pages: 'a4' }))]).toEqual([1, 4])
    expect((await drawn('pdf')).equals(one)).toBe(true)
    expect((await drawn('png', { scale: '0.5' })).equals(png)).toBe(true)
  })

  const cannot: [string, DrawOptions, string][] = [
    ['svg', { view: 'For the cats' }, 'There are: For the vets.'],
    ['svg', { subject: 'Cats' }, 'no subject called “Cats”'],
    ['svg', { near: 'cat' }, 'no table called “cat”'],
    ['svg', { near: 'ward', subject: 'Care' }, 'not several'],
    ['svg', { steps: '2' }, 'said with --near'],
    ['svg', { detail: 'some' }, 'There is no detail called “some”.'],
    ['svg', { notation: 'stars' }, 'There are: feet, numbers.'],
    ['svg', { pages: 'a4' }, 'Only a PDF has pages'],
    ['svg', { since: 'nowhere.json' }, 'there is no such file'],
    ['svg', { since: 'demo.json@9' }, 'there is no such file'],
    ['png', { scale: 'much' }, 'A scale is a number'],
    ['pdf', { pages: 'a9' }, 'There is no pages called “a9”.'],
    ['sqlite', { theme: 'dark' }, 'leave --theme out']
  ]
  it.each(cannot)('as %s with %j cannot be made, in one line', async (as, options, said) => {
    const done = drawn(as, options)
    await expect(done).rejects.toThrow(CannotDo)
    await expect(done).rejects.toThrow(said)
  })

  it('ask for a file where they are no text', async () => {
    await expect(write(at('demo.json'), { as: 'png' })).rejects.toThrow('say with -o')
  })

  it('tell what is gone: of a view all of whose tables are, there is none', async () => {
    const { design } = fernhollow()
    const view = design.views?.[0] ?? expect.fail('the demo has no view')
    const looking = (tables: string[]): Promise<unknown> => {
      const views = [{ ...view, shows: { kind: 'tables' as const, tables } }]
      writeFileSync(at('gone.json'), writeDesignFile({ ...design, views }))
      return write(at('gone.json'), { as: 'svg', view: view.name, output: at('gone.svg') })
    }
    expect(await looking(['t_ward', 't_left'])).toMatchObject({
      json: { gone: 1 },
      words: [expect.any(String), '1 table of it is gone from the design.']
    })
    await expect(looking(['t_left'])).rejects.toThrow('none of its tables is in the design any longer')
  })
})
