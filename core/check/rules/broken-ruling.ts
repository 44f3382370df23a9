import { tableOf } from '../../design/directory.ts'
import type { Design, TableId } from '../../design/model.ts'
import { judgedSoon, sayBroken, type Judgement } from '../../rehearse/ruling.ts'
import type { Found, Rule } from '../finding.ts'

/**
 * A ruling that the design does not keep to, or that cannot be tried any longer, told of where it begins; over many rows,
 * once it has been judged.
 */
export const brokenRuling: Rule = {
  name: 'broken ruling',
  find: ({ id }, { ask }) => ask(brokenOn, id)
}

function brokenOn(design: Design, table: TableId): Found[] {
  return (judgedSoon(design) ?? []).flatMap((judgement) => {
    const { ruling, untried } = judgement
    const why = placeOf(design, judgement) === table ? sayBroken(design, judgement) : undefined
    if (why === undefined) return []
    return [
      {
        severity: untried === undefined ? 'wrong' : 'doubtful',
        message: `The ruling “${ruling.says}” is not kept to. ${why}`,
        fix: { label: 'Remove the ruling', operation: { kind: 'ruling.remove', ruling: ruling.id } }
      }
    ]
  })
}

/** The table that it is told of on: the first that it names and that is there. */
function placeOf(design: Design, { ruling }: Judgement): string | undefined {
  const named = ruling.statements.find(({ table }) => tableOf(design, table) !== undefined)
  return named?.table ?? design.tables[0]?.id
}
