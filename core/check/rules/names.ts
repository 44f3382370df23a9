import { namesOfTables, policyOf } from '../../design/directory.ts'
import type { Table } from '../../design/model.ts'
import { fitName, KEPT_BEFORE, nameLength } from '../../naming/fit.ts'
import { freeName, inCase } from '../../naming/names.ts'
import { plural } from '../../naming/words.ts'
import type { Dialect } from '../../dialect/dialect.ts'
import { titles, type Finding, type Rule, type RuleContext } from '../finding.ts'

/**
 * In how many dialects a word must be reserved to be told of where a design does not say what it is
 * written for.
 */
const COMMON = 3

type Found = Omit<Finding, 'rule' | 'table'>
interface Named {
  name: string
  column?: string
  rename(to: string): Found['fix']
}

/** Names that an engine cuts, keeps for itself, refuses without quotes, or takes no characters of. */
export const namesFit: Rule = {
  name: 'name',
  find: (table, context) =>
    named(table).flatMap((each) => [
      ...tooLong(table, each, context),
      ...keptBack(table, each, context),
      ...reserved(table, each, context),
      ...characters(each, context)
    ])
}

function named(table: Table): Named[] {
  return [
    {
      name: table.name,
      rename: (to) => ({
        label: `Rename it to ${to}`,
        operation: { kind: 'table.rename', table: table.id, name: to }
      })
    },
    ...table.columns.map((column): Named => ({
      name: column.name,
      column: column.id,
      rename: (to) => ({
        label: `Rename it to ${to}`,
        operation: { kind: 'column.rename', table: table.id, column: column.id, name: to }
      })
    }))
  ]
}

const at = ({ column }: Named): { column?: string } => (column === undefined ? {} : { column })

/**
 * The name with words left off its end until every limit is kept; cut anywhere only where one word is too
 * long by itself.
 */
function shortened(name: string, limits: readonly { most: number; of: 'bytes' | 'characters' }[]): string {
  const fits = (text: string): boolean => limits.every((limit) => nameLength(text, limit.of) <= limit.most)
  let short = name
  while (!fits(short)) {
    const end = Math.max(short.lastIndexOf('_'), short.lastIndexOf(' '))
    if (end <= 0) return limits.reduce((text, limit) => fitName(text, limit), name)
    short = short.slice(0, end).trimEnd()
  }
  return short
}

function tooLong(table: Table, each: Named, { dialects, ask }: RuleContext): Found[] {
  // No name of so few characters is too long for any engine.
  if (each.name.length <= 15) return []
  const limits = dialects.flatMap((dialect) =>
    dialect.facts.nameLimit &&
    nameLength(each.name, dialect.facts.nameLimit.of) > dialect.facts.nameLimit.most
      ? [{ dialect, limit: dialect.facts.nameLimit }]
      : []
  )
  const [tightest] = [...limits].sort((a, b) => a.limit.most - b.limit.most)
  if (!tightest) return []
  const cut = limits.reduce((name, { limit }) => fitName(name, limit), each.name)
  const short = freeName(
    shortened(
      each.name,
      limits.map(({ limit }) => limit)
    ),
    each.column === undefined ? ask(namesOfTables) : table.columns.map((one) => one.name)
  )
  return [
    {
      severity: 'doubtful',
      ...at(each),
      dialects: limits.map(({ dialect }) => dialect.name),
      message: `The name ${each.name.slice(0, 30)}… is too long for ${titles(limits.map(({ dialect }) => dialect))} (${tightest.limit.most} ${tightest.limit.of}): it is cut to ${cut.slice(0, 24)}….`,
      fix: each.rename(short)
    }
  ]
}

function reserved(table: Table, each: Named, { dialects, named: chosen, ask }: RuleContext): Found[] {
  const word = each.name.toLowerCase()
  const against = dialects.filter((dialect: Dialect) => dialect.facts.reserved.has(word))
  if (against.length < (chosen ? 1 : COMMON)) return []
  const other =
    each.column === undefined
      ? plural(each.name)
      : inCase(`${table.name}_${each.name}`, ask(policyOf).letterCase)
  const free =
    each.column === undefined
      ? freeName(other === each.name ? `${each.name}_list` : other, ask(namesOfTables))
      : freeName(
          other,
          table.columns.map((one) => one.name)
        )
  return [
    {
      severity: 'doubtful',
      ...at(each),
      dialects: against.map((dialect) => dialect.name),
      message: `${each.name} is a word of SQL's own in ${titles(against)}: every query must put it in quotes.`,
      fix: each.rename(free)
    }
  ]
}

/**
 * What the engine keeps for itself is written otherwise by the writers; every query would have to know
 * that.
 */
function keptBack(table: Table, each: Named, { dialects, ask }: RuleContext): Found[] {
  const against = dialects.filter((dialect) =>
    dialect.facts.kept?.[each.column === undefined ? 'table' : 'column']?.test(each.name)
  )
  if (against.length === 0) return []
  const free =
    each.column === undefined
      ? freeName(KEPT_BEFORE + each.name, ask(namesOfTables))
      : freeName(
          inCase(`${table.name}_${each.name}`, ask(policyOf).letterCase),
          table.columns.map((one) => one.name)
        )
  return [
    {
      severity: 'doubtful',
      ...at(each),
      dialects: against.map((dialect) => dialect.name),
      message: `${titles(against)} ${against.length === 1 ? 'keeps' : 'keep'} the name ${each.name} for ${against.length === 1 ? 'itself' : 'themselves'}: it is written as ${KEPT_BEFORE}${each.name}.`,
      fix: each.rename(free)
    }
  ]
}

function characters(each: Named, { dialects }: RuleContext): Found[] {
  const against = dialects.filter(
    (dialect) => dialect.facts.refusedInNames && each.name.search(dialect.facts.refusedInNames) >= 0
  )
  if (against.length === 0) return []
  return [
    {
      severity: 'doubtful',
      ...at(each),
      dialects: against.map((dialect) => dialect.name),
      message: `${titles(against)} ${against.length === 1 ? 'takes' : 'take'} some characters of ${each.name.slice(0, 30)} in no name: they are written as numbers.`
    }
  ]
}
