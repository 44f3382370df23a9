import { byId } from '../design/by-id.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import { figuresOf } from '../design/figure.ts'
import type { Action, Column, Design, Table } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import type { CatalogForeignKey, CatalogTable } from '../dialect/catalog.ts'
import type { Provable } from '../dialect/dialect.ts'
import { NameGiver } from '../naming/fit.ts'
import { figureSql } from '../rows/figures.ts'
import { inSql, type InSql } from '../rows/in-sql.ts'
import { DATA_ACCESS_HEAD } from './data-access-head.ts'
import { oneLine } from './made-by.ts'
import { shapeOf, type Across, type End, type Entity, type Field, type Shape } from './shape.ts'
import type { Tongue } from './code-names.ts'
import { quoted, toTypescript, type TypescriptStyle } from './typescript.ts'
import { DATA_ACCESS } from './typescript-names.ts'
import {
  listed,
  type JunctionPairs,
  hasLines,
  attachLines,
  detachLines,
  setLines
} from './data-access-pairs.ts'

/**
 * Data access in TypeScript, on nothing but a function that runs a statement: rows by their keys, along both ends of
 * every relationship and across junctions, counts and figures; rows put in, changed and deleted, pairs attached, detached
 * and set. Values are always bound. What is copied is filled in, and a delete can say beforehand what it takes along.
 */
export function toDataAccess(
  design: Design,
  anyVersion: Provable,
  { tongue = DATA_ACCESS, keysApart = true, version }: TypescriptStyle = {}
): string {
  const writer = new Writer(design, anyVersion, tongue)
  return [toTypescript(design, { tongue, keysApart, version }), ...writer.lines(), ''].join('\n')
}

/** How a field is read and bound, by the name that the head has for it. */
function codecOf(type: Type): string {
  switch (type.kind) {
    case 'integer':
      return type.size === 'big' ? 'text' : 'number'
    case 'decimal':
      return 'digits'
    case 'float':
      return 'number'
    case 'boolean':
      return 'truth'
    case 'char':
      return 'padded'
    case 'timestamp':
      return type.zone ? 'instant' : 'moment'
    case 'json':
      return 'json'
    case 'binary':
      return 'bytes'
    default:
      return 'text'
  }
}

/** How many digits stand behind the point. */
const scaleOf = (type: Type): string[] => (type.kind === 'decimal' ? [`scale: ${type.scale}`] : [])

const DOES: Record<Action, string> = {
  CASCADE: 'goes',
  'SET NULL': 'is emptied',
  'SET DEFAULT': 'gets its default',
  RESTRICT: 'refuses',
  'NO ACTION': 'refuses'
}

class Writer {
  private readonly dialect: Provable
  private readonly sql: InSql
  private readonly shape: Shape
  /** What there are rows of in the database: other systems' tables are not this one's to read. */
  private readonly entities: readonly Entity[]
  private readonly byType: ReadonlyMap<string, Entity>
  private readonly byReference: ReadonlyMap<string, { table: CatalogTable; key: CatalogForeignKey }>

  constructor(
    private readonly design: Design,
    anyVersion: Provable,
    tongue: Tongue
  ) {
    this.dialect = anyVersion.for(design)
    this.sql = inSql(design, anyVersion)
    this.shape = shapeOf(design, tongue)
    this.entities = this.shape.entities.filter(({ is }) => is !== 'external')
    this.byType = new Map(this.entities.map((entity) => [entity.type, entity]))
    const { tables } = this.dialect.catalog(design).catalog
    this.byReference = new Map(
      tables.flatMap((table) => table.foreignKeys.map((key) => [key.id, { table, key }]))
    )
  }

  lines(): string[] {
    if (this.entities.length === 0) return []
    const { placeAt, truth, zone, noValues } = this.dialect.engine.code
    return [
      `/** How ${this.dialect.title} says the value that is bound at a place. */`,
      `const placeAt = ${placeAt}`,
      `const truth = ${truth}`,
      `const ZONE = ${quoted(zone)}`,
      `const NO_VALUES = ${quoted(noValues)}`,
      '',
      DATA_ACCESS_HEAD,
      '',
      '/** The tables, by what a row is called in code. */',
      'const TABLES = {',
      ...this.entities.flatMap((entity) => this.layout(entity)),
      '} satisfies Record<string, Layout>',
      ...this.withFigures(),
      '',
      `/** What is done with rows of ${oneLine(this.design.name)}: where several statements must be done or none, hand in a`,
      ' * function that runs them in one transaction. */',
      'export function dataAccess(query: Query) {',
      '  const rows = new Access(query)',
      '  return {',
      ...this.entities.flatMap((entity) => this.access(entity)),
      '  }',
      '}'
    ]
  }

