import { columnOf, fullName, tableOf } from '../design/directory.ts'
import type { Column, Copied, Design, Table } from '../design/model.ts'
import { sameType, type Type } from '../design/type.ts'
import type { Speech } from './speech.ts'
import type { Keeping } from './trigger.ts'

/** What a column is kept in. */
interface Place {
  design: Design
  table: Table
  column: Column
  speech: Speech
  /** The type as the dialect writes it. */
  typeSql(type: Type): string
}

/** What sees to a column that the database is to renew or to copy; undefined where it is not to. */
export function keepingOf(place: Place): Keeping | undefined {
  const { table, column, speech } = place
  if (table.external) return undefined
  if (column.renewed === 'database') {
    const now = speech.now(column.type)
    if (speech.renewsInColumn?.(column.type)) return { by: 'column', now }
    return whyNoTrigger(place) ?? { by: 'trigger', does: { kind: 'renews', now } }
  }
  return column.copied?.byTrigger ? copying(place, column.copied) : undefined
}

function copying(place: Place, copied: Copied): Keeping {
  const { design, table, column, speech } = place
  const { fillsRequired, readsOwn } = speech.facts.triggers
  const foreignKey = table.foreignKeys.find(({ id }) => id === copied.foreignKey)
  const source = foreignKey && tableOf(design, foreignKey.table)
  const taken = source && columnOf(source, copied.column)
  if (!taken) return nothing('what it is copied from is not there')
  const from = `${fullName(design, source)}.${taken.name}`
  if (!sameType(taken.type, column.type)) return nothing(`${from} is of another type`)
  if (foreignKey.pairs.some((pair) => pair.column === column.id))
    return nothing('what it is copied by is the column itself')
  if (column.default) return nothing('it begins with its default, so that nothing is left to be copied')
  if (source.id === table.id && !readsOwn)
    return nothing(`a trigger of ${speech.facts.title} may not read the table that it is on`)
  const { neverCompared } = speech.facts
  if (neverCompared?.test(place.typeSql(column.type)))
    return nothing(`${column.name} has no length, and ${speech.facts.title} cannot tell whether it changes`)
  return (
    whyNoTrigger(place) ?? {
      by: 'trigger',
      does: {
        kind: 'copies',
        by: foreignKey.pairs.map((pair) => pair.column),
        table: source.id,
        refersTo: foreignKey.pairs.map((pair) => pair.refersTo),
        takes: taken.id,
        again: copied.again === true,
        fixed: copied.fixed === true,
        fills: fillsRequired || !column.required
      }
    }
  )
}

/** Why no trigger at all can be made on the table. */
function whyNoTrigger({ table, speech }: Place): Keeping | undefined {
  const { lacks, needKey } = speech.facts.triggers
  if (lacks !== undefined) return nothing(lacks)
  if (needKey && !table.primaryKey)
    return nothing(`a trigger of ${speech.facts.title} knows rows by their key, and ${table.name} has none`)
  return undefined
}

const nothing = (why: string): Keeping => ({ by: 'nothing', why })
