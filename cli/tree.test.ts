import { spawnSync } from 'node:child_process'
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { writeDesignFile } from '../core/design/file.ts'
import type { Design } from '../core/design/model.ts'
import { apply } from '../core/edit/apply.ts'
import type { Operation } from '../core/edit/operation.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { writeTree as written, type TreeOptions } from './tree.ts'

/** As somebody who knows where the design is from. */
const writeTree = (file: string, into: string, options: TreeOptions = {}): ReturnType<typeof written> =>
  written(file, into, { accept: true, ...options })

describe('what an application is given', () => {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-tree-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  const tree = join(folder, 'tree')
  const file = join(folder, 'design.json')

  function give(design: Design, places: Record<string, string | null>): Design {
    return Object.entries(places).reduce((now, [output, to]) => {
      const result = apply(now, { kind: 'design.setOutput', output, to })
      return result.ok ? result.design : expect.fail(result.refusal.message)
    }, design)
  }
  const keep = (design: Design): void => writeFileSync(file, writeDesignFile(design))
  const demo = give(fernhollow().design, {
    typescript: 'src/data/rows.ts',
    graphql: 'schema.graphql',
    sqlite: 'sql/create.sql'
  })
  const all = (): string[] =>
    (readdirSync(tree, { recursive: true }) as string[]).filter(
      (each) => !statSync(join(tree, each)).isDirectory()
    )
  const became = (outcome: { json: unknown }): Record<string, string> =>
    Object.fromEntries(
      (outcome.json as { file: string; is: string }[]).map(({ file: name, is }) => [name, is])
    )

  beforeEach(() => {
    rmSync(tree, { recursive: true, force: true })
    keep(demo)
  })

  it('is written where the design says, left alone where it did not change, the same each time', () => {
    expect(writeTree(file, tree).status).toBe(0)
    expect(all().sort()).toEqual([
      'patient-key.written.json',
      'schema.graphql',
      'sql/create.sql',
      'src/data/rows.ts'
    ])
    const before = all().map((each) => [each, statSync(join(tree, each)).mtimeMs])
    const again = writeTree(file, tree)
    expect(new Set(Object.values(became(again)))).toEqual(new Set(['as it was']))
    expect(all().map((each) => [each, statSync(join(tree, each)).mtimeMs])).toEqual(before)
    expect(writeTree(file, tree, { check: true })).toMatchObject({ status: 0 })
  })

  it('is told of where it is out of step, and nothing is written then', () => {
    expect(writeTree(file, tree, { check: true }).status).toBe(1)
    expect(existsSync(tree)).toBe(false)
    writeTree(file, tree)
    writeFileSync(join(tree, 'schema.graphql'), 'type Query { no: Boolean }')
    const out = writeTree(file, tree, { check: true })
    expect(out.status).toBe(1)
    expect(became(out)).toEqual({
      'schema.graphql': 'changed by somebody, and left',
      'sql/create.sql': 'as it was',
      'src/data/rows.ts': 'as it was'
    })
    expect(out.words.at(-1)).toContain('1 of the application’s files')
    expect(readFileSync(join(tree, 'schema.graphql'), 'utf8')).toContain('no: Boolean')
  })

  it('is removed when it is no longer wanted, unless somebody has changed it since', () => {
    writeTree(file, tree)
    writeFileSync(join(tree, 'sql/create.sql'), '-- by hand')
    writeFileSync(join(tree, 'src/own.ts'), 'export {}')
    keep(give(demo, { graphql: null, sqlite: null, typescript: 'src/rows.ts' }))
    expect(writeTree(file, tree, { check: true }).status).toBe(1)
    expect(became(writeTree(file, tree))).toEqual({
      'schema.graphql': 'no longer wanted',
      'sql/create.sql': 'changed by somebody, and left',
      'src/data/rows.ts': 'no longer wanted',
      'src/rows.ts': 'new'
    })
    expect(all().sort()).toEqual(['patient-key.written.json', 'sql/create.sql', 'src/own.ts', 'src/rows.ts'])
    keep(give(demo, { graphql: null, sqlite: null, typescript: null }))
    writeTree(file, tree)
    expect(all().sort()).toEqual(['patient-key.written.json', 'sql/create.sql', 'src/own.ts'])
    rmSync(join(tree, 'sql/create.sql'))
    writeTree(file, tree)
    expect(all().sort()).toEqual(['src/own.ts'])
  })

  it('leaves a file that it did not write, or that was changed since, until it is told to overwrite it', () => {
    mkdirSync(tree)
    writeFileSync(join(tree, 'schema.graphql'), 'ours')
    const first = writeTree(file, tree)
    expect([first.status, became(first)['schema.graphql']]).toEqual([1, 'not of this program, and left'])
    expect(first.words.join('\n')).toContain('say --overwrite schema.graphql')
    expect(readFileSync(join(tree, 'schema.graphql'), 'utf8')).toBe('ours')
    expect(existsSync(join(tree, 'sql/create.sql'))).toBe(true)
    expect(writeTree(file, tree).status).toBe(1)
    expect(writeTree(file, tree, { overwrite: ['schema.graphql'] }).status).toBe(0)
    expect(readFileSync(join(tree, 'schema.graphql'), 'utf8')).not.toBe('ours')
    writeFileSync(join(tree, 'sql/create.sql'), '-- by hand')
    expect(became(writeTree(file, tree))['sql/create.sql']).toBe('changed by somebody, and left')
    expect(readFileSync(join(tree, 'sql/create.sql'), 'utf8')).toBe('-- by hand')
    expect(writeTree(file, tree, { overwrite: ['sql/create.sql'] }).status).toBe(0)
  })

  it('asks once, on this machine, whether places are to be written, and for each that is new', () => {
    const asked = written(file, tree)
    expect([asked.status, existsSync(tree)]).toEqual([1, false])
    expect(asked.words.join('\n')).toContain('say --accept')
    expect(writeTree(file, tree).status).toBe(0)
    expect(written(file, tree).status).toBe(0)
    keep(give(demo, { zod: 'src/schemas.ts' }))
    expect([written(file, tree).status, existsSync(join(tree, 'src/schemas.ts'))]).toEqual([1, false])
    expect([writeTree(file, tree).status, existsSync(join(tree, 'src/schemas.ts'))]).toEqual([0, true])
  })

  it('is written whole or not at all', () => {
    writeTree(file, tree)
    const before = all().map((each) => [each, readFileSync(join(tree, each), 'utf8')])
    // A folder where a file is to be put stops the last of them.
    keep({ ...give(demo, { sqlite: null, graphql: 'graph/schema.graphql' }), name: 'Another' })
    mkdirSync(join(tree, 'graph'))
    mkdirSync(join(tree, 'graph/schema.graphql'))
    expect(() => writeTree(file, tree)).toThrow('it is no file')
    rmSync(join(tree, 'graph'), { recursive: true })
    expect(all().map((each) => [each, readFileSync(join(tree, each), 'utf8')])).toEqual(before)
  })

  it('is refused where what was written of it is not sound, or an output is not known here', () => {
    writeTree(file, tree)
    writeFileSync(join(tree, 'patient-key.written.json'), '{"design":"x","files":{"../../away":"00"}}')
    expect(() => writeTree(file, tree)).toThrow('it is not as it was written')
    keep({ ...demo, outputs: { poem: 'poem.txt' } })
    expect(() => writeTree(file, join(folder, 'other'))).toThrow('knows no output called poem')
  })

  it('stands at no place outside the tree and at no other’s, and an undo gives the same design', () => {
    const taken = (to: unknown): boolean =>
      apply(demo, { kind: 'design.setOutput', output: 'zod', to } as Operation).ok
    const bad = ['', '/etc/passwd', '../x', 'a/../b', 'a//b', 'a\\b', 'c:x', 'x.', 'a\0b', 'x'.repeat(300)]
    expect(bad.filter(taken)).toEqual([])
    expect(taken('Schema.GraphQL')).toBe(false)
    expect(taken('src/schemas.ts')).toBe(true)
    const result = apply(demo, { kind: 'design.setOutput', output: 'graphql', to: null })
    const back = result.ok && apply(result.design, result.inverse)
    expect(back && back.ok && writeDesignFile(back.design)).toBe(writeDesignFile(demo))
  })

  const bad = [
    '.git/config',
    '.git/hooks/post-checkout',
    'src/.npmrc',
    '.ssh/authorized_keys',
    '.github/workflows/run.yml',
    'patient-key.written.json',
    'Patient-Key.Written.JSON',
    'CON',
    'src/aux.ts',
    'lpt1.sql',
    'rows\u202ets.sql',
    'ro\u200bws.ts'
  ]
  it.each(bad)('is not written to %j, wherever the design is from', (place) => {
    keep({ ...demo, outputs: { sqlite: place } })
    expect(() => writeTree(file, tree)).toThrow('Nothing is written to')
    expect(existsSync(tree)).toBe(false)
  })

  it.each([
    ['src', 'src/rows.ts'],
    ['a/b.ts', 'A/B.ts'],
    ['caf\u00e9.ts', 'cafe\u0301.ts'],
    ['stra\u00dfe.ts', 'STRASSE.ts']
  ])('is not written to %j beside %j, which are one place or one in the other', (one, other) => {
    keep({ ...demo, outputs: { sqlite: one, zod: other } })
    expect(() => writeTree(file, tree)).toThrow('give one another place')
  })

  it('touches nothing outside, and runs nothing, in a repository with links that a stranger’s design writes into', () => {
    const git = (...words: string[]): string => {
      const done = spawnSync('git', words, { cwd: tree, encoding: 'utf8' })
      expect([words, done.status, done.stderr]).toEqual([words, 0, done.stderr])
      return done.stdout
    }
    const outside = join(folder, 'outside')
    const seen = join(folder, 'ran')
    mkdirSync(outside)
    writeFileSync(join(outside, 'kept.txt'), 'kept')
    const hook = `[core]\n\tfsmonitor = "touch ${seen}"\n`
    const template = { name: 'evil', text: hook }
    const places = [
      '.git/config',
      '.GIT/config',
      'link/kept.txt',
      'file.sql',
      'deep/link/x.sql',
      'dangling/x.sql'
    ]
    for (const place of places) {
      rmSync(tree, { recursive: true, force: true })
      mkdirSync(join(tree, 'deep'), { recursive: true })
      git('init', '-q')
      const config = readFileSync(join(tree, '.git/config'), 'utf8')
      symlinkSync(outside, join(tree, 'link'))
      symlinkSync(outside, join(tree, 'deep/link'))
      symlinkSync(join(outside, 'kept.txt'), join(tree, 'file.sql'))
      symlinkSync(join(outside, 'nothing'), join(tree, 'dangling'))
      keep({ ...demo, templates: [template], outputs: { 'template-evil': place } })
      expect(() => writeTree(file, tree, { overwrite: places })).toThrow()
      git('status')
      expect(readFileSync(join(tree, '.git/config'), 'utf8')).toBe(config)
      expect(readdirSync(outside)).toEqual(['kept.txt'])
      expect(readFileSync(join(outside, 'kept.txt'), 'utf8')).toBe('kept')
      expect(existsSync(seen)).toBe(false)
    }
    rmSync(outside, { recursive: true })
  })
})
