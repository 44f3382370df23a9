import { toJunction } from '../core/restructure/to-junction.ts'
import fc from 'fast-check'
import { apply } from '../core/edit/apply.ts'
import type { Operation } from '../core/edit/operation.ts'
import {
  emptyDesign,
  emptyTable,
  type Column,
  type Design,
  type Enum,
  type Table
} from '../core/design/model.ts'
import { sameType, type Type } from '../core/design/type.ts'
import { readExpression } from '../core/design/expressions.ts'
import { plainName } from '../core/sql/print.ts'
import { type Default } from '../core/design/value.ts'
import { isMoment, parseDefault } from '../core/design/default.ts'
import { generatedInstead, switchKey } from '../core/restructure/another-key.ts'
import { changeCardinality, proposeJunction, proposeRelationship } from '../core/relate/propose.ts'

/**
 * Names as people give them, and as they should not: quotes, semicolons, reserved words, emoji,
 * right-to-left, and long ones.
 */
export const NAMES = [
  'patient',
  'admission',
  'dose',
  'ward',
  'pen_no',
  'Finder',
  'select',
  'order',
  'a"b',
  "o'neill",
  'x; DROP TABLE y',
  'two words',
  '🦔',
  'قنفذ',
  'naïve',
  'tab--le',
  '/*',
  '%s',
  '$1',
  'name\\',
  'constraint',
  'primary',
  'xmin',
  'sqlite_x',
  'text',
  'public',
  '#sql',
  'pg_x',
  'a_name_that_goes_on_for_rather_longer_than_any_engine_is_likely_to_want',
  'a_name_that_goes_on_for_rather_longer_than_any_engine_is_likely_to_want_2',
  '[x]',
  '`y`',
  '?',
  ':z',
  'ÿ'.repeat(60)
]

export const TYPES: Type[] = [
  { kind: 'integer', size: 'small' },
  { kind: 'integer', size: 'normal' },
  { kind: 'integer', size: 'big' },
  { kind: 'decimal', precision: 8, scale: 2 },
  { kind: 'decimal', precision: 5, scale: 0 },
  { kind: 'float' },
  { kind: 'boolean' },
  { kind: 'text' },
  { kind: 'text', length: 40 },
  { kind: 'char', length: 6 },
  { kind: 'date' },
  { kind: 'time' },
  { kind: 'timestamp', zone: false },
  { kind: 'timestamp', zone: true },
  { kind: 'uuid' },
  { kind: 'json' },
  { kind: 'binary' },
  { kind: 'binary', length: 16 },
  { kind: 'interval' },
  { kind: 'text', length: 3000 }
]

/** Lists of values that random designs share; the ids are spelled out so that types can name them. */
export const LISTS: Enum[] = [
  { id: 'e_temper', name: 'temper', values: ['calm', 'wary', "can't tell"] },
  { id: 'e_odd', name: 'a "list" of \\values', values: ['x; --', 'back\\slash', 'قنفذ', '%s', '🦔'] }
]

const DEFAULTS = [
  '',
  'calm',
  "= upper('x')",
  '= 2 + 3',
  'PT90M',
  '',
  '0',
  '-12',
  '1.5',
  'true',
  'now',
  "it's; --",
  '2026-05-03',
  '07:40',
  '2026-05-03 07:40',
  '{"b": [1, 2], "a": "it\'s"}',
  '00ff',
  '00000000-0000-4000-8000-00000000000a'
]

/** A default of the list that fits the type, if one does. */
function defaultFor(type: Type, at: number): Default | undefined {
  for (let i = 0; i < DEFAULTS.length; i++) {
    const parsed = parseDefault(DEFAULTS[(at + i) % DEFAULTS.length] as string, type, LISTS)
    if (parsed.ok) return parsed.value ?? undefined
  }
  return undefined
}

/** Numbers that stand for one operation on whatever design there is by then. */
export type Choice = [kind: number, a: number, b: number, c: number]
export const choices = (most: number, least = 0): fc.Arbitrary<Choice[]> =>
  fc.array(fc.tuple(fc.nat(1000), fc.nat(1000), fc.nat(1000), fc.nat(1000)), {
    minLength: least,
    maxLength: most,
    size: 'max'
  })

const pick = <T>(list: readonly T[], at: number): T | undefined =>
  list.length > 0 ? list[at % list.length] : undefined

/** Ids in a row that is the same each time, so that a failure can be run again. */
export class Maker {
  private count = 0
  private id(prefix: string): string {
    return `${prefix}_x${this.count++}`
  }

