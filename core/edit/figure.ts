import { standFigure } from '../design/figure.ts'
import { figureSchema, type Design, type Figure } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { needTable } from './handler.ts'
import { checkMemberName, handledInDesign, inDesign } from './member.ts'
import { noun, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Figures: what rows say over the rows that refer to them. */

const KINDS = inDesign('figure', figureSchema, {
  add: (figure, called) => `let ${called.table(figure.table)} say ${shorten(figure.name)}`,
  change: (figure, called) => `change the figure ${shorten(figure.name)} of ${called.table(figure.table)}`,
  remove: () => 'remove a figure'
})

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

function check(design: Design, figure: Figure): void {
  const where = { table: needTable(design, figure.table).id }
  checkMemberName(design, 'figure', figure, ({ table }) => table === figure.table)
  const stands = standFigure(design, figure)
  if (!stands.ok) throw new Refused('invalid', stands.message, where)
}

export const FIGURE = noun(
  KINDS,
  handledInDesign('figure', { check, isPutBackUnchecked: true, touches: ({ table }) => [table] })
)
