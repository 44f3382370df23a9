import { kindOf, type PartName, type PartTypes } from './all.ts'
import type { Entry } from './part.ts'

/** What a design or a table holds of a kind of part, and the same holder with others of it. */

/** The parts of a kind, in their order. */
export function membersOf<P extends PartName>(name: P, holder: object): readonly PartTypes[P][] {
  const held = property(name, holder)
  if (held === undefined) return []
  switch (kindOf(name).as) {
    case 'list':
      return held as PartTypes[P][]
    case 'single':
      return [held as PartTypes[P]]
    case 'record':
      return Object.entries(held as object).map(([id, value]): Entry<unknown> => ({
        id,
        value
      })) as PartTypes[P][]
  }
}

/** What stands in the property in which the parts of a kind are held. */
export const property = (name: PartName, holder: object): unknown => Reflect.get(holder, kindOf(name).in)

/** The holder with these parts of the kind, and no others. */
export function withMembers<P extends PartName, H extends object>(
  name: P,
  holder: H,
  members: readonly PartTypes[P][]
): H {
  const { in: where, as, mayBeLeftOut } = kindOf(name)
  const { [where as keyof H]: _, ...bare } = holder
  const isLeftOut = members.length === 0 && (as !== 'list' || mayBeLeftOut === true)
  return (isLeftOut ? bare : { ...holder, [where]: asHeld(as, members) }) as H
}

function asHeld(as: 'list' | 'single' | 'record', members: readonly unknown[]): unknown {
  if (as === 'list') return members
  if (as === 'single') return members[0]
  return Object.fromEntries((members as readonly Entry<unknown>[]).map(({ id, value }) => [id, value]))
}

/** What tells a part from others of its kind that one holder holds. */
export function idOf<P extends PartName>(name: P, part: PartTypes[P]): string {
  const { goesBy } = kindOf(name)
  if (goesBy) return goesBy.map((key) => String(part[key] ?? '')).join(' ')
  return 'id' in part ? part.id : ''
}

/** The ids of the parts of a kind; none where they go by names. */
export function ownIds(name: PartName, holder: object): string[] {
  if (kindOf(name).prefix === undefined) return []
  return membersOf(name, holder).map((part) => idOf(name, part))
}
