import { z } from 'zod'
import { idSchema } from '../design/ids.ts'
import type { SetAside } from '../design/model.ts'
import { needTable } from './handler.ts'
import { kind, noun, type Handler, type OperationsOf } from './operation.ts'

/** Findings that were read and let stand. */

const KINDS = [
  /** Lets a finding stand, with the reason; null: it is told of again. */
  kind(
    'finding.setAside',
    {
      rule: z.string().min(1).max(120),
      table: idSchema,
      column: idSchema.optional(),
      reason: z.string().trim().min(1).max(300).nullable()
    },
    ({ table, reason }, called) =>
      reason === null
        ? `take up a finding on ${called.table(table)} again`
        : `set a finding on ${called.table(table)} aside`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

/** They stand in the order of their places, whatever was set aside first. */
const setAside: Handler<'finding.setAside'> = (design, { rule, table, column, reason }) => {
  needTable(design, table)
  const placeOf = (each: Pick<SetAside, 'rule' | 'table' | 'column'>): string =>
    [each.table, each.column ?? '', each.rule].join(' ')
  const place = placeOf({ rule, table, column })
  const all = design.setAside ?? []
  const before = all.find((each) => placeOf(each) === place)
  const others = all.filter((each) => each !== before)
  const said: SetAside[] = reason === null ? [] : [{ rule, table, ...(column && { column }), reason }]
  const next = [...others, ...said].sort((a, b) => (placeOf(a) < placeOf(b) ? -1 : 1))
  const { setAside: _, ...bare } = design
  return {
    design: next.length === 0 ? bare : { ...bare, setAside: next },
    inverse: { kind: 'finding.setAside', rule, table, column, reason: before?.reason ?? null },
    touched: [table]
  }
}

export const FINDING = noun(KINDS, { 'finding.setAside': setAside })
