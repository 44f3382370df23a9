/**
 * What is worked out of a whole list, and worked out anew only where what it goes by in one of the members is another.
 * The members must never change; of lists that were asked about, the last is remembered.
 * @param isAlike whether two members are the same in all that it goes by
 */
export function whileAlike<T, R>(
  isAlike: (one: T, other: T) => boolean,
  work: (members: readonly T[]) => R
): (members: readonly T[]) => R {
  let known: { members: readonly T[]; result: R } | undefined
  return (members) => {
    const isSame =
      known?.members.length === members.length &&
      members.every((each, at) => {
        const before = known?.members[at] as T
        return each === before || isAlike(each, before)
      })
    const result = known && isSame ? known.result : work(members)
    known = { members, result }
    return result
  }
}
