import fc from 'fast-check'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { TYPES } from '../../tests/designs.ts'
import { designFileSchema, readDesignFile, writeDesignFile } from './file.ts'
import { findTables } from './find.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { parseType, typeText } from './type.ts'
import { defaultText, fits, parseDefault, parseValue } from './value.ts'
import { times } from '../../tests/times.ts'

describe('types and values as they are typed', () => {
  it('read back as they are written, however they are spaced', () => {
    for (const type of TYPES) {
      expect(parseType(typeText(type))).toEqual({ ok: true, value: type })
      expect(parseType(`  ${typeText(type).toUpperCase().replace('(', ' ( ').replace(')', ' ) ')} `)).toEqual({ ok: true, value: type })
    }
  })

  it('never fail on nonsense, but say what would do', () => {
    fc.assert(fc.property(fc.string({ maxLength: 40 }), (text) => {
      const parsed = parseType(text)
      if (!parsed.ok) expect(parsed.message).toMatch(/\.$/)
      for (const type of TYPES) {
        const value = parseValue(text, type)
        if (value.ok) expect(fits(value.value, type)).toBe(true)
      }
    }), { numRuns: times(500) })
  })

  it('of a default read back as they are shown', () => {
    fc.assert(fc.property(fc.string(), fc.constantFrom(...TYPES), (text, type) => {
      const parsed = parseDefault(text, type)
      if (parsed.ok && parsed.value) expect(parseDefault(defaultText(parsed.value, type), type)).toEqual(parsed)
    }), { numRuns: times(1000) })
  })

  it.each([
    ['2026-02-30', 'date'], ['25:00', 'time'], ['32768', 'smallint'], ['9223372036854775808', 'bigint'], ['1.234', 'decimal(8,2)'], ['NaN', 'float'], ['yes', 'boolean'], ['abcdefg', 'char(6)'], ["1; DROP TABLE patient", 'integer']
  ])('%s is no %s', (text, type) => {
    const parsed = parseType(type)
    expect(parsed.ok && parseValue(text, parsed.value).ok).toBe(false)
  })
})

describe('a design file', () => {
  const file = fernhollow()

  it('has one entity to a line, and a schema that is written down', () => {
    const text = writeDesignFile(file.design, file.versions)
    expect(text.split('\n').filter((line) => line.includes('"name": "patient_id"'))).toHaveLength(2 * (file.versions.length + 1))
    const written = JSON.parse(readFileSync(new URL('../../docs/design-file.schema.json', import.meta.url), 'utf8')) as unknown
    expect(written).toEqual(JSON.parse(JSON.stringify(z.toJSONSchema(designFileSchema, { io: 'input' }))))
  })

  it('that was changed anywhere is read or refused in words, never with an exception', () => {
    const text = writeDesignFile(file.design)
    fc.assert(fc.property(fc.nat(text.length), fc.string({ maxLength: 6 }), fc.nat(8), (at, put, cut) => {
      const read = readDesignFile(text.slice(0, at) + put + text.slice(at + cut))
      if (!read.ok) expect(read.message).toMatch(/^This design file|^This is not a design file/)
    }), { numRuns: times(300) })
  })
})

describe('finding a table', () => {
  const { design } = fernhollow()
  it('begins with the name, then a part of it, then a column', () => {
    expect(findTables(design, 'medicine').map(({ table }) => table.name)).toEqual(['medicine', 'dose'])
    expect(findTables(design, 'common').map(({ table, column }) => `${table.name}.${column?.name}`)).toEqual(['species.common_name'])
    expect(findTables(design, '', 3)).toHaveLength(3)
  })
})
