import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { fernhollow } from '../../../demo/fernhollow.ts'
import { designSchema, tableSchema, type Design } from '../model.ts'
import { IN_DESIGN, IN_TABLE, kindOf, PARTS, type PartName } from './all.ts'
import { membersOf, withMembers } from './held.ts'

const names = Object.keys(PARTS) as PartName[]
const demo = fernhollow().design

/** What a holder has beside aspects and the parts that it holds: rows, and where tables stand. */
const APART: Partial<Record<PartName, string[]>> = { design: ['positions'], table: ['rows'] }

const propertiesOf = (schema: z.ZodType): string[] =>
  schema instanceof z.ZodObject ? Object.keys(schema.shape) : []
const heldIn = (name: PartName): string[] => {
  const within = name === 'design' ? IN_DESIGN : name === 'table' ? IN_TABLE : []
  return within.map((each) => kindOf(each).in)
}

describe('the kinds of parts', () => {
  it.each(names.filter((name) => name !== 'carry'))(
    'says of every property of a %s to what it belongs',
    (name) => {
      const { schema, goesBy = [], aspects } = kindOf(name)
      const inAspects = Object.values(aspects).flatMap(({ of }) => of as readonly string[])
      expect(new Set(inAspects).size).toBe(inAspects.length)
      const known = new Set([
        'id',
        ...(goesBy as readonly string[]),
        ...inAspects,
        ...heldIn(name),
        ...(APART[name] ?? [])
      ])
      const properties = propertiesOf(schema)
      expect(properties.length).toBeGreaterThan(1)
      expect(properties.filter((property) => !known.has(property))).toEqual([])
      expect([...known].filter((property) => property !== 'id' && !properties.includes(property))).toEqual([])
    }
  )

  it('stand under their own names, and say where they are held', () => {
    for (const name of names) {
      const kind = kindOf(name)
      expect(kind.name).toBe(name)
      if (name === 'design') continue
      const holder = kind.heldBy === 'design' ? designSchema : tableSchema
      expect(Object.keys(holder.shape)).toContain(kind.in)
      expect(Boolean(kind.prefix) || Boolean(kind.goesBy) || kind.as === 'record').toBe(true)
    }
  })

  it('have ids that tell the kind, but for keys, which are of one', () => {
    const prefixes = names.flatMap((name) => kindOf(name).prefix ?? [])
    expect(prefixes.filter((prefix, at) => prefixes.indexOf(prefix) < at)).toEqual(['k'])
    for (const table of demo.tables)
      for (const name of IN_TABLE)
        for (const part of membersOf(name, table))
          expect('id' in part && part.id.startsWith(`${kindOf(name).prefix}_`)).toBe(true)
  })

  it('are put back as they were held', () => {
    const rebuilt = IN_DESIGN.reduce<Design>(
      (design, name) => withMembers(name, withMembers(name, design, []), membersOf(name, demo)),
      demo
    )
    expect(rebuilt).toEqual(demo)
    expect(IN_DESIGN.filter((name) => membersOf(name, demo).length > 0).length).toBeGreaterThan(6)
    for (const table of demo.tables)
      for (const name of IN_TABLE) expect(withMembers(name, table, membersOf(name, table))).toEqual(table)
  })

  it('leave out what may be missing where nothing is in it, and else an empty list', () => {
    for (const name of IN_DESIGN) {
      const without = withMembers(name, demo, [])
      expect(designSchema.safeParse(without).success).toBe(true)
      expect(membersOf(name, without)).toEqual([])
      const empty: unknown = kindOf(name).as === 'list' && !kindOf(name).mayBeLeftOut ? [] : undefined
      expect(Reflect.get(without, kindOf(name).in)).toEqual(empty)
    }
  })
})
