import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { writeDesignFile } from '../core/design/file.ts'
import type { Design } from '../core/design/model.ts'
import { apply } from '../core/edit/apply.ts'
import type { Operation } from '../core/edit/operation.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { writeTree } from './tree.ts'

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
      'schema.graphql': 'changed',
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
    expect(all().sort()).toEqual(['sql/create.sql', 'src/own.ts'])
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
})
