import type { Design } from '../design/model.ts'
import type { Dialect } from './dialect.ts'
import type { Versions } from './facts.ts'

/** Whether a version came before another: `12.2` before `18`. */
export function isBefore(version: string, other: string): boolean {
  const [one, its] = [version, other].map((each) => each.split('.').map(Number))
  const [first = 0, second = 0] = one ?? []
  const [itsFirst = 0, itsSecond = 0] = its ?? []
  return first === itsFirst ? second < itsSecond : first < itsFirst
}

/**
 * A dialect whose facts, types and writers go by the oldest version that a design is to run on. Made once for
 * each version; a design's catalog is always that of its own version.
 */
export function byVersion<D extends Dialect>(
  name: D['name'],
  versions: Versions,
  make: (version: string) => Omit<D, 'for'>
): D {
  const known = new Map<string, { dialect: D; catalog: Dialect['catalog'] }>()
  const wanted = ({ oldest }: Pick<Design, 'oldest'>): string => {
    const said = oldest?.[name] ?? versions.usual
    return versions.all.includes(said) ? said : versions.usual
  }
  const at = (version: string): { dialect: D; catalog: Dialect['catalog'] } => {
    const found = known.get(version)
    if (found) return found
    const made = make(version)
    const dialect = {
      ...made,
      for: (design: Pick<Design, 'oldest'>) => at(wanted(design)).dialect,
      catalog: (design: Design) => at(wanted(design)).catalog(design)
    } as unknown as D
    const kept = { dialect, catalog: made.catalog }
    known.set(version, kept)
    return kept
  }
  return at(versions.usual).dialect
}
