import type { Design, Ruling } from '../design/model.ts'
import { checkNewIds, insertedAt, needTable, withoutAt, type Handler } from './handler.ts'
import { Refused } from './refusal.ts'

/** Rulings: changes of rows with a verdict, kept with the design. */

/** A list that is left out of the design where nothing is in it. */
function withRulings(design: Design, rulings: Ruling[]): Design {
  const { rulings: _, ...bare } = design
  return rulings.length === 0 ? bare : { ...design, rulings }
}

function needRuling(design: Design, id: string): { at: number; ruling: Ruling } {
  const at = design.rulings?.findIndex((each) => each.id === id) ?? -1
  const ruling = design.rulings?.[at]
  if (!ruling) throw new Refused('missing', 'That ruling is no longer in the design.')
  return { at, ruling }
}

const tablesOf = ({ statements }: Ruling): string[] => [...new Set(statements.map(({ table }) => table))]

export const addRuling: Handler<'ruling.add'> = (design, { ruling, at }) => {
  checkNewIds(design, [ruling.id])
  // What is put back by undo may name what is gone by then.
  if (at === undefined) for (const id of tablesOf(ruling)) needTable(design, id)
  return {
    design: withRulings(design, insertedAt(design.rulings ?? [], ruling, at)),
    inverse: { kind: 'ruling.remove', ruling: ruling.id },
    touched: tablesOf(ruling)
  }
}

export const changeRuling: Handler<'ruling.change'> = (design, { ruling }) => {
  const { ruling: before } = needRuling(design, ruling.id)
  const rulings = (design.rulings ?? []).map((each) => (each.id === ruling.id ? ruling : each))
  return {
    design: withRulings(design, rulings),
    inverse: { kind: 'ruling.change', ruling: before },
    touched: tablesOf(ruling)
  }
}

export const removeRuling: Handler<'ruling.remove'> = (design, { ruling: id }) => {
  const { at, ruling } = needRuling(design, id)
  return {
    design: withRulings(design, withoutAt(design.rulings ?? [], at)),
    inverse: { kind: 'ruling.add', ruling, at },
    touched: tablesOf(ruling)
  }
}
