import { tableOf } from '../../design/directory.ts'
import type { Design, Table } from '../../design/model.ts'
import { judgedSoon, sayBroken, type Judgement } from '../../rehearse/ruling.ts'
import type { Found, Rule } from '../finding.ts'

/**
 * A ruling that the design does not keep to, or that cannot be tried any longer, told of where it begins; over many rows,
 * once it has been judged.
 */
export const brokenRuling: Rule = {
  name: 'broken ruling',
  others: (design, table) => JSON.stringify(brokenOn(design, table).map(({ message }) => message)),
  find: (table, { design }) =>
    brokenOn(design, table).map(({ judgement: { ruling, untried }, message }): Found => ({
      severity: untried === undefined ? 'wrong' : 'doubtful',
      message,
      fix: {
        label: 'Remove the ruling',
        operation: { kind: 'ruling.remove', ruling: ruling.id }
      }
    }))
}

function brokenOn(design: Design, table: Table): { judgement: Judgement; message: string }[] {
  return (judgedSoon(design) ?? []).flatMap((judgement) => {
    const why = placeOf(design, judgement) === table.id ? sayBroken(design, judgement) : undefined
    const message = `The ruling “${judgement.ruling.says}” is not kept to. ${why ?? ''}`
    return why === undefined ? [] : [{ judgement, message }]
  })
}

/** The table that it is told of on: the first that it names and that is there. */
function placeOf(design: Design, { ruling }: Judgement): string | undefined {
  const named = ruling.statements.find(({ table }) => tableOf(design, table) !== undefined)
  return named?.table ?? design.tables[0]?.id
}
