import { standFigure } from '../design/figure.ts'
import type { Design, Figure } from '../design/model.ts'
import { needTable, type Handler } from './handler.ts'
import { checkMemberName, needMember, withMember, withOther, withoutMember } from './members.ts'
import { Refused } from './refusal.ts'

/** Figures: what rows say over the rows that refer to them. */

function checkFigure(design: Design, figure: Figure): void {
  const where = { table: needTable(design, figure.table).id }
  checkMemberName(design, 'figure', figure, ({ table }) => table === figure.table)
  const stands = standFigure(design, figure)
  if (!stands.ok) throw new Refused('invalid', stands.message, where)
}

/** What does not stand any longer when a figure is put back by undo is put back all the same. */
export const addFigure: Handler<'figure.add'> = (design, { figure, at }) => {
  if (at === undefined) checkFigure(design, figure)
  return {
    design: withMember(design, 'figure', figure, at),
    inverse: { kind: 'figure.remove', figure: figure.id },
    touched: [figure.table]
  }
}

export const changeFigure: Handler<'figure.change'> = (design, { figure }) => {
  const { at, part: before } = needMember(design, 'figure', figure.id)
  checkFigure(design, figure)
  return {
    design: withOther(design, 'figure', figure),
    inverse: {
      kind: 'batch',
      operations: [
        { kind: 'figure.remove', figure: figure.id },
        { kind: 'figure.add', figure: before, at }
      ]
    },
    touched: [figure.table, before.table]
  }
}

export const removeFigure: Handler<'figure.remove'> = (design, { figure: id }) => {
  const { at, part: figure } = needMember(design, 'figure', id)
  return {
    design: withoutMember(design, 'figure', id),
    inverse: { kind: 'figure.add', figure, at },
    touched: [figure.table]
  }
}
