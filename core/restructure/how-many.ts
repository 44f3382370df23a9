import { columnOf, columnsIn, keysOf, referencesTo, sameSet, tableOf } from '../design/directory.ts'
import type { Design, ForeignKey, Table } from '../design/model.ts'
import { plural } from '../naming/words.ts'
import { changeCardinality } from '../relate/propose.ts'
import { isIdentifying } from '../relate/junction.ts'
import { isSingle, readingOf } from '../relate/reading.ts'
import { addNumber } from './another-key.ts'
import type { ChangeOfMind, ChangeOffer } from './change.ts'
import { keepUnique, mustBeKey, rekey } from './rekey.ts'
import { restructure, stuck, type Restructuring } from './restructuring.ts'

/**
 * How many of each there may be, where no table comes or goes for it: one or several on the many side, optional or
 * required, and a key that both share. What the rows do not allow is refused, and names them.
 */
export const howMany: ChangeOfMind = (design, { table, foreignKey }) => {
  const parent = foreignKey && tableOf(design, foreignKey.table)
  if (!foreignKey || !parent || table.external) return []
  return [
    ...atMostOne(design, table, parent, foreignKey),
    ...severalAgain(design, table, parent, foreignKey),
    ...optionalOrRequired(design, table, parent, foreignKey),
    ...sharedKey(design, table, parent, foreignKey),
    ...ownKey(design, table, parent, foreignKey)
  ]
}

const columnsOfKey = ({ pairs }: ForeignKey): string[] => pairs.map(({ column }) => column)

function atMostOne(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  if (isSingle(readingOf(child, foreignKey))) return []
  const offer: ChangeOffer = {
    kind: 'at most one',
    says: `Each ${parent.name} has at most one ${child.name}.`,
    term: 'one-to-many becomes one-to-one',
    asks: [],
    operation: () =>
      restructure(design, `let each ${parent.name} have at most one ${child.name}`, (restructuring) =>
        restructuring.do(changeCardinality(child, foreignKey, { single: true }))
      )
  }
  return [offer]
}

function severalAgain(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const columns = columnsOfKey(foreignKey)
  const isOne = isSingle(readingOf(child, foreignKey))
  if (!isOne || (child.primaryKey && child.primaryKey.columns.every((id) => columns.includes(id)))) return []
  const offer: ChangeOffer = {
    kind: 'any number',
    says: `Each ${parent.name} has any number of ${plural(child.name)}.`,
    term: 'one-to-one becomes one-to-many',
    asks: [],
    operation: () =>
      restructure(
        design,
        `let each ${parent.name} have any number of ${plural(child.name)}`,
        (restructuring) => restructuring.do(changeCardinality(child, foreignKey, { single: false }))
      )
  }
  return [offer]
}

function optionalOrRequired(
  design: Design,
  child: Table,
  parent: Table,
  foreignKey: ForeignKey
): ChangeOffer[] {
  const isRequired = readingOf(child, foreignKey).ofChild === 'exactly one'
  const inKey = columnsOfKey(foreignKey).some((id) => child.primaryKey?.columns.includes(id))
  if (inKey) return []
  const says = isRequired ? 'at most one' : 'exactly one'
  const offer: ChangeOffer = {
    kind: isRequired ? 'optional' : 'required',
    says: `Each ${child.name} has ${says} ${parent.name}.`,
    term: isRequired ? 'required becomes optional' : 'optional becomes required',
    asks: [],
    operation: () =>
      restructure(design, `let each ${child.name} have ${says} ${parent.name}`, (restructuring) =>
        restructuring.do(changeCardinality(child, foreignKey, { required: !isRequired }))
      )
  }
  return [offer]
}

/** The child goes by its parent's key: one row of it for one of the other, and no number of its own. */
function sharedKey(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const columns = columnsOfKey(foreignKey)
  const isShared = child.primaryKey !== undefined && sameSet(child.primaryKey.columns, columns)
  const isSelf = parent.id === child.id
  const mayBeKey = columns.every(
    (id) => columnOf(child, id)?.required && columnOf(child, id)?.computed === undefined
  )
  if (isShared || isSelf || !mayBeKey || !child.primaryKey) return []
  const offer: ChangeOffer = {
    kind: 'shared key',
    says: `Each ${child.name} goes by the key of its ${parent.name}, which has at most one.`,
    term: 'one-to-one by sharing the key',
    asks: [],
    operation: () =>
      restructure(design, `let ${child.name} share the key of ${parent.name}`, (restructuring) => {
        mustBeKey(restructuring, child, columns)
        const old = child.primaryKey ?? stuck(`${child.name} has no key.`)
        rekey(restructuring, child.id, old.id, columns)
        leaveOld(restructuring, child, old.columns)
      })
  }
  return [offer]
}

/** A number that was all of a key and nothing else goes; a key that says something stays unique. */
export function leaveOld(restructuring: Restructuring, child: Table, old: readonly string[]): void {
  const [only, ...others] = columnsIn(child, old)
  const isNumber = others.length === 0 && only?.default?.kind === 'generated'
  const now = restructuring.table(child.id)
  const isUsed = keysOf(now).some(({ columns }) => columns.includes(only?.id ?? ''))
  const isReferred = referencesTo(restructuring.design, child.id).some(({ foreignKey }) =>
    foreignKey.pairs.some(({ refersTo }) => refersTo === only?.id)
  )
  if (isNumber && !isUsed && !isReferred)
    restructuring.do({ kind: 'column.remove', table: child.id, column: only.id })
  else keepUnique(restructuring, child.id, old)
}

/** A child that shares its parent's key gets one of its own, and the parent's stays unique in it. */
function ownKey(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const columns = columnsOfKey(foreignKey)
  const isShared = child.primaryKey !== undefined && sameSet(child.primaryKey.columns, columns)
  if (!isShared || !isIdentifying(child, foreignKey)) return []
  const offer: ChangeOffer = {
    kind: 'own key',
    says: `Each ${child.name} goes by a number of its own, and each ${parent.name} still has at most one.`,
    term: 'one-to-one by a unique foreign key',
    asks: [],
    operation: () =>
      restructure(design, `give ${child.name} a key of its own`, (restructuring) => {
        const number = addNumber(restructuring, child)
        const old = child.primaryKey ?? stuck(`${child.name} has no key.`)
        rekey(restructuring, child.id, old.id, [number])
        keepUnique(restructuring, child.id, old.columns)
      })
  }
  return [offer]
}
