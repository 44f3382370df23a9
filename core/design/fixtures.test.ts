import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { flowing } from '../carry/earlier.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { readDesignFile, writeDesignFile, writeInFirstForm } from './file.ts'
import type { Design } from './model.ts'

const read = (name: string): string =>
  readFileSync(new URL(`../../tests/fixtures/${name}`, import.meta.url), 'utf8')

describe('what was written by an earlier form of the program', () => {
  it('a design file opens, and is written again with the same bytes', () => {
    const text = read('design-of-1.json')
    const file = readDesignFile(text)
    if (!file.ok) throw new Error(file.message)
    expect(writeInFirstForm(file.value.design, file.value.versions)).toBe(text)
    const now = readDesignFile(writeDesignFile(file.value.design, file.value.versions))
    expect(now.ok && writeInFirstForm(now.value.design, now.value.versions)).toBe(text)
  })

  it('its carries are of both earlier forms, and are read as flows', () => {
    const file = readDesignFile(read('design-of-1.json'))
    const { carries } = file.ok ? file.value.design : expect.fail(file.message)
    expect(carries.some((carry) => 'source' in carry)).toBe(true)
    expect(carries.some((carry) => 'becomes' in carry)).toBe(true)
    for (const carry of carries) {
      const design = file.ok ? file.value.design : expect.fail()
      const { there, back } = flowing(carry, [design])
      expect(there.adds.length + there.fills.length).toBeGreaterThan(0)
      expect(back.adds.length + back.fills.length).toBeGreaterThan(0)
    }
  })

  it('a log comes to the same bytes of design', () => {
    const { from, operations, to } = JSON.parse(read('log-of-1.json')) as {
      from: Design
      operations: Operation[]
      to: Design
    }
    const kinds = operations
      .flatMap((each) => (each.kind === 'batch' ? each.operations : [each]))
      .map(({ kind }) => kind)
    expect(kinds).toContain('relationship.resolveToJunction')
    const design = operations.reduce((current, operation) => {
      const result = apply(current, operation)
      return result.ok ? result.design : expect.fail(result.refusal.message)
    }, from)
    expect(JSON.stringify(design)).toBe(JSON.stringify(to))
  })
})