  /** Gives every id that a proposal made up by chance one of this maker's. */
  private settle<T>(value: T): T {
    const made = new Map<string, string>()
    const text = JSON.stringify(value).replaceAll(
      /"([tckfyxi])_([a-z0-9]{10})"/g,
      (_, prefix: string, rest: string) => {
        const key = `${prefix}_${rest}`
        if (!made.has(key)) made.set(key, this.id(prefix))
        return `"${made.get(key) as string}"`
      }
    )
    return JSON.parse(text) as T
  }

  column(design: Design, b: number, c: number): Column {
    const list = design.enums.length > 0 ? pick(design.enums, c) : undefined
    const type: Type = list && b % 9 === 0 ? { kind: 'enum', enum: list.id } : (pick(TYPES, b) as Type)
    return {
      id: this.id('c'),
      name: pick(NAMES, c) as string,
      type,
      required: b % 3 === 0,
      default: defaultFor(type, c),
      ...(b % 4 === 1 && { note: `it's a note; -- ${c}\\` })
    }
  }

  /** An operation for the choice: often one that can be carried out, sometimes one that is refused. */
  operation(design: Design, [kind, a, b, c]: Choice): Operation {
    const table = pick(design.tables, a)
    if (!table || kind % 28 === 0) return { kind: 'table.add', table: this.table(b, c) }
    const column = pick(table.columns, b)
    const foreignKey = pick(table.foreignKeys, b)
    const on = { table: table.id, column: column?.id ?? 'c_none' }
    switch (kind % 28) {
      case 1:
        return {
          kind: 'column.add',
          table: table.id,
          column: this.column(design, b, c),
          at: c % (table.columns.length + 1)
        }
      case 2:
        return { kind: 'column.rename', ...on, name: pick(NAMES, c) as string }
      case 3:
        return { kind: 'column.retype', ...on, type: pick(TYPES, c) as Type }
      case 4:
        return { kind: 'column.require', ...on, required: c % 2 === 0 }
      case 5:
        return { kind: 'column.move', ...on, to: c % table.columns.length || 0 }
      case 6:
        return { kind: 'column.remove', ...on }
      case 7:
        return {
          kind: 'key.setPrimary',
          table: table.id,
          key: column
            ? {
                id: this.id('k'),
                columns: [...new Set([column.id, pick(table.columns, c)?.id ?? column.id])]
              }
            : null
        }
      case 8:
        return { kind: 'unique.add', table: table.id, key: { id: this.id('k'), columns: [on.column] } }
      case 9:
        return { kind: 'table.rename', table: table.id, name: pick(NAMES, c) as string }
      case 10: {
        const parent = pick(design.tables, b) as Table
        const proposed = proposeRelationship(design, {
          parent: parent.id,
          child: table.id,
          required: c % 2 === 0,
          single: c % 5 === 0
        })
        return proposed ? this.settle(proposed) : { kind: 'table.remove', table: table.id }
      }
      case 11:
        return this.settle({
          kind: 'relationship.addJunction',
          junction: proposeJunction(design, table, pick(design.tables, b) as Table)
        })
      case 12:
        return foreignKey
          ? {
              kind: 'foreignKey.setActions',
              table: table.id,
              foreignKey: foreignKey.id,
              onDelete: pick(['NO ACTION', 'RESTRICT', 'CASCADE', 'SET NULL'] as const, c) ?? 'CASCADE',
              onUpdate: 'NO ACTION'
            }
          : { kind: 'table.annotate', table: table.id, note: `note ${c}` }
      case 13:
        return foreignKey
          ? this.settle(
              c % 2
                ? changeCardinality(table, foreignKey, { required: b % 2 === 0 })
                : { kind: 'foreignKey.remove', table: table.id, foreignKey: foreignKey.id }
            )
          : { kind: 'table.place', table: table.id, position: { x: b, y: c } }
      case 14: {
        const parent = foreignKey && design.tables.find((each) => each.id === foreignKey.table)
        const resolved =
          foreignKey &&
          parent &&
          toJunction(design, table, foreignKey, proposeJunction(design, table, parent))
        return resolved?.ok
          ? this.settle(resolved.value)
          : {
              kind: 'column.setDefault',
              ...on,
              default: column ? (defaultFor(column.type, c) ?? null) : null
            }
      }
      case 15: {
        const condition = this.condition(design, table, b + c)
        return condition
          ? {
              kind: 'check.add',
              table: table.id,
              check: { id: this.id('x'), condition, ...(c % 7 === 0 && { name: pick(NAMES, c) as string }) }
            }
          : { kind: 'table.remove', table: table.id }
      }
      case 16: {
        const places = [...new Set([column?.id, pick(table.columns, c)?.id])].flatMap((id) => id ?? [])
        const where = c % 3 === 0 ? this.condition(design, table, c) : undefined
        return places.length === 0
          ? { kind: 'table.remove', table: table.id }
          : {
              kind: 'index.add',
              table: table.id,
              index: {
                id: this.id('i'),
                columns: places.map((id, at) => ({ column: id, descending: (b + at) % 2 === 0 })),
                unique: c % 4 === 0,
                ...(where !== undefined && { where })
              }
            }
      }
      case 17: {
        const made = this.column(design, b, c)
        const expression = this.computation(design, table, made.type, c)
        return expression
          ? {
              kind: 'column.add',
              table: table.id,
              column: { ...made, default: undefined, computed: expression }
            }
          : { kind: 'column.setDefault', ...on, default: null }
      }
      case 18:
        return { kind: 'enum.add', enum: pick(LISTS, b) as Enum }
      case 19: {
        const list = pick(design.enums, b)
        return list
          ? {
              kind: 'enum.change',
              enum: {
                ...list,
                name: c % 3 === 0 ? (pick(NAMES, c) as string) : list.name,
                values: c % 2 ? [...list.values, `more ${c}`] : list.values.slice(0, 3)
              }
            }
          : { kind: 'enum.add', enum: pick(LISTS, b) as Enum }
      }
      case 20:
        return design.schemas.length > 0 && c % 2
          ? {
              kind: 'table.setSchema',
              table: table.id,
              schema: c % 4 === 1 ? (pick(design.schemas, b)?.id ?? null) : null
            }
          : { kind: 'schema.add', schema: { id: this.id('s'), name: pick(NAMES, c) as string } }
      case 21:
        return c % 4 === 0
          ? { kind: 'table.setExternal', table: table.id, external: b % 2 === 0 }
          : { kind: 'table.annotate', table: table.id, note: `note ${c}'` }
      case 22: {
        if (column && isMoment(column.type))
          return { kind: 'column.renew', ...on, renewed: pick(['database', 'application', null], c) ?? null }
        const source = foreignKey && design.tables.find((each) => each.id === foreignKey.table)
        const alike = source?.columns.filter(({ type }) => column && sameType(type, column.type)) ?? []
        const copied = pick(alike.length > 0 && c % 4 > 0 ? alike : (source?.columns ?? []), c)
        if (!foreignKey || !copied) return { kind: 'column.annotate', ...on, note: `of \\ ${c}` }
        const how = {
          ...(c % 2 === 0 && { again: true as const }),
          ...(c % 3 === 0 && { fixed: true as const }),
          ...(c % 5 > 0 && { byTrigger: true as const })
        }
        return {
          kind: 'column.copy',
          ...on,
          copied: { foreignKey: foreignKey.id, column: copied.id, ...how }
        }
      }
      case 23: {
        const check = pick(table.checks, b)
        const expression =
          column &&
          this.computation(
            design,
            { ...table, columns: table.columns.filter((each) => each !== column) },
            column.type,
            c
          )
        return check && c % 2
          ? { kind: 'check.remove', table: table.id, check: check.id }
          : expression
            ? { kind: 'column.compute', ...on, expression: c % 3 === 0 ? null : expression }
            : { kind: 'column.move', ...on, to: 0 }
      }
      case 24: {
        const condition = this.condition(design, table, c)
        return condition && b % 3 === 0
          ? {
              kind: 'rowPolicy.add',
              table: table.id,
              rowPolicy: {
                id: this.id('p'),
                name: `policy ${c}"`,
                command: pick(['ALL', 'SELECT', 'INSERT', 'DELETE'] as const, c) ?? 'ALL',
                condition,
                ...(c % 2 && { role: 'ward_staff' }),
                ...(c % 5 === 0 && { writes: condition })
              }
            }
          : {
              kind: 'column.setDefault',
              ...on,
              default: column ? (defaultFor(column.type, c) ?? null) : null
            }
      }
      case 25: {
        const unique = pick(table.uniques, b)
        const switched = unique && switchKey(design, table, unique)
        return switched?.ok
          ? this.settle(switched.value)
          : { kind: 'unique.add', table: table.id, key: { id: this.id('k'), columns: [on.column] } }
      }
      case 26: {
        const switched = generatedInstead(design, table)
        return switched.ok && c % 2
          ? this.settle(switched.value)
          : { kind: 'column.require', ...on, required: true }
      }
      default:
        return { kind: 'table.remove', table: table.id }
    }
  }

