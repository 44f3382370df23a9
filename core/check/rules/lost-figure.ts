import { standFigure } from '../../design/figure.ts'
import type { Design, TableId } from '../../design/model.ts'
import type { Found, Rule } from '../finding.ts'

/** A figure that says nothing any longer, since what it is over is gone or changed. */
export const lostFigure: Rule = {
  name: 'figure that says nothing',
  find: (table, { ask }) =>
    ask(lost, table.id).map(({ id, name, why }): Found => ({
      severity: 'wrong',
      message: `${table.name} is to say ${name}, and cannot: ${why}`,
      fix: { label: `Remove the figure ${name}`, operation: { kind: 'figure.remove', figure: id } }
    }))
}

function lost(design: Design, table: TableId): { id: string; name: string; why: string }[] {
  return (design.figures ?? []).flatMap((figure) => {
    if (figure.table !== table) return []
    const stands = standFigure(design, figure)
    return stands.ok ? [] : [{ id: figure.id, name: figure.name, why: stands.message }]
  })
}
