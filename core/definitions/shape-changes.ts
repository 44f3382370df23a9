import { typeText, type Type } from '../design/type.ts'
import type { Across, End, Entity, Field, List, Shape } from './shape.ts'
import { once } from '../once.ts'
import { plainType } from './typescript.ts'

/** What is otherwise for an application, in words, and whether code that was written before may no longer fit. */
export interface ShapeChange {
  breaks: boolean
  says: string
}

/**
 * What a change of a design changes for the applications that use it: what is new, gone or called otherwise in code, what
 * must be given now or may be empty, what becomes one or several. What breaks code comes first.
 */
export function shapeChanges(before: Shape, after: Shape): ShapeChange[] {
  const all = [
    ...paired(before.lists, after.lists, byId, byType).flatMap(([was, is]) => listChanges(was, is)),
    ...paired(before.entities, after.entities, byId, byType).flatMap(([was, is]) =>
      entityChanges(was, is, { before, after })
    )
  ]
  return all.sort((one, other) => Number(other.breaks) - Number(one.breaks))
}

const byId = ({ id }: { id: string }): string => id
const breaking = (says: string): ShapeChange => ({ breaks: true, says })
const harmless = (says: string): ShapeChange => ({ breaks: false, says })

type Pair<T> = [was: T | undefined, is: T | undefined]

/**
 * What stands before and after for the same thing, in the order of what is there; what is gone comes last. It is the same
 * by its id, and to code also where something else has come in its place by the same name.
 */
function paired<T>(
  before: readonly T[],
  after: readonly T[],
  called: (one: T) => string,
  nameOf: (one: T) => string
): Pair<T>[] {
  const [was, is] = [new Map(before.map((each) => [called(each), each])), new Set(after.map(called))]
  const left = new Map(before.filter((each) => !is.has(called(each))).map((each) => [nameOf(each), each]))
  const pairs = after.map((each): Pair<T> => {
    const same = was.get(called(each)) ?? left.get(nameOf(each))
    if (same) left.delete(nameOf(same))
    return [same, each]
  })
  return [...pairs, ...[...left.values()].map((each): Pair<T> => [each, undefined])]
}

const byName = ({ name }: { name: string }): string => name
const byType = ({ type }: { type: string }): string => type

/** What is new, gone, or called otherwise; nothing where it is as it was. */
function named(was: string | undefined, is: string | undefined): ShapeChange[] {
  if (was === undefined) return is === undefined ? [] : [harmless(`${is} is new.`)]
  if (is === undefined) return [breaking(`${was} is gone.`)]
  return was === is ? [] : [breaking(`${was} is called ${is} now.`)]
}

function listChanges(was: List | undefined, is: List | undefined): ShapeChange[] {
  const gone = (was?.values ?? []).filter((value) => is && !is.values.includes(value))
  const come = (is?.values ?? []).filter((value) => was && !was.values.includes(value))
  return [
    ...named(was?.type, is?.type),
    ...(gone.length > 0 ? [breaking(`${is?.type ?? ''} is never ${gone.join(', ')} any more.`)] : []),
    // Code that knows all values meets one that it does not know.
    ...(come.length > 0 ? [breaking(`${is?.type ?? ''} may be ${come.join(', ')} now.`)] : [])
  ]
}

interface Shapes {
  before: Shape
  after: Shape
}

function entityChanges(was: Entity | undefined, is: Entity | undefined, shapes: Shapes): ShapeChange[] {
  const changes = named(was?.type, is?.type)
  if (!was || !is) return changes
  const at = (name: string | undefined): string | undefined =>
    name === undefined ? undefined : `${is.type}.${name}`
  const turned = becameAcross(was, is, shapes)
  const isOther = ({ name }: { name: string }): boolean => !turned.some((each) => each.name === name)
  return [
    ...changes,
    ...turned.map(({ name, through }) => harmless(`${at(name) ?? ''} leads there by way of ${through} now.`)),
    ...paired(was.fields, is.fields, byId, byName).flatMap(([before, after]) =>
      fieldChanges(before, after, at, shapes)
    ),
    ...keyChanges(was, is),
    ...paired(was.ends.filter(isOther), is.ends, endId, byName).flatMap(([before, after]) =>
      endChanges(before, after, at, shapes)
    ),
    ...paired(was.across, is.across.filter(isOther), acrossId, byName).flatMap(([before, after]) =>
      named(at(before?.name), at(after?.name))
    )
  ]
}

/** Lists that a junction leads to now, by the name that they had before: to code they are the same. */
function becameAcross(was: Entity, is: Entity, { before, after }: Shapes): Across[] {
  return is.across.filter(({ name, to }) =>
    was.ends.some(
      (end) =>
        end.many &&
        end.name === name &&
        entitiesOf(before).get(end.to)?.id === entitiesOf(after).get(to)?.id &&
        !is.ends.some((each) => endId(each) === endId(end))
    )
  )
}