  /**
   * A condition on the table's columns, as a person might type it, that can be read; nothing where none
   * fits.
   */
  private condition(design: Design, table: Table, at: number): string | undefined {
    const texts = table.columns.flatMap((column): string[] => {
      const name = plainName(column.name)
      switch (column.type.kind) {
        case 'integer':
        case 'decimal':
        case 'float':
          return [
            `${name} > 0`,
            `${name} between -1 and 100.5`,
            `${name} in (1, 2, 3) or ${name} is null`,
            `abs(${name}) * 2 < 500 and not ${name} = -4`
          ]
        case 'text':
        case 'char':
          return [
            `length(${name}) < 50`,
            `${name} <> 'it''s; --' or ${name} like 'a%'`,
            `upper(trim(${name})) not in ('A', 'B\\')`,
            `coalesce(${name}, '') <> 'x' || 'y'`
          ]
        case 'boolean':
          return [name, `not ${name}`, `${name} = true`]
        case 'date':
          return [
            `year(${name}) > 1900 and weekday(${name}) < 8`,
            `date_text(${name}, 'DD.MM.') <> '29.02.'`,
            `${name} >= '2020-01-01'`,
            `${name} not between '1900-01-01' and '1999-12-31'`
          ]
        case 'timestamp':
          return [`${name} < '2099-01-01 00:00:00'`, `hour(${name}) between 0 and 23`]
        case 'enum':
          return [
            `${name} in (${(
              design.enums.find((each) => column.type.kind === 'enum' && each.id === column.type.enum)
                ?.values ?? []
            )
              .slice(0, 2)
              .map((value) => `'${value.replaceAll("'", "''")}'`)
              .join(', ')})`
          ]
        default:
          return [`${name} is not null`]
      }
    })
    const read = readExpression(pick(texts, at) ?? '', { columns: table.columns, enums: design.enums })
    return read.ok ? read.value : undefined
  }

  /** Something of the type worked out from other columns. */
  private computation(design: Design, table: Table, wanted: Type, at: number): string | undefined {
    const plain = table.columns.filter(
      (column) => column.computed === undefined && column.default?.kind !== 'generated'
    )
    const texts = plain.flatMap((column): string[] => {
      const name = plainName(column.name)
      if (wanted.kind === 'integer' && wanted.size === 'big' && column.type.kind === 'integer')
        return [`${name} + 1`, `case when ${name} > 3 then ${name} * 2 else 0 end`]
      if (
        wanted.kind === 'integer' &&
        wanted.size !== 'small' &&
        (column.type.kind === 'text' || column.type.kind === 'char')
      )
        return [`length(${name})`]
      if (wanted.kind === 'float' && column.type.kind === 'float') return [`${name} * 2`, `-${name}`]
      if (
        wanted.kind === 'text' &&
        wanted.length === undefined &&
        (column.type.kind === 'text' || column.type.kind === 'char')
      )
        return [`upper(${name}) || '; it''s'`, `substring(${name}, 1, 2)`, `coalesce(${name}, 'none')`]
      if (wanted.kind === 'boolean' && column.type.kind === 'integer')
        return [`${name} > 2`, `${name} is null or ${name} = 1`]
      return []
    })
    const read = readExpression(pick(texts, at) ?? '', {
      wanted,
      columns: table.columns,
      enums: design.enums
    })
    return read.ok ? read.value : undefined
  }

  private table(b: number, c: number): Table {
    const key: Column = {
      id: this.id('c'),
      name: 'id',
      type: { kind: 'integer', size: 'normal' },
      required: true,
      ...(b % 4 !== 0 && { default: { kind: 'generated' as const } })
    }
    return {
      ...emptyTable(pick(NAMES, c) as string, this.id('t')),
      columns: [key],
      primaryKey: { id: this.id('k'), columns: [key.id] }
    }
  }
}

/** Carries the choices out in turn, passing over what is refused. */
export function grow(
  taken: readonly Choice[],
  start: Design = emptyDesign('Fernhollow', 'd_test'),
  maker = new Maker()
): Design {
  let design = start
  for (const choice of taken) {
    const result = apply(design, maker.operation(design, choice))
    if (result.ok) design = result.design
  }
  return design
}
