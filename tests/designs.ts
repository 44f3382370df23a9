import fc from 'fast-check'
import { apply } from '../core/edit/apply.ts'
import type { Operation } from '../core/edit/operation.ts'
import { emptyDesign, type Column, type Design, type Table } from '../core/design/model.ts'
import type { Type } from '../core/design/type.ts'
import { parseDefault, type Default } from '../core/design/value.ts'
import { changeCardinality, proposeJunction, proposeRelationship, resolveOperation } from '../core/relate/propose.ts'

/** Names as people give them, and as they should not: quotes, semicolons, reserved words, emoji, right-to-left, and long ones. */
export const NAMES = [
  'patient', 'admission', 'dose', 'ward', 'pen_no', 'Finder', 'select', 'order', 'a"b', "o'neill", 'x; DROP TABLE y', 'two words', '🦔', 'قنفذ', 'naïve', 'tab--le', '/*', '%s', '$1', 'name\\', 'constraint', 'primary',
  'a_name_that_goes_on_for_rather_longer_than_any_engine_is_likely_to_want', 'a_name_that_goes_on_for_rather_longer_than_any_engine_is_likely_to_want_2', '[x]', '`y`', '?', ':z', 'ÿ'.repeat(60)
]

export const TYPES: Type[] = [
  { kind: 'integer', size: 'small' }, { kind: 'integer', size: 'normal' }, { kind: 'integer', size: 'big' }, { kind: 'decimal', precision: 8, scale: 2 }, { kind: 'decimal', precision: 5, scale: 0 },
  { kind: 'float' }, { kind: 'boolean' }, { kind: 'text' }, { kind: 'text', length: 40 }, { kind: 'char', length: 6 }, { kind: 'date' }, { kind: 'time' }, { kind: 'timestamp', zone: false }, { kind: 'timestamp', zone: true },
  { kind: 'uuid' }, { kind: 'json' }, { kind: 'binary' }
]

const DEFAULTS = ['', '', '0', '-12', '1.5', 'true', 'now', "it's; --", '2026-05-03', '07:40', '2026-05-03 07:40', '{"b": [1, 2], "a": "it\'s"}', '00ff', '00000000-0000-4000-8000-00000000000a']

/** A default of the list that fits the type, if one does. */
function defaultFor(type: Type, at: number): Default | undefined {
  for (let i = 0; i < DEFAULTS.length; i++) {
    const parsed = parseDefault(DEFAULTS[(at + i) % DEFAULTS.length] as string, type)
    if (parsed.ok) return parsed.value ?? undefined
  }
  return undefined
}

/** Numbers that stand for one operation on whatever design there is by then. */
export type Choice = [kind: number, a: number, b: number, c: number]
export const choices = (most: number, least = 0): fc.Arbitrary<Choice[]> => fc.array(fc.tuple(fc.nat(1000), fc.nat(1000), fc.nat(1000), fc.nat(1000)), { minLength: least, maxLength: most, size: 'max' })

const pick = <T>(list: readonly T[], at: number): T | undefined => (list.length > 0 ? list[at % list.length] : undefined)

/** Ids in a row that is the same each time, so that a failure can be run again. */
export class Maker {
  private count = 0
  private id(prefix: string): string {
    return `${prefix}_x${this.count++}`
  }

  /** Gives every id that a proposal made up by chance one of this maker's. */
  private settle<T>(value: T): T {
    const made = new Map<string, string>()
    const text = JSON.stringify(value).replaceAll(/"([tckfy])_([a-z0-9]{10})"/g, (_, prefix: string, rest: string) => {
      const key = `${prefix}_${rest}`
      if (!made.has(key)) made.set(key, this.id(prefix))
      return `"${made.get(key) as string}"`
    })
    return JSON.parse(text) as T
  }

  column(b: number, c: number): Column {
    const type = pick(TYPES, b) as Type
    return { id: this.id('c'), name: pick(NAMES, c) as string, type, required: b % 3 === 0, default: defaultFor(type, c) }
  }

