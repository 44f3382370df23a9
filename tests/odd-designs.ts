import { flawsOf } from '../core/design/integrity.ts'
import {
  ACTIONS,
  emptyDesign,
  emptyTable,
  type Column,
  type Design,
  type Enum,
  type ForeignKey,
  type Index,
  type Key,
  type Table
} from '../core/design/model.ts'
import { keysOf } from '../core/design/directory.ts'
import { readExpression, sortOfType } from '../core/design/expressions.ts'
import type { Type } from '../core/design/type.ts'
import type { Sort } from '../core/sql/functions.ts'
import type { Numbers } from './queries.ts'

/**
 * Designs of the kind that engines do not all take: references between types that are not quite the same,
 * keys and references on computed columns, columns computed from computed ones, conditions with everything in
 * them, wide rows, long values, actions of all kinds. What was made is counted, so that a test can say that
 * it saw enough of each.
 */
export type Odd =
  | 'computed'
  | 'computed from computed'
  | 'computed in a key'
  | 'computed refers'
  | 'indexed'
  | 'partial'
  | 'types that differ'
  | 'acts'
  | 'empties what is required'
  | 'refers to itself'
  | 'circle'
  | 'counted inside a key'
  | 'wide row'
  | 'long value'
  | 'check'
  | 'nothing of its own'

const LISTS: Enum[] = [
  { id: 'e_temper', name: 'temper', values: ['calm', 'wary', "can't tell"] },
  { id: 'e_coat', name: 'coat', values: ['calm', 'wary', "can't tell"] },
  { id: 'e_long', name: 'long_words', values: ['short', 'ÿ'.repeat(20), '🦔'.repeat(12)] }
]

const KINDS: Type[] = [
  { kind: 'integer', size: 'small' },
  { kind: 'integer', size: 'normal' },
  { kind: 'integer', size: 'normal' },
  { kind: 'integer', size: 'big' },
  { kind: 'decimal', precision: 8, scale: 2 },
  { kind: 'decimal', precision: 20, scale: 0 },
  { kind: 'float' },
  { kind: 'boolean' },
  { kind: 'boolean' },
  { kind: 'text' },
  { kind: 'text', length: 12 },
  { kind: 'text', length: 40 },
  { kind: 'text', length: 900 },
  { kind: 'text', length: 3000 },
  { kind: 'char', length: 6 },
  { kind: 'char', length: 12 },
  { kind: 'date' },
  { kind: 'time' },
  { kind: 'timestamp', zone: false },
  { kind: 'timestamp', zone: true },
  { kind: 'uuid' },
  { kind: 'json' },
  { kind: 'binary' },
  { kind: 'binary', length: 16 },
  { kind: 'interval' },
  { kind: 'enum', enum: 'e_temper' },
  { kind: 'enum', enum: 'e_coat' },
  { kind: 'enum', enum: 'e_long' }
]

/** Literals of each kind, as they are typed. */
const LITERALS: Partial<Record<Sort, string[]>> = {
  number: ['0', '1', '-2', '7', '2.5', '100'],
  text: ["''", "'calm'", "'a%'", "'B\\'", "'it''s'", "'🦔'"],
  boolean: ['true', 'false'],
  date: ["'2026-05-03'"],
  time: ["'07:40:00'"],
  timestamp: ["'2026-05-03 07:40:00'"],
  choice: ["'calm'", "'wary'"],
  uuid: ["'00000000-0000-4000-8000-00000000000a'"]
}

export class OddDesigns {
  readonly made = new Map<Odd, number>()
  private count = 0

  constructor(private readonly numbers: Numbers) {}

  private note(odd: Odd): void {
    this.made.set(odd, (this.made.get(odd) ?? 0) + 1)
  }

  private one(of: number): boolean {
    return this.numbers.next(of) === 0
  }

  private id(prefix: string): string {
    return `${prefix}_o${this.count++}`
  }

  design(dialects: string[]): Design {
    const plain = Array.from({ length: 1 + this.numbers.next(4) }, (_, at) => this.table(`t${at}`))
    let design: Design = { ...emptyDesign('Odd', 'd_odd'), dialects, enums: LISTS, tables: plain }
    for (const table of plain)
      for (let at = this.numbers.next(3); at > 0; at--) design = this.related(design, table.id)
    const flaws = flawsOf(design)
    if (flaws.length > 0) throw new Error(flaws.map(({ message }) => message).join('\n'))
    return design
  }

