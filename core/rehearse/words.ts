import { columnOf, columnsIn, fold, fullName, keyOf, tableOf } from '../design/directory.ts'
import { showExpression } from '../design/expressions.ts'
import type { Action, Design, ForeignKey, Row, Table, TableId } from '../design/model.ts'
import { listed } from '../design/words.ts'
import { counted } from '../naming/words.ts'
import { rowLabel } from '../relate/label.ts'
import type { Effect, EffectKind, TrialRefusal, Rehearsed, TrialStatement } from './trial.ts'

/** What becomes of a row, in a word. */
export const EFFECT_WORDS: Record<EffectKind, string> = {
  deleted: 'deleted',
  emptied: 'emptied',
  defaulted: 'set to its default',
  changed: 'changed',
  inserted: 'put in'
}

/** How many rows a sentence names. */
const NAMED = 3

/** A row as a person knows it: its label, as it was. */
export function sayRow(design: Design, table: TableId, row: Row | undefined): string {
  const found = tableOf(design, table)
  return found && row ? rowLabel(design, found, row) : ''
}

/** An effect in a sentence: `admission “Bramble, 2026-05-03 07:40” is deleted too: it refers to patient “Bramble”.` */
export function sayEffect(design: Design, effects: readonly Effect[], effect: Effect): string {
  const table = tableOf(design, effect.table)
  if (!table) return ''
  const row = `${table.name} “${sayRow(design, effect.table, effect.before ?? effect.after)}”`
  if (!effect.cause) return `${row} is ${EFFECT_WORDS[effect.kind]}.`
  const key = table.foreignKeys.find(({ id }) => id === effect.cause?.foreignKey)
  const above = effects[effect.cause.effect]
  const parent = above && tableOf(design, above.table)
  const why = parent ? `: it refers to ${parent.name} “${sayRow(design, above.table, above.before)}”` : ''
  const columns = key ? columnsOf(table, key) : ''
  switch (effect.kind) {
    case 'deleted':
      return `${row} is deleted too${why}.`
    case 'emptied':
      return `${columns} of ${row} is emptied${why}.`
    case 'defaulted':
      return `${columns} of ${row} is set to its default${why}.`
    default:
      return `${columns} of ${row} is changed too${why}.`
  }
}

/** The action by which an effect came about, as SQL calls it. */
export function termOf(
  design: Design,
  effects: readonly Effect[],
  { table, cause }: Effect
): Action | undefined {
  const key = tableOf(design, table)?.foreignKeys.find(({ id }) => id === cause?.foreignKey)
  if (!key || !cause) return undefined
  return effects[cause.effect]?.kind === 'deleted' ? key.onDelete : key.onUpdate
}

const columnsOf = (table: Table, { pairs }: ForeignKey): string =>
  columnsIn(
    table,
    pairs.map(({ column }) => column)
  )
    .map(({ name }) => name)
    .join(', ')

