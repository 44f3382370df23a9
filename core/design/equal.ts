/**
 * Whether two values of a design are the same: JSON of the same members, in whatever order those of a record stand. A
 * member that is undefined is none.
 */
export function isEqual(one: unknown, other: unknown): boolean {
  if (one === other) return true
  if (typeof one !== 'object' || typeof other !== 'object' || one === null || other === null) return false
  if (Array.isArray(one) || Array.isArray(other)) return areEqualLists(one, other)
  return areEqualRecords(one as Members, other as Members)
}

type Members = Readonly<Record<string, unknown>>

function areEqualLists(one: unknown, other: unknown): boolean {
  if (!Array.isArray(one) || !Array.isArray(other) || one.length !== other.length) return false
  return one.every((each, at) => isEqual(each, other[at]))
}

function areEqualRecords(one: Members, other: Members): boolean {
  let members = 0
  for (const key in one) {
    if (one[key] === undefined) continue
    if (!isEqual(one[key], other[key])) return false
    members++
  }
  for (const key in other) if (other[key] !== undefined) members--
  return members === 0
}
