import { carrySchema } from '../design/carry.ts'
import { idSchema } from '../design/ids.ts'
import { checkNewIds, withoutAt } from './handler.ts'
import { kind, noun, type Handler, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Carries: rows that go from one table to another with a change. */

const KINDS = [
  kind('carry.add', { carry: carrySchema }, () => 'carry rows'),
  kind('carry.remove', { carry: idSchema }, () => 'carry no rows')
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const addCarry: Handler<'carry.add'> = (design, { carry }) => {
  checkNewIds(design, [carry.id])
  return {
    design: { ...design, carries: [...design.carries, carry] },
    inverse: { kind: 'carry.remove', carry: carry.id },
    touched: []
  }
}

const removeCarry: Handler<'carry.remove'> = (design, { carry: id }) => {
  const at = design.carries.findIndex((carry) => carry.id === id)
  const carry = design.carries[at]
  if (!carry) throw new Refused('missing', 'That carry is no longer in the design.')
  if (at < design.carries.length - 1) {
    // A carry is undone in its turn; taken out of the middle, those after it are put back behind it.
    const after = design.carries.slice(at + 1)
    return {
      design: { ...design, carries: withoutAt(design.carries, at) },
      inverse: {
        kind: 'batch',
        operations: [
          ...after.map((each) => ({ kind: 'carry.remove' as const, carry: each.id })).reverse(),
          { kind: 'carry.add', carry },
          ...after.map((each) => ({ kind: 'carry.add' as const, carry: each }))
        ]
      },
      touched: []
    }
  }
  return {
    design: { ...design, carries: withoutAt(design.carries, at) },
    inverse: { kind: 'carry.add', carry },
    touched: []
  }
}

export const CARRY = noun(KINDS, { 'carry.add': addCarry, 'carry.remove': removeCarry })
