import { columnsIn, generatedColumn, namesIn } from '../design/directory.ts'
import type { Design, Key, Table } from '../design/model.ts'
import { junctionSides } from '../relate/junction.ts'
import { generatedInstead, switchKey } from './another-key.ts'
import { answerTo, type ChangeOfMind, type OptionQuestion, type ChangeOffer } from './change.ts'
import { leaveOld } from './how-many.ts'
import { mustBeKey, rekey } from './rekey.ts'
import { restructure, stuck } from './restructuring.ts'

/** What a table goes by: a generated number, or something that says what it is; and everything that refers to it. */
export const anotherKey: ChangeOfMind = (design, { table, foreignKey }) => {
  if (foreignKey || table.external || !table.primaryKey) return []
  return [...numberOffer(design, table), ...table.uniques.flatMap((key) => uniqueOffer(design, table, key))]
}

function numberOffer(design: Design, table: Table): ChangeOffer[] {
  const own = namesIn(table, table.primaryKey?.columns ?? [])
  const generated = generatedColumn(table)
  if (generated && table.primaryKey?.columns.includes(generated.id)) return []
  const isPair = junctionSides(table).length >= 2
  return [
    {
      kind: 'generated key',
      says: `Each ${table.name} goes by a number of its own, and ${own} ${own.includes(',') ? 'are' : 'is'} still there only once.`,
      term: isPair ? 'a junction gets its own key' : 'a natural key replaced by a generated one',
      asks: [],
      operation: () => generatedInstead(design, table)
    }
  ]
}

function uniqueOffer(design: Design, table: Table, unique: Key): ChangeOffer[] {
  const columns = columnsIn(table, unique.columns)
  if (columns.some(({ required, computed }) => !required || computed !== undefined)) return []
  const isPair = isPairOf(table, unique)
  const old: OptionQuestion = {
    id: 'old',
    kind: 'choice',
    asks: `What becomes of ${namesIn(table, table.primaryKey?.columns ?? [])}`,
    proposed: 'unique',
    options: [
      { value: 'unique', words: 'it stays, unique by itself' },
      { value: 'gone', words: 'it goes, where it is a number that nothing else needs' }
    ]
  }
  const names = namesIn(table, unique.columns)
  return [
    {
      kind: isPair ? 'pair as key' : 'natural key',
      says: `Each ${table.name} goes by its ${names}.`,
      term: isPair ? 'a junction loses its own key' : 'a generated key replaced by a natural one',
      asks: [old],
      operation: (answers) => {
        if (answerTo(old, answers) === 'unique') return switchKey(design, table, unique)
        return restructure(design, `let ${table.name} go by ${names}`, (restructuring) => {
          const key = table.primaryKey ?? stuck(`${table.name} has no key.`)
          mustBeKey(restructuring, table, unique.columns)
          rekey(restructuring, table.id, key.id, unique.columns)
          leaveOld(restructuring, table, key.columns)
        })
      }
    }
  ]
}

/** Whether a key holds the sides of a junction, with or without something beside them. */
function isPairOf(table: Table, { columns }: Key): boolean {
  const sides = junctionSides(table).flatMap(({ pairs }) => pairs.map(({ column }) => column))
  return sides.length > 0 && sides.every((id) => columns.includes(id))
}
