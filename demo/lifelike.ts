import { emptyDesign, type Design, type Table } from '../core/design/model.ts'
import { randomFrom, type Random } from '../core/rows/random.ts'
import { makeTable, type MadeReference } from './make-table.ts'

/** What the tables of a large hospital are about, and what of it. */
const SUBJECTS = (
  'ward patient feed medicine volunteer release carer intake ring finder shift pen sample supply ' +
  'donor transport training license campaign clinic nest pool aviary species'
).split(' ')
const MATTERS = (
  'note plan list item order check visit round stock batch price level group status log entry report ' +
  'request result photo contact address rule kind term task step error import export copy draft'
).split(' ')
const COLUMNS: readonly (readonly [string, string])[] = [
  ['name', 'text(60)'],
  ['remark', 'text'],
  ['amount', 'decimal(10,2)'],
  ['counted', 'integer'],
  ['noted_on', 'date'],
  ['changed_at', 'timestamp zone'],
  ['is_open', 'boolean'],
  ['code', 'char(8)']
]

/** How many columns of a hundred tables' have more than the given number: most are small, a few very long. */
const SIZES: readonly (readonly [percent: number, least: number, most: number])[] = [
  [30, 2, 4],
  [40, 5, 9],
  [20, 10, 20],
  [7, 21, 45],
  [2, 46, 70],
  [1, 90, 165]
]

/**
 * A design of so many tables as large ones are in life, which the districts are not: a few hubs that forty tables and
 * more refer to (fewer where there are fewer), a quarter of the tables alone, one large part and many small, sizes from
 * two columns to some 170, tables that refer to themselves, twice to the same, and junctions. The same for the same
 * number and seed.
 */
export function lifelike(count: number, seed = 1): Design {
  const random = randomFrom(seed)
  const names = namesFor(count, random)
  const make = (refersTo: readonly MadeReference[], isJunction = false): Table =>
    makeTable(names.pop() ?? 'table', columnsFor(random), refersTo, isJunction)
  const longest = (): Table => makeTable(names.pop() ?? 'table', columnsOf(LONGEST, random), [])

  const hubs = Array.from({ length: Math.max(1, Math.round(count / 70)) }, () => make([]))
  const tables: Table[] = [...hubs]
  const alone = Math.round(count / 4)
  for (let at = 0; at < alone; at++) tables.push(at === 0 && count > 100 ? longest() : make([]))

  // What is left hangs together in parts: the first is large, the others smaller and smaller.
  let left = count - tables.length
  for (let isFirst = true; left > 0; isFirst = false) {
    const size = isFirst
      ? Math.ceil(left * 0.4)
      : Math.min(left, 2 + random.below(Math.max(2, Math.ceil(left / 4))))
    tables.push(...partOf(size, hubs, make, random))
    left -= size
  }
  return { ...emptyDesign(`A hospital of ${count} tables`, `d_lifelike${count}`), tables }
}

/** Tables that hang together: each refers to one that came before, some to more, many to a hub. */
function partOf(
  size: number,
  hubs: readonly Table[],
  make: (refersTo: readonly MadeReference[], isJunction?: boolean) => Table,
  random: Random
): Table[] {
  const part: Table[] = []
  for (let at = 0; at < size; at++) {
    // Much of a part refers to what came first in it.
    const parent = (): Table => part[Math.floor(random.next() ** 2 * part.length)] as Table
    // Of the hubs the first are referred to most.
    const hub = (): Table => hubs[Math.floor(random.next() ** 1.6 * hubs.length)] as Table
    const refersTo: MadeReference[] = []
    const add = (reference: MadeReference): void => {
      const called = reference.role ?? reference.parent?.name ?? 'parent'
      if (!refersTo.some((each) => (each.role ?? each.parent?.name ?? 'parent') === called))
        refersTo.push(reference)
    }
    if (at >= 2 && random.chance(14)) {
      add({ parent: parent() })
      add({ parent: parent() })
      if (refersTo.length === 2) {
        part.push(make(refersTo, true))
        continue
      }
    }
    if (at > 0) add({ parent: parent(), open: random.chance(30) })
    if (at > 3 && random.chance(22)) add({ parent: parent(), open: random.chance(50) })
    if (random.chance(62)) add({ parent: hub(), open: random.chance(40) })
    if (random.chance(12)) add({ parent: hub(), role: 'changed_by', open: true })
    if (at > 0 && random.chance(5))
      add({ parent: refersTo[0]?.parent ?? parent(), role: 'former', open: true })
    if (random.chance(6)) add({ role: 'parent', open: true })
    part.push(make(refersTo))
  }
  return part
}

function columnsFor(random: Random): [name: string, type: string][] {
  let share = random.below(100)
  const [, least, most] = SIZES.find(([percent]) => (share -= percent) < 0) ?? [0, 2, 4]
  return columnsOf(least + random.below(most - least + 1), random)
}

const LONGEST = 169
function columnsOf(length: number, random: Random): [name: string, type: string][] {
  return Array.from({ length }, (_, at) => {
    const [name, type] = random.pick(COLUMNS)
    return [`${name}_${at + 1}`, type]
  })
}

/** Names, each once, in an order that chance gives. */
function namesFor(count: number, random: Random): string[] {
  const pairs = SUBJECTS.flatMap((subject) => MATTERS.map((matter) => `${subject}_${matter}`))
  const more = pairs.flatMap((name) => ['old', 'day', 'year'].map((word) => `${word}_${name}`))
  const names = [...pairs, ...more].slice(0, Math.max(count, 200))
  for (let at = names.length - 1; at > 0; at--) {
    const other = random.below(at + 1)
    ;[names[at], names[other]] = [names[other] as string, names[at] as string]
  }
  return names
}
