import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'

const ROOT = join(import.meta.dirname, '..')
const read = (path: string): string => readFileSync(join(ROOT, path), 'utf8')

/** How what is from outside gets into a program: a file in which one of these stands is to be on the list. */
const WAYS_IN = [
  /\bJSON\.parse\(/,
  /\b(?:readJson|readJsonInTurns|decodeText)\(/,
  /\b(?:localStorage|sessionStorage)\b/,
  /\bopenDB\b/,
  /\brequest\.(?:headers|query|params|body)\b/,
  /\bprocess\.(?:env|argv|stdin)\b/,
  /\bPapa\.parse\b/,
  /\bnew Liquid\(/
]

function* sources(folder: string): Generator<string> {
  for (const entry of readdirSync(join(ROOT, folder), { withFileTypes: true })) {
    const path = `${folder}/${entry.name}`
    if (entry.isDirectory()) yield* sources(path)
    else if (/\.(?:ts|vue|js)$/.test(entry.name) && !entry.name.endsWith('.test.ts')) yield path
  }
}

const page = read('docs/safety.md')
const [, section = ''] = page.split('## What comes from outside\n')
const [list = ''] = section.split('\n## ')
const rows = list
  .split('\n')
  .filter((line) => line.startsWith('| '))
  .map((line) =>
    line
      .slice(2, -2)
      .split('|')
      .map((cell) => cell.trim())
  )
  .filter(([what = '']) => what !== 'what' && !what.startsWith('---'))
const [, unjudged = ''] = list.split('Read without being judged')
const pathsIn = (text: string): string[] =>
  [...text.matchAll(/`([\w./-]+\.(?:ts|vue))`/g)].map(([, path]) => path ?? '')

describe('the list of what comes from outside', () => {
  it('names files and tests that are there, and how much each test does', () => {
    expect(rows.length).toBeGreaterThan(15)
    for (const [what, judged = '', tried = ''] of rows) {
      for (const path of pathsIn(judged + tried))
        expect([what, path, existsSync(join(ROOT, path))]).toEqual([what, path, true])
      expect([what, pathsIn(judged).length]).toEqual([what, 1])
      const [test = ''] = pathsIn(tried)
      expect([what, test.endsWith('.test.ts')]).toEqual([what, true])
      const numbers = [...tried.replace(/`[^`]*`/g, '').matchAll(/\d[\d,]*/g)].map(([text]) =>
        Number(text.replaceAll(',', ''))
      )
      // Each number is what the test runs, alone or in sum with its others; a test by name has none.
      const runs = [...read(test).matchAll(/times\(([\d_]+)\)/g)].map(([, text]) =>
        Number(text?.replaceAll('_', ''))
      )
      const sums = new Set([...runs, runs.reduce((sum, each) => sum + each, 0)])
      for (const number of numbers) expect([what, number, sums.has(number)]).toEqual([what, number, true])
    }
  })

  it('has every file in which something comes in', () => {
    const named = new Set([...rows.flatMap(([, judged = '']) => pathsIn(judged)), ...pathsIn(unjudged)])
    const found = ['core', 'server', 'cli', 'web']
      .flatMap((folder) => [...sources(folder)])
      .filter((path) => WAYS_IN.some((way) => way.test(read(path))))
    expect(found.length).toBeGreaterThan(20)
    expect(found.filter((path) => !named.has(path))).toEqual([])
  })
})
