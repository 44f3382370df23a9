import { fold } from '../design/directory.ts'
import { standFigure } from '../design/figure.ts'
import type { Design, Figure } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { checkName, checkNewIds, insertedAt, needTable, withoutAt, type Handler } from './handler.ts'
import { Refused } from './refusal.ts'

/** Figures: what rows say over the rows that refer to them. */

/** A list that is left out of the design where nothing is in it. */
function withFigures(design: Design, figures: Figure[]): Design {
  const { figures: _, ...bare } = design
  return figures.length === 0 ? bare : { ...design, figures }
}

function checkFigure(design: Design, figure: Figure): void {
  const where = { table: needTable(design, figure.table).id }
  checkName(figure.name, where)
  const isTaken = (design.figures ?? []).some(
    (each) => each.id !== figure.id && each.table === figure.table && fold(each.name) === fold(figure.name)
  )
  if (isTaken)
    throw new Refused('name-taken', `There is already a figure called ${shorten(figure.name)}.`, where)
  const stands = standFigure(design, figure)
  if (!stands.ok) throw new Refused('invalid', stands.message, where)
}

function needFigure(design: Design, id: string): { at: number; figure: Figure } {
  const at = design.figures?.findIndex((each) => each.id === id) ?? -1
  const figure = design.figures?.[at]
  if (!figure) throw new Refused('missing', 'That figure is no longer in the design.')
  return { at, figure }
}

/** What does not stand any longer when a figure is put back by undo is put back all the same. */
export const addFigure: Handler<'figure.add'> = (design, { figure, at }) => {
  checkNewIds(design, [figure.id])
  if (at === undefined) checkFigure(design, figure)
  return {
    design: withFigures(design, insertedAt(design.figures ?? [], figure, at)),
    inverse: { kind: 'figure.remove', figure: figure.id },
    touched: [figure.table]
  }
}

export const changeFigure: Handler<'figure.change'> = (design, { figure }) => {
  const { at, figure: before } = needFigure(design, figure.id)
  checkFigure(design, figure)
  return {
    design: withFigures(
      design,
      (design.figures ?? []).map((each) => (each.id === figure.id ? figure : each))
    ),
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
  const { at, figure } = needFigure(design, id)
  return {
    design: withFigures(design, withoutAt(design.figures ?? [], at)),
    inverse: { kind: 'figure.add', figure, at },
    touched: [figure.table]
  }
}
