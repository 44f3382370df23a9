import { fold } from '../design/directory.ts'
import { identityOfFlaw, isCarryToNowhere, newFlaw } from '../design/integrity.ts'
import type { Design, TableId } from '../design/model.ts'
import { violations, type Violation } from '../design/violations.ts'
import { deltaOf, type Alteration } from './delta.ts'
import { hangingOn, type Needs } from './hanging.ts'
import { designWith } from './partial.ts'
import type { Flaw } from '../design/flaw.ts'

/** Alterations by their keys. */
export type Chosen = ReadonlySet<string>

/** Why a part of what changes cannot be by itself: what tells it from others, in which table, about what name. */
interface Hindrance {
  identity: string
  table: TableId | undefined
  name: string | undefined
}

/** What changes between two states, and what of it cannot be without the rest. */
export class Choice {
  readonly delta: readonly Alteration[]
  private readonly known: ReadonlyMap<string, Alteration>
  private readonly needs: Needs
  /** What rows break in one of the two states: it may be so between them. */
  private readonly broken: ReadonlySet<string>

  constructor(
    private readonly from: Design,
    private readonly to: Design
  ) {
    this.delta = deltaOf(from, to)
    this.known = new Map(this.delta.map((each) => [each.key, each]))
    this.needs = hangingOn(this.delta, from, to)
    this.broken = new Set([from, to].flatMap(violations).map(violationName))
  }

  /** All of it. */
  get all(): Chosen {
    return new Set(this.known.keys())
  }

  /** Whether every one of the keys is of something that changes. */
  knows(keys: Iterable<string>): boolean {
    return [...keys].every((key) => this.known.has(key))
  }

  /** What is chosen, with one thing more and all that hangs on it. */
  with(chosen: Chosen, key: string): Chosen {
    return this.settled(this.closed([...chosen, key]))
  }

  /** What is chosen, with one thing less and nothing that hangs on that. */
  without(chosen: Chosen, key: string): Chosen {
    return this.loosened(this.less(chosen, [key]))
  }

  /** What is chosen, with whatever it cannot be without. */
  settled(chosen: Iterable<string>): Chosen {
    const closed = this.closed(chosen)
    const flaw = this.hindrance(closed)
    if (!flaw) return closed
    const open = [...this.known.keys()].filter((key) => !closed.has(key))
    const taken = this.mended(flaw, open, (keys) => this.closed([...closed, ...keys]))
    return taken.size > closed.size ? this.settled(taken) : taken
  }

  /** What is chosen, without what cannot be by itself. */
  private loosened(chosen: Chosen): Chosen {
    const flaw = this.hindrance(chosen)
    if (!flaw) return chosen
    const left = this.mended(flaw, [...chosen], (keys) => this.less(chosen, keys))
    return left.size < chosen.size ? this.loosened(left) : left
  }

  private less(chosen: Chosen, keys: readonly string[]): Chosen {
    const isLeft = (each: string): boolean => {
      const needed = this.closed([each])
      return !keys.some((key) => needed.has(key))
    }
    return new Set([...chosen].filter(isLeft))
  }

  /** The state that what is chosen makes of the first. */
  design(chosen: Chosen): Design {
    return designWith(
      this.from,
      this.to,
      this.delta.filter(({ key }) => chosen.has(key))
    )
  }

  private closed(chosen: Iterable<string>): Set<string> {
    const closed = new Set(chosen)
    for (const key of closed) for (const other of this.needs.get(key) ?? []) closed.add(other)
    return closed
  }

  private hindrance(chosen: Chosen): Hindrance | undefined {
    const design = withoutIdleCarries(this.design(chosen))
    const flaw = newFlaw(this.from, design)
    if (flaw) return { identity: identityOfFlaw(design, flaw), ...subjectOf(design, flaw) }
    const broken = violations(design).find((each) => !this.broken.has(violationName(each)))
    if (!broken) return undefined
    return { identity: violationName(broken), table: broken.table, name: undefined }
  }

  /**
   * What makes a hindrance go when it is taken or left: one thing, about the same table or of the name that is
   * in the way if there is such a one; all about that table where no single one does.
   */
  private mended(
    { identity, table, name }: Hindrance,
    keys: readonly string[],
    moved: (keys: readonly string[]) => Chosen
  ): Chosen {
    const near = keys.filter((key) => this.known.get(key)?.table === table)
    const named = keys.filter(
      (key) => name !== undefined && namesIn(this.known.get(key)).includes(fold(name))
    )
    for (const key of new Set([...near, ...named, ...keys].slice(0, MOST_TRIED))) {
      const next = moved([key])
      if (this.hindrance(next)?.identity !== identity) return next
    }
    return moved(near.length > 0 ? near : keys)
  }
}

/** What tells a rule that rows break from others. */
const violationName = ({ kind, of }: Violation): string => `${kind} ${of}`

/** The table in which a flaw is, and what the innermost part that has it is called. */
function subjectOf(design: Design, { path }: Flaw): Pick<Hindrance, 'table' | 'name'> {
  const [list, place] = path
  const table = list === 'tables' && typeof place === 'number' ? design.tables[place]?.id : undefined
  let at: unknown = design
  let name: string | undefined
  for (const step of path) {
    at = typeof at === 'object' && at !== null ? (Reflect.get(at, step) as unknown) : undefined
    if (typeof at === 'object' && at !== null && 'name' in at && typeof at.name === 'string') name = at.name
  }
  return { table, name }
}

/** Each try judges a whole design. */
const MOST_TRIED = 60

/** What the part that changes is called, before and after. */
function namesIn(alteration: Alteration | undefined): string[] {
  const ends = alteration as Partial<Record<'before' | 'after', { name?: unknown }>> | undefined
  const names = [ends?.before?.name, ends?.after?.name]
  return names.flatMap((name) => (typeof name === 'string' ? [fold(name)] : []))
}

/** A carry into a table that is gone again does nothing, and is no hindrance. */
export const withoutIdleCarries = (design: Design): Design => ({
  ...design,
  carries: design.carries.filter((carry) => !isCarryToNowhere(design, carry))
})