  private table(name: string): Table {
    const key: Column = {
      id: this.id('c'),
      name: `${name}_id`,
      type: this.one(3) ? this.numbers.pick(KINDS) : { kind: 'integer', size: 'normal' },
      required: true
    }
    const columns = [key, ...Array.from({ length: this.numbers.next(6) }, (_, at) => this.column(`c${at}`))]
    if (this.one(12)) {
      this.note('wide row')
      const length = this.numbers.pick([10, 60, 200, 255, 1000])
      const most = this.numbers.pick([20, 60, 150])
      const wide = Array.from({ length: most }, (_, at): Column => ({
        ...this.column(`w${at}`),
        type: { kind: 'text', length }
      }))
      columns.push(...wide)
    }
    let table: Table = { ...emptyTable(name, this.id('t')), columns }
    for (let at = this.numbers.next(4); at > 0; at--) table = this.computed(table, `g${at}`)
    if (columns.some(({ type }) => type.kind === 'enum' && type.enum === 'e_long')) this.note('long value')
    return this.indexed(this.checked(this.keyed(table)))
  }

  private column(name: string): Column {
    return {
      id: this.id('c'),
      name,
      type: this.numbers.pick(KINDS),
      required: this.one(3)
    }
  }

  private computed(table: Table, name: string): Table {
    const type = this.numbers.pick(KINDS)
    const text = this.expression(table, sortOfType(type), 3)
    const read = readExpression(text, { wanted: type, columns: table.columns, enums: LISTS })
    if (!read.ok) return table
    this.note('computed')
    const from = table.columns.filter(({ id }) => read.value.includes(`{${id}}`))
    if (from.some(({ computed }) => computed !== undefined)) this.note('computed from computed')
    const column: Column = { id: this.id('c'), name, type, required: this.one(4), computed: read.value }
    return { ...table, columns: [...table.columns, column] }
  }

  private keyed(table: Table): Table {
    const key = (columns: readonly Column[]): Key => {
      if (columns.some(({ computed }) => computed !== undefined)) this.note('computed in a key')
      return { id: this.id('k'), columns: columns.map(({ id }) => id) }
    }
    const [first] = table.columns as [Column]
    const own = this.one(4) ? this.some(table.columns) : [first]
    const counted = this.one(3) ? own.find(({ type, computed }) => isWhole(type) && !computed) : undefined
    if (counted && counted !== own[0]) this.note('counted inside a key')
    const columns = table.columns.map((column): Column => {
      if (!own.includes(column)) return column
      return { ...column, required: true, ...(column === counted && { default: { kind: 'generated' } }) }
    })
    return {
      ...table,
      columns,
      primaryKey: key(own),
      uniques: Array.from({ length: this.numbers.next(3) }, () => key(this.some(table.columns)))
    }
  }

  /** One to three of the columns. */
  private some(columns: readonly Column[]): Column[] {
    const picked = Array.from({ length: 1 + this.numbers.next(3) }, () => this.numbers.pick(columns))
    return [...new Set(picked)]
  }

  private checked(table: Table): Table {
    const conditions = Array.from({ length: this.numbers.next(3) }, () => this.condition(table)).flatMap(
      (each) => each ?? []
    )
    conditions.forEach(() => this.note('check'))
    return { ...table, checks: conditions.map((condition) => ({ id: this.id('x'), condition })) }
  }

  private condition(table: Table): string | undefined {
    const text = this.expression(table, 'boolean', 3)
    const read = readExpression(text, { columns: table.columns, enums: LISTS })
    return read.ok ? read.value : undefined
  }

  private indexed(table: Table): Table {
    const indexes = Array.from({ length: this.numbers.next(3) }, (): Index => {
      const where = this.one(2) ? this.condition(table) : undefined
      this.note(where === undefined ? 'indexed' : 'partial')
      return {
        id: this.id('i'),
        columns: this.some(table.columns).map(({ id }) => ({ column: id, descending: this.one(3) })),
        unique: this.one(2),
        ...(where !== undefined && { where })
      }
    })
    return { ...table, indexes }
  }

  /** The design with a reference from the table to some table's key, by columns of its own or new ones. */
  private related(design: Design, child: string): Design {
    const table = design.tables.find(({ id }) => id === child) as Table
    const parent = this.numbers.pick(design.tables)
    const key = this.numbers.pick(keysOf(parent))
    const used = new Set<string>()
    const added: Column[] = []
    const pairs = key.columns.map((refersTo) => {
      const column = parent.columns.find(({ id }) => id === refersTo) as Column
      const fits = table.columns.filter(({ id, type }) => !used.has(id) && alike(type, column.type))
      const own = fits.length > 0 && this.one(2) ? this.numbers.pick(fits) : undefined
      const made: Column = own ?? {
        id: this.id('c'),
        name: `r${this.count}`,
        type: this.one(3) ? this.near(column.type) : column.type,
        required: this.one(2)
      }
      if (!own) added.push(made)
      used.add(made.id)
      if (JSON.stringify(made.type) !== JSON.stringify(column.type)) this.note('types that differ')
      if (made.computed !== undefined) this.note('computed refers')
      return { column: made.id, refersTo }
    })
    const foreignKey: ForeignKey = {
      id: this.id('f'),
      table: parent.id,
      key: key.id,
      pairs,
      onDelete: this.numbers.pick(ACTIONS),
      onUpdate: this.one(2) ? 'NO ACTION' : this.numbers.pick(ACTIONS)
    }
    const after: Table = {
      ...table,
      columns: [...table.columns, ...added],
      foreignKeys: [...table.foreignKeys, foreignKey]
    }
    this.countReference(after, parent, foreignKey)
    return { ...design, tables: design.tables.map((each) => (each.id === child ? after : each)) }
  }

