import { isMoment, defaultFits, defaultText } from '../design/default.ts'
import { referencesTo } from '../design/directory.ts'
import { sortOfType } from '../design/expressions.ts'
import type { Column, Design, Table } from '../design/model.ts'
import { sameType, shorten, typeText } from '../design/type.ts'
import { fits } from '../design/value.ts'
import { listed } from '../design/words.ts'
import { expressionUses } from './expression-uses.ts'
import { needColumn, needTable, withColumn, withTable, without } from './handler.ts'
import type { Handler, Operation } from './operation.ts'
import { Refused } from './refusal.ts'
import { flawOfExpressions } from '../design/integrity-columns.ts'

/** Another type for a column, and for those that follow it, where its default, its rows and what names it allow it. */

export const retypeColumn: Handler<'column.retype'> = (
  design,
  { table: id, column: columnId, type, follow = true }
) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  const where = { table: id, column: columnId }
  if (follow) {
    const leader = leaderOf(design, table, columnId)
    if (leader && !sameType(leader.column.type, type)) {
      throw new Refused(
        'type-mismatch',
        `${column.name} refers to ${leader.table.name} and has the type of its key, ${typeText(leader.column.type, design.enums)}. Change the type there and it follows.`,
        where,
        [
          {
            label: `Change ${leader.table.name}.${leader.column.name} to ${typeText(type, design.enums)}`,
            operation: { kind: 'column.retype', table: leader.table.id, column: leader.column.id, type }
          }
        ]
      )
    }
    const followers = followersOf(design, table, columnId).filter((each) => !sameType(each.column.type, type))
    if (followers.length > 0) {
      const changes = [{ table, column }, ...followers]
      return {
        instead: changes.map((each): Operation => ({
          kind: 'column.retype',
          table: each.table.id,
          column: each.column.id,
          type,
          follow: false
        }))
      }
    }
  }
  if (type.kind === 'enum' && !design.enums.some((each) => each.id === type.enum))
    throw new Refused('missing', 'That list of values is no longer in the design.', where)
  const said = typeText(type, design.enums)
  checkExpressions(design, table, column, { ...column, type })
  if (!defaultFits(column.default, type, design.enums)) {
    throw new Refused(
      'does-not-fit',
      `The default ${shorten(defaultText(column.default, column.type))} of ${column.name} does not fit ${said}.`,
      where,
      [
        {
          label: `Remove the default and make it ${said}`,
          operation: {
            kind: 'batch',
            label: `make ${column.name} ${said}`,
            operations: [
              { kind: 'column.setDefault', ...where, default: null },
              { kind: 'column.retype', ...where, type }
            ]
          }
        }
      ]
    )
  }
  if (column.renewed && !isMoment(type)) {
    throw new Refused(
      'does-not-fit',
      `${column.name} becomes the present moment with each change of its row, which ${said} does not hold.`,
      where,
      [
        {
          label: `No longer renew it and make it ${said}`,
          operation: {
            kind: 'batch',
            label: `make ${column.name} ${said}`,
            operations: [
              { kind: 'column.renew', ...where, renewed: null },
              { kind: 'column.retype', ...where, type }
            ]
          }
        }
      ]
    )
  }
  const misfit = table.rows.findIndex((row) => !fits(row[columnId] ?? null, type, design.enums))
  if (misfit >= 0) {
    const kept = table.rows.map((row) =>
      fits(row[columnId] ?? null, type, design.enums) ? row : without(row, columnId)
    )
    throw new Refused(
      'does-not-fit',
      `Row ${misfit + 1} of ${table.name} holds ${shorten(JSON.stringify(table.rows[misfit]?.[columnId]))}, which does not fit ${said}.`,
      where,
      [
        {
          label: 'Empty the values that do not fit',
          operation: {
            kind: 'batch',
            label: `make ${column.name} ${said}`,
            operations: [
              { kind: 'table.setRows', table: id, rows: kept },
              { kind: 'column.retype', ...where, type }
            ]
          }
        }
      ]
    )
  }
  return {
    design: withTable(design, id, (t) => withColumn(t, columnId, (c) => ({ ...c, type }))),
    inverse: { kind: 'column.retype', ...where, type: column.type, follow: false },
    touched: [id]
  }
}

interface Place {
  table: Table
  column: Column
}

/** The key column that a foreign key column takes its type from. */
function leaderOf(design: Design, table: Table, columnId: string): Place | undefined {
  for (const foreignKey of table.foreignKeys) {
    const pair = foreignKey.pairs.find((each) => each.column === columnId)
    if (!pair || (foreignKey.table === table.id && pair.refersTo === columnId)) continue
    const parent = needTable(design, foreignKey.table)
    return { table: parent, column: needColumn(parent, pair.refersTo) }
  }
  return undefined
}

/** Every column that takes its type from this one, near and far. */
function followersOf(design: Design, table: Table, columnId: string): Place[] {
  const found = new Map<string, Place>()
  const visit = (from: Table, id: string): void => {
    for (const reference of referencesTo(design, from.id)) {
      const pair = reference.foreignKey.pairs.find((each) => each.refersTo === id)
      if (!pair || pair.column === columnId || found.has(pair.column)) continue
      found.set(pair.column, { table: reference.table, column: needColumn(reference.table, pair.column) })
      visit(reference.table, pair.column)
    }
  }
  visit(table, columnId)
  return [...found.values()]
}

/** What names the column in an expression must still make sense when it has another type. */
function checkExpressions(design: Design, table: Table, before: Column, after: Column): void {
  if (
    sortOfType(before.type) === sortOfType(after.type) &&
    before.type.kind !== 'enum' &&
    after.type.kind !== 'enum'
  )
    return
  const columns = table.columns.map((column) => (column === before ? after : column))
  const broken = flawOfExpressions(design, { ...table, columns })
  if (!broken) return
  const uses = expressionUses(table, before.id)
  throw new Refused(
    'in-use',
    `${before.name} cannot be ${typeText(after.type, design.enums)} while ${listed(uses.says) || 'it is computed'} says what it does: ${broken}`,
    { table: table.id, column: before.id },
    uses.says.length === 0
      ? []
      : [
          {
            label: `Remove ${listed(uses.says)} and change the type`,
            operation: {
              kind: 'batch',
              label: `make ${before.name} ${typeText(after.type, design.enums)}`,
              operations: [
                ...uses.removals,
                { kind: 'column.retype', table: table.id, column: before.id, type: after.type }
              ]
            }
          }
        ]
  )
}
