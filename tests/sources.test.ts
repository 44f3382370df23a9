import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'
import ts from 'typescript'
import { describe, expect, it } from 'vitest'

const HOUSE = fileURLToPath(new URL('..', import.meta.url))
const ROOMS = ['core', 'server', 'web', 'cli', 'demo', 'tests', 'e2e', 'bench']

const paths = ROOMS.flatMap((room) =>
  readdirSync(join(HOUSE, room), { recursive: true, encoding: 'utf8' })
    .filter((path) => /\.(ts|vue)$/.test(path))
    .map((path) => join(room, path))
)
const textOf = (path: string): string => readFileSync(join(HOUSE, path), 'utf8')

/** What a file imports of the project's own files, types too. */
function importsOf(path: string): string[] {
  const text = textOf(path)
  const scripts = path.endsWith('.vue')
    ? [...text.matchAll(/<script[^>]*>([^]*?)<\/script>/g)]
    : [[text, text]]
  return (
    scripts
      .flatMap(([, script = '']) => ts.preProcessFile(script).importedFiles)
      .filter(({ fileName }) => fileName.startsWith('.'))
      .map(({ fileName }) => relative(HOUSE, join(HOUSE, dirname(path), fileName)))
      // A noun's operations are added to those of ./operation.ts from within its own file.
      .filter((imported) => imported !== path)
  )
}

/** A way from a file back to itself by what each imports; nothing where there is none. */
function circleIn(imports: ReadonlyMap<string, readonly string[]>): string[] | undefined {
  const done = new Set<string>()
  const way: string[] = []
  const visit = (path: string): string[] | undefined => {
    if (way.includes(path)) return [...way.slice(way.indexOf(path)), path]
    if (done.has(path)) return undefined
    way.push(path)
    for (const imported of imports.get(path) ?? []) {
      const circle = visit(imported)
      if (circle) return circle
    }
    way.pop()
    done.add(path)
    return undefined
  }
  for (const path of imports.keys()) {
    const circle = visit(path)
    if (circle) return circle
  }
  return undefined
}

/** The types that a file of core gives to others. */
function typesOf(path: string): string[] {
  const file = ts.createSourceFile(path, textOf(path), ts.ScriptTarget.Latest)
  const isType = (each: ts.Statement): each is ts.ClassDeclaration =>
    ts.isInterfaceDeclaration(each) || ts.isTypeAliasDeclaration(each) || ts.isClassDeclaration(each)
  return file.statements
    .filter(isType)
    .filter(({ modifiers }) => modifiers?.some(({ kind }) => kind === ts.SyntaxKind.ExportKeyword))
    .flatMap(({ name }) => (name ? [name.text] : []))
}

describe('the files of the project', () => {
  it('import each other in no circle, types too', () => {
    const imports = new Map(paths.map((path) => [path, importsOf(path)]))
    expect([...imports.values()].flat().length).toBeGreaterThan(4000)
    expect(circleIn(imports)).toBeUndefined()
  })

  it('would be found in a circle', () => {
    const imports = new Map(paths.map((path) => [path, importsOf(path)]))
    imports.set('core/once.ts', ['core/design/model.ts'])
    imports.set('core/design/name.ts', ['core/dialect/catalog.ts'])
    expect(circleIn(imports)).toBeDefined()
  })

  it('call each type of core by a name of its own', () => {
    const names = paths
      .filter((path) => path.startsWith('core/') && !path.endsWith('.test.ts'))
      .flatMap(typesOf)
    expect(names.length).toBeGreaterThan(400)
    expect(names.filter((name, at) => names.indexOf(name) < at)).toEqual([])
  })
})
