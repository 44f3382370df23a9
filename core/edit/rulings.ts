import type { Ruling } from '../design/model.ts'
import { needTable, type Handler } from './handler.ts'
import { needMember, withMember, withOther, withoutMember } from './members.ts'

/** Rulings: changes of rows with a verdict, kept with the design. */

const tablesOf = ({ statements }: Ruling): string[] => [...new Set(statements.map(({ table }) => table))]

export const addRuling: Handler<'ruling.add'> = (design, { ruling, at }) => {
  // What is put back by undo may name what is gone by then.
  if (at === undefined) for (const id of tablesOf(ruling)) needTable(design, id)
  return {
    design: withMember(design, 'ruling', ruling, at),
    inverse: { kind: 'ruling.remove', ruling: ruling.id },
    touched: tablesOf(ruling)
  }
}

export const changeRuling: Handler<'ruling.change'> = (design, { ruling }) => {
  const { part: before } = needMember(design, 'ruling', ruling.id)
  return {
    design: withOther(design, 'ruling', ruling),
    inverse: { kind: 'ruling.change', ruling: before },
    touched: tablesOf(ruling)
  }
}

export const removeRuling: Handler<'ruling.remove'> = (design, { ruling: id }) => {
  const { at, part: ruling } = needMember(design, 'ruling', id)
  return {
    design: withoutMember(design, 'ruling', id),
    inverse: { kind: 'ruling.add', ruling, at },
    touched: tablesOf(ruling)
  }
}
