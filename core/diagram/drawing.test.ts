import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { lifelike } from '../../demo/lifelike.ts'
import { choices, grow } from '../../tests/designs.ts'
import { faultsOf } from '../../tests/drawing.ts'
import { times } from '../../tests/times.ts'
import { referencesTo } from '../design/directory.ts'
import { PLAIN_LOOK, type Design, type Look, type ShownPart, type Subject } from '../design/model.ts'
import { ALL_SHOWN, askedOf, sceneOf } from './drawing.ts'
import { END_WORDS, roomOf } from './line-words.ts'
import { textWidth } from './box.ts'
import { proposeSubjects } from './propose-subjects.ts'
import type { Scene } from './scene.ts'
import { waysBetween } from './ways.ts'

const NONE = { overlaps: [], through: [], onEachOther: [] }

/** Subjects that are not what hangs together. */
const slicesOf = ({ tables }: Design): Subject[] =>
  Array.from({ length: 12 }, (_, at) => ({
    id: `b_${at}`,
    name: `slice ${at}`,
    tables: tables.slice(at * 14, at * 14 + 14).map(({ id }) => id)
  }))

/** A design with the subjects that it seems to fall into. */
const inSubjects = (design: Design): Design => ({
  ...design,
  positions: {},
  subjects: proposeSubjects(design).map((each, at) => ({ id: `b_${at}`, ...each }))
})
const withLook = (look: Partial<Look>, shows: ShownPart = { kind: 'all' }) => ({
  shows,
  look: { ...PLAIN_LOOK, ...look }
})

describe('the whole picture in subjects', () => {
  it('has each in a region with its tables and no others, none on another, and no fault of drawing', () => {
    let regions = 0
    const look = (design: Design): void => {
      const scene = sceneOf(design, ALL_SHOWN)
      expect(faultsOf(scene)).toEqual(NONE)
      regions += scene.regions.length
      const first = new Map(
        design.subjects?.toReversed().flatMap(({ id, tables }) => tables.map((table) => [table, id]))
      )
      for (const region of scene.regions) {
        for (const table of scene.tables) expect(isIn(table, region)).toBe(first.get(table.id) === region.id)
        for (const other of scene.regions) if (other !== region) expect(isApart(region, other)).toBe(true)
      }
    }
    look(fernhollow().design)
    for (let seed = 1; seed <= times(3); seed++) look(inSubjects(lifelike(90, seed)))
    fc.assert(
      fc.property(choices(60, 30), (taken) => look(inSubjects(grow(taken)))),
      { numRuns: times(20) }
    )
    expect(regions).toBeGreaterThan(times(30))
  })

  it('is drawn without them where they are not wanted', () => {
    const { design } = fernhollow()
    expect(sceneOf(design, withLook({ regions: false })).regions).toEqual([])
    const { subjects: _, ...bare } = design
    expect(sceneOf(design, withLook({ regions: false }))).toEqual(sceneOf(bare, ALL_SHOWN))
  })
})

type Box = Pick<Scene['tables'][number], 'x' | 'y' | 'width' | 'height'>
const isIn = (one: Box, other: Box): boolean =>
  one.x < other.x + other.width &&
  one.x + one.width > other.x &&
  one.y < other.y + other.height &&
  one.y + one.height > other.y
const isApart = (one: Box, other: Box): boolean => !isIn(one, other)

describe('a subject by itself', () => {
  it('has its tables, and what refers to them from outside: by name at the edge, or counted', () => {
    const large = lifelike(170)
    const design = { ...large, positions: {}, subjects: slicesOf(large) }
    let [slim, counted] = [0, 0]
    for (const { id, tables } of design.subjects ?? []) {
      const shown = withLook({}, { kind: 'subject', subject: id })
      const scene = sceneOf(design, shown)
      expect(faultsOf(scene)).toEqual(NONE)
      const drawn = new Set(scene.tables.map((table) => table.id))
      for (const table of tables) {
        expect(scene.tables.find((each) => each.id === table)?.slim).toBe(false)
        const outside = new Set(referencesTo(design, table).map((each) => each.table.id))
        for (const each of tables) outside.delete(each)
        const more = askedOf(design, shown).part.more.get(table)
        if (more === undefined) expect([...outside].every((each) => drawn.has(each))).toBe(true)
        else expect(more).toBe(outside.size)
        counted += more === undefined ? 0 : 1
      }
      const edge = scene.tables.filter((table) => table.slim)
      expect(edge.every((table) => table.rows.length === 0 && !tables.includes(table.id))).toBe(true)
      expect(scene.stubs.every(({ child }) => tables.includes(child))).toBe(true)
      slim += edge.length
    }
    expect([slim > 10, counted > 2]).toEqual([true, true])
  })

  it('says how many of its tables are gone', () => {
    const { design } = fernhollow()
    const gone = (shows: ShownPart): [gone: number, drawn: number] => {
      const { part } = askedOf(design, withLook({}, shows))
      return [part.gone, part.design.tables.length]
    }
    expect(gone({ kind: 'tables', tables: ['t_ward', 't_left', 't_off'] })).toEqual([2, 3])
    expect(gone({ kind: 'subject', subject: 'b_none' })).toEqual([1, 0])
    expect(gone({ kind: 'near', table: 't_left', steps: 1 })).toEqual([1, 0])
    expect(sceneOf(design, withLook({}, { kind: 'near', table: 't_left', steps: 1 })).tables).toEqual([])
  })
})

