import type { ExpressionContext } from '../design/expressions.ts'
import { readExpression, showExpression } from '../design/expressions.ts'
import { columnsIn } from '../design/directory.ts'
import {
  COMMANDS,
  newId,
  type Check,
  type Design,
  type Index,
  type RowPolicy,
  type Table,
  mayWrite
} from '../design/model.ts'
import type { Parsed } from '../design/type.ts'
import { plainName } from '../sql/print.ts'
import type { Operation } from '../edit/operation.ts'

/**
 * The rules of a table that are written as a line of text: what they are called there, and how they begin.
 */
export const RULE_KINDS = ['check', 'index', 'rowPolicy'] as const
export type RuleKind = (typeof RULE_KINDS)[number]
export type RuleOf = { check: Check; index: Index; rowPolicy: RowPolicy }

/** A rule as a person reads and types it; {@link readRule} reads it back. */
export function ruleText<K extends RuleKind>(kind: K, table: Table, rule: RuleOf[K]): string {
  if (kind === 'check') {
    const { condition, everywhere } = rule as Check
    return `${showExpression(condition, table.columns)}${everywhere ? ' everywhere' : ''}`
  }
  if (kind === 'rowPolicy') {
    const { name, command, role, condition, writes } = rule as RowPolicy
    const second = writes === undefined ? '' : ` writing ${showExpression(writes, table.columns)}`
    return `${plainName(name)} for ${command.toLowerCase()}${role === undefined ? '' : ` to ${plainName(role)}`}: ${showExpression(condition, table.columns)}${second}`
  }
  const { columns, unique, where, everywhere } = rule as Index
  const names = columns.map(
    ({ column, descending }) =>
      `${columnsIn(table, [column])
        .map((each) => plainName(each.name))
        .join('')}${descending ? ' desc' : ''}`
  )
  const condition = where === undefined ? '' : ` where ${showExpression(where, table.columns)}`
  return `${unique ? 'unique ' : ''}${names.join(', ')}${condition}${everywhere ? ' everywhere' : ''}`
}

/** Reads a rule as typed. With `before` it keeps the id and the name that are there. */
export function readRule<K extends RuleKind>(
  kind: K,
  design: Design,
  table: Table,
  text: string,
  before?: RuleOf[K]
): Parsed<RuleOf[K]> {
  const read = kind === 'check' ? readCheck : kind === 'index' ? readIndex : readRowPolicy
  return (read as (design: Design, table: Table, text: string, before?: RuleOf[K]) => Parsed<RuleOf[K]>)(
    design,
    table,
    text.trim(),
    before
  )
}

function readCheck(design: Design, table: Table, text: string, before?: Check): Parsed<Check> {
  const [, said = text, everywhere] = /^(.*?)(\s+everywhere)?$/is.exec(text) ?? []
  const condition = readExpression(said, { columns: table.columns, enums: design.enums })
  if (!condition.ok) return condition
  const { everywhere: _, ...rest } = before ?? { id: newId('x') }
  return {
    ok: true,
    value: {
      ...rest,
      condition: condition.value,
      ...(everywhere !== undefined && { everywhere: true as const })
    }
  }
}

function readIndex(design: Design, table: Table, text: string, before?: Index): Parsed<Index> {
  const [, unique, list = '', condition, everywhere] =
    /^(unique\s+)?(.*?)(?:\s+where\s+(.*?)(\s+everywhere)?)?$/is.exec(text) ?? []
  const columns: Index['columns'] = []
  for (const part of list.split(',').map((each) => each.trim())) {
    const [, name = '', direction = ''] = /^(.*?)(?:\s+(asc|desc))?$/is.exec(part) ?? []
    const plain = name.replace(/^"(.*)"$/s, '$1').replaceAll('""', '"')
    const column = table.columns.find((each) => each.name.toLowerCase() === plain.toLowerCase())
    if (!column)
      return {
        ok: false,
        message:
          plain === ''
            ? 'Say which columns: ward_code, pen_no desc'
            : `${table.name} has no column called ${plain}.`
      }
    columns.push({ column: column.id, descending: direction.toLowerCase() === 'desc' })
  }
  const where =
    condition === undefined
      ? undefined
      : readExpression(condition, { columns: table.columns, enums: design.enums })
  if (where && !where.ok) return where
  return {
    ok: true,
    value: {
      id: before?.id ?? newId('i'),
      name: before?.name,
      columns,
      unique: unique !== undefined,
      where: where?.value,
      ...(everywhere !== undefined && { everywhere: true as const })
    }
  }
}

function readRowPolicy(design: Design, table: Table, text: string, before?: RowPolicy): Parsed<RowPolicy> {
  const [, quoted, plain, word = '', quotedRole, plainRole, condition] =
    /^(?:"([^"]+)"|([^\s:"]+))\s+for\s+(\w+)(?:\s+to\s+(?:"([^"]+)"|([^\s:"]+)))?\s*:\s*(.+)$/is.exec(text) ??
    []
  const name = quoted ?? plain
  const command = COMMANDS.find((each) => each === word.toUpperCase())
  if (name === undefined || condition === undefined || !command)
    return {
      ok: false,
      message:
        "A row policy is written as: own_ward for select to ward_staff: ward_code = 'ICU'. The command is all, select, insert, update or delete; the role may be left out. For update and all, writing and a second condition say which rows may be left behind."
    }
  const read = readConditions(condition, { columns: table.columns, enums: design.enums, moments: true })
  if (!read.ok) return read
  const { found, writes } = read.value
  if (writes !== undefined && !mayWrite({ command }))
    return {
      ok: false,
      message: `A row policy for ${command.toLowerCase()} has one condition; one for update or all may say what it writes as well.`
    }
  const role = quotedRole ?? plainRole
  return {
    ok: true,
    value: {
      id: before?.id ?? newId('p'),
      name,
      command,
      ...(role !== undefined && { role }),
      condition: found,
      ...(writes !== undefined && { writes })
    }
  }
}

/** One condition, or two with `writing` between: which rows are found, and which may be left behind. */
function readConditions(
  text: string,
  reading: ExpressionContext
): Parsed<{ found: string; writes?: string }> {
  const whole = readExpression(text, reading)
  if (whole.ok) return { ok: true, value: { found: whole.value } }
  for (const { 0: between, index } of text.matchAll(/\swriting\s/gi)) {
    const found = readExpression(text.slice(0, index), reading)
    if (!found.ok) continue
    const writes = readExpression(text.slice(index + between.length), reading)
    return writes.ok ? { ok: true, value: { found: found.value, writes: writes.value } } : writes
  }
  return whole
}

/** What adds, changes or removes a rule. */
export function ruleOperation<K extends RuleKind>(
  kind: K,
  does: 'add' | 'change',
  table: string,
  rule: RuleOf[K]
): Operation {
  return { kind: `${kind}.${does}`, table, [kind]: rule } as unknown as Operation
}
export const ruleRemoval = (kind: RuleKind, table: string, id: string): Operation =>
  ({ kind: `${kind}.remove`, table, [kind]: id }) as unknown as Operation