type Place = (name: string | undefined) => string | undefined

function fieldChanges(
  was: Field | undefined,
  is: Field | undefined,
  at: Place,
  { before: earlier, after: later }: Shapes
): ShapeChange[] {
  const place = at(is?.name) ?? ''
  const mustBeGiven = (field: Field): boolean => !field.optional && field.given === undefined
  if (!was && is && mustBeGiven(is)) return [breaking(`${place} is new, and must be given.`)]
  const changes = named(at(was?.name), at(is?.name))
  if (!was || !is) return changes
  const [type, before] = [plainType(is), plainType(was)]
  if (type !== before || !isAsWide(was.type, is.type))
    changes.push(breaking(`${place} is ${said(is)} now, and was ${said(was)}.`))
  else if (said(is) !== said(was))
    changes.push(harmless(`${place} is ${said(is)} now, and was ${said(was)}.`))
  if (keyId(earlier, was) !== keyId(later, is))
    changes.push(
      is.keyOf
        ? breaking(`${place} holds a key of ${is.keyOf.entity} now.`)
        : breaking(`${place} holds no key any more.`)
    )
  if (is.optional && !was.optional) changes.push(breaking(`${place} may be empty now.`))
  if (mustBeGiven(is) && !mustBeGiven(was)) changes.push(breaking(`${place} must be given now.`))
  else if (!is.optional && was.optional) changes.push(breaking(`${place} is never empty any more.`))
  else if (!mustBeGiven(is) && mustBeGiven(was) && !is.optional)
    changes.push(harmless(`${place} may be left out now where a row is put in.`))
  if ((is.given === 'computed') !== (was.given === 'computed'))
    changes.push(
      is.given === 'computed'
        ? breaking(`${place} is computed now, and cannot be given any more.`)
        : harmless(`${place} is no longer computed.`)
    )
  return changes
}

/** Whose key a field holds, by ids, which outlive names. */
function keyId(shape: Shape, { keyOf }: Field): string {
  const entity = keyOf && entitiesOf(shape).get(keyOf.entity)
  return entity?.fields.find(({ name }) => name === keyOf?.field)?.id ?? ''
}

const entitiesOf = once(
  ({ entities }: Shape): ReadonlyMap<string, Entity> =>
    new Map(entities.map((entity) => [entity.type, entity]))
)

const said = ({ type, list }: Field): string => list ?? typeText(type)

/** Whether everything that a type held goes into the other. */
function isAsWide(was: Type, is: Type): boolean {
  if (was.kind !== is.kind) return false
  switch (is.kind) {
    case 'integer': {
      const sizes = ['small', 'normal', 'big']
      return was.kind === 'integer' && sizes.indexOf(is.size) >= sizes.indexOf(was.size)
    }
    case 'decimal':
      return (
        was.kind === 'decimal' &&
        is.scale >= was.scale &&
        is.precision - is.scale >= was.precision - was.scale
      )
    case 'text':
    case 'char':
    case 'binary':
      return (
        is.length === undefined || ('length' in was && was.length !== undefined && is.length >= was.length)
      )
    default:
      return true
  }
}

function keyChanges(was: Entity, is: Entity): ShapeChange[] {
  const now = new Map(
    paired(was.fields, is.fields, byId, byName).map(([before, after]) => [before?.name, after?.name])
  )
  // The old key, by what its fields are called now.
  const before = was.key.map((name) => now.get(name))
  if (before.join() === is.key.join()) return []
  if (is.key.length === 0) return [breaking(`${is.type} has no key any more.`)]
  const change = `${is.type} is found by ${is.key.join(' and ')} now.`
  // What named more than it takes now still names one.
  const isLess = is.key.every((name) => before.includes(name))
  return [before.length === 0 || isLess ? harmless(change) : breaking(change)]
}

const endId = ({ reference, holds }: End): string => `${reference} ${holds}`

/** What is across is the same where the same two references lead there. */
const acrossId = ({ near, far }: Across): string => `${near} ${far}`

function endChanges(
  was: End | undefined,
  is: End | undefined,
  at: Place,
  { before, after }: Shapes
): ShapeChange[] {
  const place = at(is?.name) ?? ''
  const changes = named(at(was?.name), at(is?.name))
  if (!was || !is) return changes
  if (entitiesOf(before).get(was.to)?.id !== entitiesOf(after).get(is.to)?.id)
    changes.push(breaking(`${place} leads to ${is.to} now.`))
  if (is.many && !was.many) changes.push(breaking(`${place} is a list now, and was one.`))
  if (!is.many && was.many) changes.push(breaking(`${place} is one now, and was a list.`))
  if (!is.many && !was.many && is.optional !== was.optional)
    changes.push(
      is.optional ? breaking(`${place} may be none now.`) : harmless(`${place} is always one now.`)
    )
  return changes
}