  private countReference(table: Table, parent: Table, key: ForeignKey): void {
    const acts = [key.onDelete, key.onUpdate]
    if (acts.some((action) => action !== 'NO ACTION' && action !== 'RESTRICT')) this.note('acts')
    const isHeld = (id: string): boolean => table.columns.some((each) => each.id === id && each.required)
    if (acts.includes('SET NULL') && key.pairs.some(({ column }) => isHeld(column)))
      this.note('empties what is required')
    if (parent.id === table.id) this.note('refers to itself')
    else if (parent.foreignKeys.some((each) => each.table === table.id)) this.note('circle')
  }

  /** A type that is not quite the same. */
  private near(type: Type): Type {
    return this.numbers.pick(KINDS.filter((each) => sortOfType(each) === sortOfType(type)).concat(type))
  }

  /** What is typed for a value of the kind; columns by their names. */
  private expression(table: Table, sort: Sort, depth: number): string {
    const columns = table.columns.filter(({ type }) => sortOfType(type) === sort).map(({ name }) => name)
    const literals = LITERALS[sort] ?? []
    // What is told of a row is told by its columns, mostly.
    const leaves = columns.length > 0 && !this.one(3) ? columns : [...columns, ...literals]
    if (depth <= 0 && leaves.length > 0) return this.numbers.pick(leaves)
    const part = (of: Sort): string => this.expression(table, of, depth - 1)
    const same = (): string => part(sort)
    const general = [
      () => (leaves.length > 0 ? this.numbers.pick(leaves) : 'null'),
      () => `coalesce(${same()}, ${same()})`,
      () => `case when ${part('boolean')} then ${same()} else ${same()} end`,
      () => `nullif(${same()}, ${same()})`
    ]
    return this.numbers.pick(
      depth <= 0 ? general.slice(0, 1) : [...general, ...this.own(table, sort, part)]
    )()
  }

  private own(table: Table, sort: Sort, part: (of: Sort) => string): (() => string)[] {
    if (sort === 'number')
      return [
        () => `${part('number')} ${this.numbers.pick(['+', '-', '*', '/', '%'])} (${part('number')})`,
        () => `abs(${part('number')})`,
        () => `round(${part('number')})`,
        () => `length(${part('text')})`,
        () =>
          `${this.numbers.pick(['year', 'month', 'day', 'weekday', 'hour', 'minute'])}(${part(this.numbers.pick(['date', 'timestamp']))})`
      ]
    if (sort === 'text')
      return [
        () => `${part('text')} || (${part('text')})`,
        () => `${this.numbers.pick(['lower', 'upper', 'trim'])}(${part('text')})`,
        () => `substring(${part('text')}, 1, 2)`,
        () => `replace(${part('text')}, 'a', ${part('text')})`,
        () => `date_text(${part(this.numbers.pick(['date', 'timestamp']))}, 'DD.MM.YYYY hh:mm')`
      ]
    if (sort !== 'boolean') return []
    const compared = (): Sort => this.numbers.pick(table.columns.map(({ type }) => sortOfType(type)))
    const comparison = (): string => {
      const of = compared()
      return `${part(of)} ${this.numbers.pick(['=', '<>', '<', '>='])} (${part(of)})`
    }
    return [
      comparison,
      comparison,
      () => `(${part('boolean')}) ${this.numbers.pick(['and', 'or'])} (${part('boolean')})`,
      () => `not (${part('boolean')})`,
      () => `${part('text')} ${this.numbers.pick(['like', 'not like'])} (${part('text')})`,
      () => `${part('number')} between ${part('number')} and ${part('number')}`,
      () => {
        const of = compared()
        return `${part(of)} in (${part(of)}, ${part(of)})`
      },
      () => `(${part(compared())}) is ${this.numbers.pick(['', 'not '])}null`,
      () => this.numbers.pick(table.columns).name + ' is not null'
    ]
  }
}

const isWhole = (type: Type): boolean => type.kind === 'integer'
const alike = (one: Type, other: Type): boolean => sortOfType(one) === sortOfType(other)