describe('words at the ends of lines', () => {
  it('stand on no table, on no line that runs beside them, and not on each other', () => {
    let words = 0
    for (const design of [fernhollow().design, lifelike(60), lifelike(90, 2)])
      for (const ends of ['feet', 'numbers'] as const) {
        const scene = sceneOf(design, withLook({ words: 'roles', ends }))
        const rooms = scene.lines.flatMap((line) =>
          line.ends.flatMap(({ words: said }) =>
            said ? [roomOf(...said.at, said.side, textWidth(said.text, END_WORDS.size))] : []
          )
        )
        words += rooms.length
        for (const [at, { left, top, right, bottom }] of rooms.entries()) {
          const isOn = (x: number, y: number, wide: number, high: number): boolean =>
            x < right && x + wide > left && y < bottom && y + high > top
          for (const { x, y, width, height } of scene.tables) expect(isOn(x, y, width, height)).toBe(false)
          for (const other of rooms.slice(at + 1))
            expect(isOn(other.left, other.top, other.right - other.left, other.bottom - other.top)).toBe(
              false
            )
          for (const { points } of scene.lines)
            for (const [index, [x, y]] of points.entries()) {
              const next = points[index + 1]
              if (next?.[1] === y) expect(isOn(Math.min(x, next[0]), y, Math.abs(next[0] - x), 0)).toBe(false)
            }
        }
      }
    expect(words).toBeGreaterThan(100)
  })
})

describe('the ways between two tables', () => {
  it('are the shortest, by going through all of them', () => {
    const design = fernhollow().design
    const pairs = design.tables.flatMap(({ id, foreignKeys }) =>
      foreignKeys.map(({ table }) => [id, table] as const)
    )
    const beside = (id: string): string[] =>
      pairs.flatMap(([one, other]) => (one === id ? [other] : other === id ? [one] : []))
    /** Every way of so many steps that goes through no table twice. */
    const walks = (from: string, to: string, steps: number, seen: readonly string[] = [from]): string[][] =>
      from === to
        ? [[...seen]]
        : steps === 0
          ? []
          : beside(from).flatMap((next) =>
              seen.includes(next) ? [] : walks(next, to, steps - 1, [...seen, next])
            )
    let found = 0
    for (const { id: from } of design.tables)
      for (const { id: to } of design.tables.slice(0, 8)) {
        const ways = waysBetween(design, from, to)
        const all = walks(from, to, 9)
        const least = Math.min(...all.map((way) => way.length))
        const expected = new Set(all.filter((way) => way.length === least).flat())
        expect(new Set(ways), `${from} to ${to}`).toEqual(expected)
        found += ways.size
      }
    expect(found).toBeGreaterThan(300)
  })
})

describe('proposed subjects', () => {
  it('are parts that hang together more within than with others, each table in one at most', () => {
    for (const design of [fernhollow().design, lifelike(170), lifelike(300, 3)]) {
      const made = proposeSubjects(design)
      const of = new Map(made.flatMap(({ name, tables }) => tables.map((id) => [id, name])))
      expect(of.size).toBe(made.flatMap(({ tables }) => tables).length)
      expect(new Set(made.map(({ name }) => name)).size).toBe(made.length)
      const hubs = new Set(
        design.tables.flatMap(({ id }) => (referencesTo(design, id).length >= 9 ? [id] : []))
      )
      const links = design.tables.flatMap(({ id, foreignKeys }) =>
        foreignKeys.flatMap(({ table }) =>
          table === id || hubs.has(table) || !of.has(id) || !of.has(table) ? [] : [[id, table] as const]
        )
      )
      const within = links.filter(([one, other]) => of.get(one) === of.get(other)).length
      expect(within / links.length).toBeGreaterThan(0.7)
      expect(proposeSubjects(design)).toEqual(made)
    }
  })
})