/** Why something was refused, in a sentence or two. */
export function sayRefusal(
  design: Design,
  { effects }: Pick<Rehearsed, 'effects'>,
  refusal: TrialRefusal
): string {
  const table = tableOf(design, refusal.table)
  if (!table) return ''
  const rows = sayRows(design, table, refusal)
  const key = table.foreignKeys.find(({ id }) => id === refusal.of)
  const above = refusal.effect === undefined ? undefined : effects[refusal.effect]
  const parent = above ? tableOf(design, above.table) : undefined
  const whom =
    parent && above ? `${parent.name} “${sayRow(design, above.table, above.before ?? above.after)}”` : ''
  const many = refusal.rows.length > 1
  switch (refusal.kind) {
    case 'reference':
      return `${whom} cannot ${above?.kind === 'deleted' ? 'be deleted' : 'be changed'}: ${rows} ${many ? 'refer' : 'refers'} to it by ${key ? columnsOf(table, key) : 'a reference'}${sayWhen(refusal)}.`
    case 'nothing':
      return `${rows} would refer by ${key ? columnsOf(table, key) : 'a reference'} to nothing that is in ${(key && tableOf(design, key.table)?.name) ?? 'the table referred to'}${sayWhen(refusal)}.`
    case 'minimum':
      return `${rows} would have none that refers to it, and is to have at least one${sayWhen(refusal)}.`
    case 'key': {
      const columns =
        keyOf(table, refusal.of ?? '')?.columns ??
        table.indexes.find(({ id }) => id === refusal.of)?.columns.map(({ column }) => column) ??
        []
      return `${rows} already ${many ? 'have' : 'has'} the same ${listed(columnsIn(table, columns).map(({ name }) => name))}, by which rows of ${table.name} are told apart.`
    }
    case 'required':
      return `${columnOf(table, refusal.of ?? '')?.name ?? 'A column'} of ${rows} would be empty, and is required.`
    case 'check': {
      const check = table.checks.find(({ id }) => id === refusal.of)
      return `${rows} would not meet ${check ? showExpression(check.condition, table.columns) : 'a check'}.`
    }
    case 'value':
      return `What is said for ${columnOf(table, refusal.of ?? '')?.name ?? 'a column'} of ${rows} does not fit its type.`
    case 'again':
      return `${rows} would be changed on the way of a change that has come through ${table.name} already, which this engine refuses.`
    case 'depth':
      return `${rows} would be reached by more steps than this engine goes.`
  }
}

function sayWhen({ when }: TrialRefusal): string {
  return when === 'at the end of the transaction' ? ' when the transaction ends' : ''
}

function sayRows(design: Design, table: Table, { rows }: TrialRefusal): string {
  const labels = rows.slice(0, NAMED).map((place) => table.rows[place])
  const known = labels.flatMap((row) => (row ? [`“${rowLabel(design, table, row)}”`] : []))
  const more = rows.length - known.length
  if (known.length === 0)
    return rows.length === 1 ? `The new ${table.name}` : counted(rows.length, table.name)
  return `${table.name} ${listed([...known, ...(more > 0 ? [`${more} more`] : [])])}`
}

/** How many rows of each table each thing happens to, in the order in which it does. */
export interface Tally {
  table: TableId
  kind: EffectKind
  step: number
  rows: number
}

/** The effects counted by step, table and kind: what a rehearsal comes to at a glance. */
export function tallyOf(effects: readonly Effect[]): Tally[] {
  const tallies = new Map<string, Tally>()
  for (const { table, kind, step } of effects) {
    const key = `${step} ${table} ${kind}`
    const tally = tallies.get(key) ?? { table, kind, step, rows: 0 }
    tally.rows++
    tallies.set(key, tally)
  }
  return [...tallies.values()].sort((a, b) => a.step - b.step)
}

/** A table by its name as a person types it, with or without its schema. */
export function tableCalled(design: Design, name: string): Table | undefined {
  const wanted = fold(name)
  return design.tables.find(
    (table) => fold(fullName(design, table)) === wanted || fold(table.name) === wanted
  )
}

/** What a statement does, as what somebody does: `delete patient “Bramble”`. */
export function sayTrial(design: Design, statement: TrialStatement): string {
  const table = tableOf(design, statement.table)
  if (!table) return ''
  if (statement.kind === 'insert') {
    const [only] = statement.rows
    return `put ${statement.rows.length === 1 && only ? `${table.name} “${rowLabel(design, table, only)}”` : counted(statement.rows.length, table.name)} in`
  }
  const rows = statement.rows
    .slice(0, NAMED)
    .map((place) => `“${sayRow(design, table.id, table.rows[place])}”`)
  const more = statement.rows.length - rows.length
  const which = `${table.name} ${listed([...rows, ...(more > 0 ? [`${more} more`] : [])])}`
  if (statement.kind === 'delete') return `delete ${which}`
  const values = Object.entries(statement.values).map(
    ([id, value]) => `${columnOf(table, id)?.name ?? ''} to ${value === null ? 'nothing' : String(value)}`
  )
  return `change ${listed(values)} in ${which}`
}