  /** An operation for the choice: often one that can be carried out, sometimes one that is refused. */
  operation(design: Design, [kind, a, b, c]: Choice): Operation {
    const table = pick(design.tables, a)
    if (!table || kind % 16 === 0) return { kind: 'table.add', table: this.table(b, c) }
    const column = pick(table.columns, b)
    const foreignKey = pick(table.foreignKeys, b)
    const on = { table: table.id, column: column?.id ?? 'c_none' }
    switch (kind % 16) {
      case 1: return { kind: 'column.add', table: table.id, column: this.column(b, c), at: c % (table.columns.length + 1) }
      case 2: return { kind: 'column.rename', ...on, name: pick(NAMES, c) as string }
      case 3: return { kind: 'column.retype', ...on, type: pick(TYPES, c) as Type }
      case 4: return { kind: 'column.require', ...on, required: c % 2 === 0 }
      case 5: return { kind: 'column.move', ...on, to: c % table.columns.length || 0 }
      case 6: return { kind: 'column.remove', ...on }
      case 7: return { kind: 'key.setPrimary', table: table.id, key: column ? { id: this.id('k'), columns: [...new Set([column.id, pick(table.columns, c)?.id ?? column.id])] } : null }
      case 8: return { kind: 'unique.add', table: table.id, key: { id: this.id('k'), columns: [on.column] } }
      case 9: return { kind: 'table.rename', table: table.id, name: pick(NAMES, c) as string }
      case 10: {
        const parent = pick(design.tables, b) as Table
        const proposed = proposeRelationship(design, { parent: parent.id, child: table.id, required: c % 2 === 0, single: c % 5 === 0 })
        return proposed ? this.settle(proposed) : { kind: 'table.remove', table: table.id }
      }
      case 11: return this.settle({ kind: 'relationship.addJunction', junction: proposeJunction(design, table, pick(design.tables, b) as Table) })
      case 12: return foreignKey ? { kind: 'foreignKey.setActions', table: table.id, foreignKey: foreignKey.id, onDelete: pick(['NO ACTION', 'RESTRICT', 'CASCADE', 'SET NULL'] as const, c) ?? 'CASCADE', onUpdate: 'NO ACTION' } : { kind: 'table.annotate', table: table.id, note: `note ${c}` }
      case 13: return foreignKey ? this.settle(c % 2 ? changeCardinality(table, foreignKey, { required: b % 2 === 0 }) : { kind: 'foreignKey.remove', table: table.id, foreignKey: foreignKey.id }) : { kind: 'table.place', table: table.id, position: { x: b, y: c } }
      case 14: {
        const parent = foreignKey && design.tables.find((each) => each.id === foreignKey.table)
        return foreignKey && parent ? this.settle(resolveOperation(table, foreignKey, proposeJunction(design, table, parent))) : { kind: 'column.setDefault', ...on, default: column ? (defaultFor(column.type, c) ?? null) : null }
      }
      default: return { kind: 'table.remove', table: table.id }
    }
  }

  private table(b: number, c: number): Table {
    const key: Column = { id: this.id('c'), name: 'id', type: { kind: 'integer', size: 'normal' }, required: true, ...(b % 4 !== 0 && { default: { kind: 'generated' as const } }) }
    return { id: this.id('t'), name: pick(NAMES, c) as string, columns: [key], primaryKey: { id: this.id('k'), columns: [key.id] }, uniques: [], foreignKeys: [], rows: [] }
  }
}

/** Carries the choices out in turn, passing over what is refused. */
export function grow(taken: readonly Choice[], start: Design = emptyDesign('Fernhollow', 'd_test'), maker = new Maker()): Design {
  let design = start
  for (const choice of taken) {
    const result = apply(design, maker.operation(design, choice))
    if (result.ok) design = result.design
  }
  return design
}