  private tableOf({ id }: Pick<Entity, 'id'>): Table {
    return tableOf(this.design, id) as Table
  }

  /** A field's column as it is said in SQL. */
  private named(entity: Entity, field: string): string {
    const id = entity.fields.find(({ name }) => name === field)?.id ?? ''
    return this.sql.named(this.tableOf(entity), id)
  }

  private layout(entity: Entity): string[] {
    const table = this.tableOf(entity)
    return [
      `  ${entity.one}: {`,
      `    called: ${quoted(entity.table)},`,
      `    table: ${quoted(this.sql.table(table))},`,
      `    key: ${listed(entity.key)},`,
      '    columns: {',
      ...entity.fields.map((field) => `      ${field.name}: ${this.column(entity, table, field)},`),
      '    },',
      '    leans: [',
      ...entity.ends.flatMap((end) => this.lean(end)),
      '    ]',
      '  },'
    ]
  }

  private column(entity: Entity, table: Table, field: Field): string {
    const column = columnOf(table, field.id) as Column
    const name = this.sql.named(table, field.id)
    const read = this.read(table, field)
    const copies = this.copies(entity, table, column)
    const renewed =
      column.renewed === 'application' ? this.dialect.default({ kind: 'now' }, column.type) : undefined
    return `{ ${[
      `name: ${quoted(name)}`,
      `read: ${quoted(read)}`,
      `as: ${quoted(codecOf(field.type))}`,
      ...scaleOf(field.type),
      ...(copies === undefined ? [] : [`copies: ${copies}`]),
      ...(renewed === undefined ? [] : [`renewed: ${quoted(renewed)}`])
    ].join(', ')} }`
  }

  /** What gives a column's text; it is called in the database as the catalog has it. */
  private read(table: Table, { id, type }: Field): string {
    const { catalog } = this.dialect.catalog(this.design)
    const made = byId(catalog.tables).get(table.id)
    return this.dialect.engine.selectText(byId(made?.columns ?? []).get(id)?.name ?? '', type)
  }

  private copies(entity: Entity, table: Table, { copied }: Column): string | undefined {
    const key = copied && table.foreignKeys.find(({ id }) => id === copied.foreignKey)
    const parent = key && tableOf(this.design, key.table)
    if (!copied || !parent || parent.external) return undefined
    const nameOf = (id: string): string => entity.fields.find((field) => field.id === id)?.name ?? ''
    const places = key.pairs.map(({ refersTo }) => `${this.sql.column('one', parent, refersTo)} = `)
    const [first = '', ...others] = places
    // Some engines read no table that they write unless it stands apart.
    const source = `(SELECT * FROM ${this.sql.table(parent)})`
    const begin = `(SELECT ${this.sql.column('one', parent, copied.column)} FROM ${source} one WHERE ${first}`
    const sql = [begin, ...others.map((each) => ` AND ${each}`), ')']
    const by = listed(key.pairs.map(({ column }) => nameOf(column)))
    return `{ by: ${by}, sql: ${listed(sql)}, again: ${copied.again ?? false} }`
  }

  private lean(end: End): string[] {
    const there = this.byReference.get(end.reference)
    const child = this.byType.get(end.to)
    if (end.holds || !there || !child) return []
    const own = listed(end.on.map((pair) => pair.own))
    const its = listed(end.on.map((pair) => pair.its))
    // Where the engine looks with the row, one that refers to itself is in its own way too.
    const isAtOnce = there.key.onDelete === 'RESTRICT' || this.dialect.facts.actions.looks === 'with the row'
    const atOnce = DOES[there.key.onDelete] === 'refuses' && isAtOnce ? ', atOnce: true' : ''
    return [
      `      { by: ${quoted(child.one)}, own: ${own}, its: ${its}, does: ${quoted(DOES[there.key.onDelete])}${atOnce} },`
    ]
  }

