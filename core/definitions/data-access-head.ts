/**
 * What data access in TypeScript stands on, the same for every design: how values are read and bound, and what is done
 * with the rows of any table. Before it stands what the engine says in its own way: `placeAt`, how it says a value that is
 * bound; `truth`, how its drivers take true and false; `ZONE`, what stands behind a moment of the world's time; and
 * `NO_VALUES`, what stands behind INSERT INTO a table where nothing is given.
 */
export const DATA_ACCESS_HEAD = String.raw`
/** Runs a statement, with values for its places in their order, and gives the rows that come of it. */
export type Query = (sql: string, values: readonly unknown[]) => Promise<Record<string, unknown>[]>

/** What a delete would do to rows of a table besides. */
export interface TakenAlong {
  table: string
  rows: number
  does: 'goes' | 'is emptied' | 'gets its default' | 'refuses'
}

const asIs = (value: unknown): unknown => value
/** A moment as the standard writes it, without parts of a second that are nothing. */
const iso = (value: unknown): string =>
  String(value).replace(' ', 'T').replace(/[.]0+(?=$|[Z+-])/, '').replace(/(T.*[+-]\d\d)$/, '$1:00').replace(/[+]00:?00$/, 'Z')
const hasZone = (moment: string): boolean => /T.*(Z|[+-]\d\d:?\d\d)$/.test(moment)
/** A moment of the world's time as the database takes it; without a zone it is that of UTC already. */
function inUtc(value: unknown): string {
  const said = iso(value)
  const utc = hasZone(said) ? new Date(said).toISOString().replace(/(\.0+)?Z$/, '') : said
  return utc.replace('T', ' ') + ZONE
}
/** How values of a type are read from their text in the database, and bound. */
interface Codec {
  read(value: unknown, scale?: number): unknown
  bind(value: unknown): unknown
}
const text: Codec = { read: (value) => String(value), bind: asIs }
const AS = {
  text,
  padded: { ...text, read: (value) => String(value).replace(/ +$/, '') },
  digits: { ...text, read: (value, scale = 0) => padded(String(value), scale) },
  number: { ...text, read: Number },
  truth: { read: (value) => ['true', 't', '1'].includes(String(value)), bind: truth },
  moment: { read: iso, bind: (value) => String(value).replace('T', ' ') },
  instant: { read: (value) => iso(value) + (hasZone(iso(value)) ? '' : 'Z'), bind: inUtc },
  json: { read: (value) => JSON.parse(String(value)), bind: (value) => JSON.stringify(value) },
  bytes: {
    read: (value) => Uint8Array.from(String(value).match(/../g) ?? [], (pair) => parseInt(pair, 16)),
    bind: asIs
  }
} satisfies Record<string, Codec>

/** Digits with as many behind the point as the column has. */
function padded(digits: string, scale: number): string {
  if (scale === 0 || !/^-?\d+([.]\d*)?$/.test(digits)) return digits
  const [whole = '', part = ''] = digits.split('.')
  return whole + '.' + part.padEnd(scale, '0')
}

/** What a column's text, or nothing, is read as. */
const readAs = ({ as, scale }: Column, value: unknown): unknown => {
  const codec: Codec = AS[as]
  return value === null || value === undefined ? null : codec.read(value, scale)
}
const boundAs = ({ as }: Column, value: unknown): unknown =>
  value === null || value === undefined ? null : AS[as].bind(value)

/** A column: its name in SQL, what gives its text, and what it is. */
interface Column {
  name: string
  read: string
  as: keyof typeof AS
  /** Of a decimal: how many digits stand behind its point. */
  scale?: number
  /** Where it is copied: by which fields, and the SQL between their values; again: also when the row refers to another. */
  copies?: { by: readonly string[]; sql: readonly string[]; again: boolean }
  /** What it becomes with each change of its row. */
  renewed?: string
}

/** Who refers to rows of a table, by which of its fields and which of theirs, and what becomes of it with a row. */
interface Lean {
  by: string
  own: readonly string[]
  its: readonly string[]
  does: TakenAlong['does']
  /** Whether it refuses though the rows go otherwise. */
  atOnce?: true
}

interface Layout {
  called: string
  table: string
  key: readonly string[]
  columns: Readonly<Record<string, Column>>
  leans: readonly Lean[]
}

type Held = Readonly<Record<string, unknown>>

/** Values that are bound, in the order of their places. */
class Bound {
  readonly values: unknown[] = []

  place(column: Column, value: unknown): string {
    this.values.push(boundAs(column, value))
    return placeAt(this.values.length - 1)
  }
}

const columnOf = ({ called, columns }: Layout, field: string): Column => {
  const column = Object.hasOwn(columns, field) ? columns[field] : undefined
  if (!column) throw new Error(called + ' has nothing called ' + field + '.')
  return column
}

/** What rows hold in fields, bound as the fields are; nothing where one of them is empty. */
function held(of: Layout, row: object, fields: readonly string[]): unknown[] | undefined {
  const bound = fields.map((field) => boundAs(columnOf(of, field), (row as Held)[field]))
  return bound.includes(null) ? undefined : bound
}

/** What tells whether two rows are of the same pair. */
const sameBy = (of: Layout, row: object, fields: readonly string[]): string =>
  JSON.stringify(
    fields.map((field) => {
      const value = readAs(columnOf(of, field), (row as Held)[field])
      return value === null ? null : String(value)
    })
  )

/** So many rows are asked about at once. */
const AT_ONCE = 100

/** What is done with the rows of any table. */
class Access {
  constructor(private readonly query: Query) {}

  /** The rows for which a condition holds, in the order of their key; none where what it asks by is empty. */
  async many<Row>(of: Layout, where: string, values: unknown[] | undefined): Promise<Row[]> {
    if (!values) return []
    const columns = Object.entries(of.columns)
    const list = columns.map(([, { read }], at) => read + ' AS c' + at).join(', ')
    const by = of.key.map((field) => 'its.' + columnOf(of, field).name).join(', ')
    const sql = 'SELECT ' + list + ' FROM ' + of.table + ' its' + (where && ' WHERE ' + where) + (by && ' ORDER BY ' + by)
    const found = await this.query(sql, values)
    return found.map((row) => {
      const read = columns.map(([field, column], at): [string, unknown] => [field, readAs(column, row['c' + at])])
      return Object.fromEntries(read) as Row
    })
  }

  async one<Row>(of: Layout, where: string, values: unknown[] | undefined): Promise<Row | undefined> {
    return (await this.many<Row>(of, where, values))[0]
  }

  /** The row that there must be. */
  async only<Row>(of: Layout, where: string, values: unknown[] | undefined): Promise<Row> {
    const found = await this.one<Row>(of, where, values)
    if (!found) throw new Error('There is no such ' + of.called + '.')
    return found
  }

  async count(of: Layout, where: string, values: unknown[] | undefined): Promise<number> {
    if (!values) return 0
    const [row] = await this.query('SELECT count(*) AS n FROM ' + of.table + ' its WHERE ' + where, values)
    return Number(row?.n)
  }

  byKey<Row>(of: Layout, key: object): Promise<Row | undefined> {
    const where = of.key.map((field, at) => 'its.' + columnOf(of, field).name + ' = ' + placeAt(at))
    return this.one<Row>(of, where.join(' AND '), held(of, key, of.key))
  }

  /** Puts a row in, with what it copies, and gives it as it is then. */
  async add<Row>(of: Layout, row: object): Promise<Row | undefined> {
    for (const field of Object.keys(row)) columnOf(of, field)
    const bound = new Bound()
    const given = Object.entries(of.columns).flatMap(([field, column]): [string, string][] => {
      const value = (row as Held)[field]
      if (value !== undefined) return [[column.name, bound.place(column, value)]]
      const copied = this.copied(of, column, row, bound)
      return copied === undefined ? [] : [[column.name, copied]]
    })
    const names = given.map(([name]) => name).join(', ')
    const said = given.map(([, value]) => value).join(', ')
    const what = given.length > 0 ? ' (' + names + ') VALUES (' + said + ')' : NO_VALUES
    const key = of.key.map((field, at) => columnOf(of, field).read + ' AS c' + at).join(', ')
    const [made] = await this.query('INSERT INTO ' + of.table + what + (key && ' RETURNING ' + key), bound.values)
    if (!made) return undefined
    const read = of.key.map((field, at): [string, unknown] => [field, readAs(columnOf(of, field), made['c' + at])])
    return this.byKey<Row>(of, Object.fromEntries(read))
  }

  /** Makes a row another, and gives it as it is then; nothing where there is none. */
  async change<Row>(of: Layout, key: object, change: object): Promise<Row | undefined> {
    for (const field of Object.keys(change)) columnOf(of, field)
    const before = await this.byKey<Row>(of, key)
    if (!before) return undefined
    const bound = new Bound()
    const sets = Object.entries(of.columns).flatMap(([field, column]): string[] => {
      const value = (change as Held)[field]
      if (value !== undefined) return [column.name + ' = ' + bound.place(column, value)]
      if (column.renewed !== undefined) return [column.name + ' = ' + column.renewed]
      const isOther = column.copies?.again === true && column.copies.by.some((by) => (change as Held)[by] !== undefined)
      const copied = isOther ? this.copied(of, column, { ...before, ...change }, bound) : undefined
      return copied === undefined ? [] : [column.name + ' = ' + copied]
    })
    const isIt = of.key.map((field) => columnOf(of, field).name + ' = ' + bound.place(columnOf(of, field), (key as Held)[field]))
    if (Object.values(change).some((value) => value !== undefined))
      await this.query('UPDATE ' + of.table + ' SET ' + sets.join(', ') + ' WHERE ' + isIt.join(' AND '), bound.values)
    const moved = of.key.map((field): [string, unknown] => [field, (change as Held)[field] ?? (key as Held)[field]])
    return this.byKey<Row>(of, Object.fromEntries(moved))
  }

  /** Deletes a row, and gives it as it was; nothing where there is none. */
  async remove<Row>(of: Layout, key: object): Promise<Row | undefined> {
    const before = await this.byKey<Row>(of, key)
    if (before) await this.removeBy(of, key, of.key)
    return before
  }

  /** Deletes the rows that hold the same in fields. */
  async removeBy(of: Layout, row: object, fields: readonly string[]): Promise<void> {
    const bound = new Bound()
    const isIt = fields.map((field) => {
      const [column, value] = [columnOf(of, field), (row as Held)[field] ?? null]
      return value === null ? column.name + ' IS NULL' : column.name + ' = ' + bound.place(column, value)
    })
    await this.query('DELETE FROM ' + of.table + ' WHERE ' + isIt.join(' AND '), bound.values)
  }

  /** How many rows hold the same in fields. */
  async countBy(of: Layout, row: object, fields: readonly string[]): Promise<number> {
    const where = fields.map((field, at) => 'its.' + columnOf(of, field).name + ' = ' + placeAt(at))
    return this.count(of, where.join(' AND '), held(of, row, fields))
  }

  /** Puts a pair in, unless its key is said and is there already; gives it as it is then. */
  async attach<Row>(of: Layout, pair: object): Promise<Row | undefined> {
    const there = of.key.length > 0 ? await this.byKey<Row>(of, pair) : undefined
    return there ?? this.add<Row>(of, pair)
  }

  /** Has just these pairs of those there: takes away what is none of them, and puts in what is missing. */
  async set(of: Layout, there: readonly object[], pairs: readonly object[], near: readonly string[], by: readonly string[]): Promise<void> {
    const wanted = new Set(pairs.map((pair) => sameBy(of, pair, by)))
    const known = new Set(there.map((pair) => sameBy(of, pair, by)))
    const gone = new Map(there.map((pair) => [sameBy(of, pair, by), pair]))
    for (const [same, pair] of gone) if (!wanted.has(same)) await this.removeBy(of, pair, [...near, ...by])
    for (const pair of pairs) {
      if (!known.has(sameBy(of, pair, by))) await this.add(of, pair)
      known.add(sameBy(of, pair, by))
    }
  }

  /** What deleting a row would do to others, by way of all that refers to it and to what goes with it. */
  async takesAlong(all: Readonly<Record<string, Layout>>, table: string, key: object): Promise<TakenAlong[]> {
    const first = await this.byKey<object>(all[table] as Layout, key)
    const going = new Map<string, [string, object]>()
    const others = new Map<string, { table: string; lean: Lean; same: string }>()
    const sameAs = (name: string, row: object): string => {
      const of = all[name] as Layout
      return name + sameBy(of, row, of.key.length > 0 ? of.key : Object.keys(of.columns))
    }
    let next: [string, object][] = first ? [[table, first]] : []
    for (const [name, row] of next) going.set(sameAs(name, row), [name, row])
    while (next.length > 0) {
      const now = next
      next = []
      for (const name of new Set(now.map(([each]) => each)))
        for (const lean of (all[name] as Layout).leans)
          for (const row of await this.leaning(all, name, lean, now.flatMap(([each, one]) => (each === name ? [one] : [])))) {
            const same = sameAs(lean.by, row)
            if (lean.does !== 'goes') others.set(lean.does + same, { table: lean.by, lean, same })
            else if (!going.has(same)) {
              going.set(same, [lean.by, row])
              next.push([lean.by, row])
            }
          }
    }
    const said = new Map<string, TakenAlong>()
    const say = (by: string, does: TakenAlong['does']): void => {
      const of = (all[by] as Layout).called
      const each = said.get(does + of) ?? { table: of, rows: 0, does }
      said.set(does + of, { ...each, rows: each.rows + 1 })
    }
    for (const [same, [name]] of going) if (!first || same !== sameAs(table, first)) say(name, 'goes')
    for (const { table: by, lean, same } of others.values()) if (lean.atOnce || !going.has(same)) say(by, lean.does)
    return [...said.values()]
  }

  private async leaning(all: Readonly<Record<string, Layout>>, name: string, lean: Lean, rows: readonly object[]): Promise<object[]> {
    const [from, to] = [all[name] as Layout, all[lean.by] as Layout]
    const found: object[] = []
    for (let at = 0; at < rows.length; at += AT_ONCE) {
      const bound = new Bound()
      const either = rows.slice(at, at + AT_ONCE).flatMap((row): string[] => {
        if (!held(from, row, lean.own)) return []
        const same = lean.its.map((field, n) => {
          const own = lean.own[n] as string
          return 'its.' + columnOf(to, field).name + ' = ' + bound.place(columnOf(from, own), (row as Held)[own])
        })
        return ['(' + same.join(' AND ') + ')']
      })
      if (either.length > 0) found.push(...(await this.many<object>(to, either.join(' OR '), bound.values)))
    }
    return found
  }

  /** The SQL of what a column copies; nothing where it copies none, or the row refers to nothing. */
  private copied(of: Layout, { copies }: Column, row: object, bound: Bound): string | undefined {
    if (!copies || !held(of, row, copies.by)) return undefined
    return copies.sql.map((between, at) => {
      const by = copies.by[at]
      return by === undefined ? between : between + bound.place(columnOf(of, by), (row as Held)[by])
    }).join('')
  }
}
`.trim()
