import { fold } from '../design/directory.ts'
import type { Design } from '../design/model.ts'
import { kindOf, type PartName, type PartTypes } from '../design/parts/all.ts'
import { idOf, membersOf, withMembers } from '../design/parts/held.ts'
import { shorten } from '../design/type.ts'
import { checkName, checkNewIds, insertedAt, withoutAt } from './handler.ts'
import { Refused } from './refusal.ts'

/** Parts that a design holds in a list, each with an id: they are added, changed and removed alike. */

/** The design with one more part of a kind, at a place or behind the others. */
export function withMember<P extends PartName>(
  design: Design,
  name: P,
  part: PartTypes[P],
  at: number | undefined
): Design {
  checkNewIds(design, [idOf(name, part)])
  return withMembers(name, design, insertedAt(membersOf(name, design), part, at))
}

/** The design with a part in the place of the one with its id. */
export function withOther<P extends PartName>(design: Design, name: P, part: PartTypes[P]): Design {
  const { at } = needMember(design, name, idOf(name, part))
  return withMembers(name, design, membersOf(name, design).with(at, part))
}

/** The design without a part. */
export function withoutMember(design: Design, name: PartName, id: string): Design {
  const { at } = needMember(design, name, id)
  return withMembers(name, design, withoutAt(membersOf(name, design), at))
}

/** The part, and its place among those of its kind; or a refusal that says it is gone. */
export function needMember<P extends PartName>(
  design: Design,
  name: P,
  id: string
): { at: number; part: PartTypes[P] } {
  const at = membersOf(name, design).findIndex((each) => idOf(name, each) === id)
  const part = membersOf(name, design)[at]
  if (!part) throw new Refused('missing', `That ${kindOf(name).name} is no longer in the design.`)
  return { at, part }
}

/** Refuses a name that another part of the kind has, of those that it is to be told from. */
export function checkMemberName<P extends 'figure' | 'subject' | 'view'>(
  design: Design,
  name: P,
  part: PartTypes[P],
  isBeside: (other: PartTypes[P]) => boolean = () => true
): void {
  const where = 'table' in part ? { table: part.table } : {}
  checkName(part.name, where)
  const others = membersOf(name, design).filter((each) => each.id !== part.id && isBeside(each))
  if (others.some((each) => fold(each.name) === fold(part.name)))
    throw new Refused('name-taken', `There is already a ${name} called ${shorten(part.name)}.`, where)
}