  /** Tables with what their rows say over those that refer to them. */
  private withFigures(): string[] {
    return this.entities.flatMap((entity) => {
      if (entity.figures.length === 0) return []
      const table = this.tableOf(entity)
      const names = new NameGiver(this.dialect.facts.nameLimit)
      for (const { name } of table.columns) names.give(name)
      const figures = figuresOf(this.design, table).map((figure, at) => {
        const { name, type } = entity.figures[at] as Entity['figures'][number]
        return { figure, field: name, type, column: names.give(`figure_${at + 1}`) }
      })
      const said = figures.map(
        ({ figure, column }) => `${figureSql(this.sql, figure, 'its')} AS ${this.dialect.quote(column)}`
      )
      return [
        '',
        `/** Rows of ${oneLine(entity.table)}, with what they say over those that refer to them. */`,
        `const ${entity.one}WithFigures: Layout = {`,
        `  ...TABLES.${entity.one},`,
        `  table: ${quoted(`(SELECT its.*, ${said.join(', ')} FROM ${this.sql.table(table)} its)`)},`,
        '  columns: {',
        `    ...TABLES.${entity.one}.columns,`,
        ...figures.map(({ field, type, column }) => {
          const parts = [
            `name: ${quoted(this.dialect.quote(column))}`,
            `read: ${quoted(this.dialect.engine.selectText(column, type))}`,
            `as: ${quoted(codecOf(type))}`,
            ...scaleOf(type)
          ]
          return `    ${field}: { ${parts.join(', ')} },`
        }),
        '  }',
        '}'
      ]
    })
  }

  private access(entity: Entity): string[] {
    const { one, type, key, ends, across, figures, table } = entity
    const of = `TABLES.${one}`
    const there = ends.filter(({ to }) => this.byType.has(to))
    const beyond = across.filter(({ to, through }) => this.byType.has(to) && this.byType.has(through))
    const pairs = beyond.flatMap((each) => this.pair(entity, each) ?? [])
    const groups: [name: string, lines: string[]][] = [
      [
        'of',
        [
          ...there.flatMap((end) => this.along(entity, end)),
          ...beyond.flatMap((each) => this.beyond(entity, each))
        ]
      ],
      [
        'count',
        [
          ...there.flatMap((end) => (end.many ? this.countAlong(entity, end) : [])),
          ...beyond.flatMap((each) => this.countBeyond(entity, each))
        ]
      ],
      ['has', pairs.flatMap(hasLines)],
      ['attach', pairs.flatMap(attachLines)],
      ['detach', pairs.flatMap(detachLines)],
      ['set', pairs.flatMap(setLines)]
    ]
    const figured = `${type} & Required<Pick<${type}, ${figures.map(({ name }) => quoted(name)).join(' | ')}>>`
    return [
      `    /** Rows of ${oneLine(table)}. */`,
      `    ${one}: {`,
      `      all: () => rows.many<${type}>(${of}, '', []),`,
      ...(key.length > 0
        ? [
            `      byKey: (key: ${type}Key) => rows.byKey<${type}>(${of}, key),`,
            `      /** Puts a row in, and gives it as it is then. */`,
            `      add: async (row: New${type}) => (await rows.add<${type}>(${of}, row)) as ${type},`,
            `      /** Makes a row another, and gives it as it is then; nothing where there is none. */`,
            `      change: (key: ${type}Key, change: ${type}Change) => rows.change<${type}>(${of}, key, change),`,
            `      /** Deletes a row, and gives it as it was; nothing where there is none. */`,
            `      remove: (key: ${type}Key) => rows.remove<${type}>(${of}, key),`,
            `      /** What deleting a row would do to others. */`,
            `      takesAlong: (key: ${type}Key) => rows.takesAlong(TABLES, ${quoted(one)}, key),`
          ]
        : [`      add: async (row: New${type}) => void (await rows.add<${type}>(${of}, row)),`]),
      ...(figures.length > 0
        ? [
            '      /** Rows with what they say over those that refer to them. */',
            '      withFigures: {',
            `        all: () => rows.many<${figured}>(${one}WithFigures, '', []),`,
            ...(key.length > 0
              ? [`        byKey: (key: ${type}Key) => rows.byKey<${figured}>(${one}WithFigures, key)`]
              : []),
            '      },'
          ]
        : []),
      ...groups.flatMap(([name, lines]) =>
        lines.length === 0 ? [] : [`      ${name}: {`, ...lines.map((line) => `        ${line}`), '      },']
      ),
      '    },'
    ]
  }

  private at(place: number): string {
    return this.dialect.engine.code.place(place)
  }

  /** That rows of the other end, which go by `its`, belong to a row of this one. */
  private belongs({ to, on }: End): string {
    const other = this.byType.get(to) as Entity
    return on.map(({ its }, at) => `its.${this.named(other, its)} = ${this.at(at)}`).join(' AND ')
  }

  private asked(entity: Entity, end: End): { row: string; values: string } {
    const own = [...new Set(end.on.map((pair) => pair.own))]
    return {
      row: `row: Pick<${entity.type}, ${own.map(quoted).join(' | ')}>`,
      values: `held(TABLES.${entity.one}, row, ${listed(end.on.map((pair) => pair.own))})`
    }
  }

  private along(entity: Entity, end: End): string[] {
    const { row, values } = this.asked(entity, end)
    const other = this.byType.get(end.to) as Entity
    const how = end.many ? 'many' : end.holds && !end.optional ? 'only' : 'one'
    return [
      `/** ${oneLine(end.says)} */`,
      `${end.name}: (${row}) =>`,
      `  rows.${how}<${other.type}>(TABLES.${other.one}, ${quoted(this.belongs(end))}, ${values}),`
    ]
  }

  private countAlong(entity: Entity, end: End): string[] {
    const { row, values } = this.asked(entity, end)
    const other = this.byType.get(end.to) as Entity
    return [
      `${end.name}: (${row}) =>`,
      `  rows.count(TABLES.${other.one}, ${quoted(this.belongs(end))}, ${values}),`
    ]
  }

  /** That rows beyond a junction, which go by `its`, belong to a row of this side. */
  private belongsBeyond(entity: Entity, { by, on, through, to }: Across): { where: string; near: End } {
    const [junction, other] = [this.byType.get(through) as Entity, this.byType.get(to) as Entity]
    const near = entity.ends.find(({ name }) => name === by) as End
    const far = junction.ends.find(({ name }) => name === on) as End
    const conditions = [
      ...far.on.map((pair) => `pair.${this.named(junction, pair.own)} = its.${this.named(other, pair.its)}`),
      ...near.on.map((pair, at) => `pair.${this.named(junction, pair.its)} = ${this.at(at)}`)
    ]
    const from = this.sql.table(this.tableOf(junction))
    return { where: `EXISTS (SELECT 1 FROM ${from} pair WHERE ${conditions.join(' AND ')})`, near }
  }

  private beyond(entity: Entity, across: Across): string[] {
    const { where, near } = this.belongsBeyond(entity, across)
    const { row, values } = this.asked(entity, near)
    const other = this.byType.get(across.to) as Entity
    return [
      `/** By way of ${across.through}. */`,
      `${across.name}: (${row}) =>`,
      `  rows.many<${other.type}>(TABLES.${other.one}, ${quoted(where)}, ${values}),`
    ]
  }

  private countBeyond(entity: Entity, across: Across): string[] {
    const { where, near } = this.belongsBeyond(entity, across)
    const { row, values } = this.asked(entity, near)
    const other = this.byType.get(across.to) as Entity
    return [`${across.name}: (${row}) =>`, `  rows.count(TABLES.${other.one}, ${quoted(where)}, ${values}),`]
  }

  /** What is said of the pairs of a junction; nothing where both of its sides are told by the same columns. */
  private pair(entity: Entity, { name, by, on, through }: Across): JunctionPairs | undefined {
    const junction = this.byType.get(through) as Entity
    const near = entity.ends.find((end) => end.name === by) as End
    const far = junction.ends.find((end) => end.name === on) as End
    const nearFields = near.on.map(({ its }) => its)
    const farFields = far.on.map(({ own }) => own).filter((field) => !nearFields.includes(field))
    if (farFields.length === 0) return undefined
    const given = new Map(junction.fields.map((field) => [field.name, field.given]))
    const isByKey = [...nearFields, ...farFields].every((field) => junction.key.includes(field))
    const others = isByKey
      ? junction.key.filter(
          (field) =>
            !nearFields.includes(field) && !farFields.includes(field) && given.get(field) === undefined
        )
      : []
    return {
      name,
      junction,
      asked: this.asked(entity, near),
      nears: near.on.map((pair) => [pair.its, pair.own]),
      near: nearFields,
      far: farFields,
      by: [...farFields, ...others],
      where: near.on.map((pair, at) => `its.${this.named(junction, pair.its)} = ${this.at(at)}`).join(' AND ')
    }
  }
}
