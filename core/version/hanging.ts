import { flowing } from '../carry/earlier.ts'
import type { Design, ForeignKey } from '../design/model.ts'
import { idsNamed } from '../design/row-query.ts'
import { kindOf } from '../design/parts/all.ts'
import { aspectIn, isOfPart, type Alteration, type AlterationOf, type PartAlteration } from './delta.ts'

/**
 * What each alteration cannot be without, by key: what it names must be there; what names something must go
 * before that goes; a carry goes with what it moves from and into; columns that refer to each other change
 * their types together.
 */
export function hangingOn(delta: readonly Alteration[], from: Design, to: Design): Needs {
  return new Hanging(delta, from, to).all()
}
export type Needs = ReadonlyMap<string, ReadonlySet<string>>

class Hanging {
  private readonly needs = new Map<string, Set<string>>()
  /** The alterations that parts come and go with, by the parts' ids. */
  private readonly come = new Map<string, string>()
  private readonly gone = new Map<string, string>()

  constructor(
    private readonly delta: readonly Alteration[],
    private readonly from: Design,
    private readonly to: Design
  ) {
    for (const each of delta) {
      this.needs.set(each.key, new Set())
      if (!isOfPart(each) || kindOf(each.part).prefix === undefined) continue
      if (each.kind === 'added') for (const id of idsIn(each.after)) this.come.set(id, each.key)
      if (each.kind === 'removed') for (const id of idsIn(each.before)) this.gone.set(id, each.key)
    }
  }

  all(): Needs {
    for (const each of this.delta) {
      if (each.part === 'carry') this.carry(each)
      else if (isOfPart(each)) this.names(each)
    }
    this.types()
    this.passing()
    return this.needs
  }

  /** Carries that hand on what is in neither state: columns that came and went between them. */
  private passing(): void {
    const there = new Set([this.from, this.to].flatMap(({ tables }) => tables.flatMap(idsIn)))
    const by = new Map<string, string>()
    for (const each of this.delta) {
      if (each.part !== 'carry') continue
      const carry = each.kind === 'removed' ? each.before : each.after
      for (const id of idsNamed([flowing(carry, [this.to, this.from])])) {
        if (there.has(id) || !/^[ct]_/.test(id)) continue
        this.together(each.key, by.get(id))
        by.set(id, by.get(id) ?? each.key)
      }
    }
  }

  private need(key: string, other: string | undefined): void {
    if (other !== undefined && other !== key) this.needs.get(key)?.add(other)
  }

  private together(key: string, other: string | undefined): void {
    this.need(key, other)
    if (other !== undefined) this.need(other, key)
  }

  /** What comes to be named is there; what is no longer named may go. */
  private names(alteration: PartAlteration): void {
    const [was, is] = [named('before', alteration), named('after', alteration)]
    for (const id of is) this.need(alteration.key, this.come.get(id))
    for (const id of was) {
      const goes = this.gone.get(id)
      if (goes !== undefined && !is.has(id)) this.need(goes, alteration.key)
    }
  }

  /** A restructuring is one: its rows with the parts that they come from and go into. */
  private carry(alteration: AlterationOf<'carry'>): void {
    const { key } = alteration
    const carry = alteration.kind === 'removed' ? alteration.before : alteration.after
    const { there, back } = flowing(carry, [this.to, this.from])
    for (const id of idsNamed([there, back])) this.need(key, this.come.get(id) ?? this.gone.get(id))
    const given = [there, back].flatMap(({ adds, fills }) => [
      ...adds.map(({ table }) => table),
      ...fills.flatMap(({ table, columns }) => [table, ...columns.map(({ id }) => id)])
    ])
    for (const id of given) {
      this.together(key, this.come.get(id))
      this.together(key, this.gone.get(id))
      this.together(key, this.known(`column ${id} required`))
      this.together(key, this.known(`rows ${id}`))
    }
    for (const id of idsNamed(there)) this.together(key, this.gone.get(id))
  }

  /** The key, where it is that of something that changes. */
  private known(key: string): string | undefined {
    return this.needs.has(key) ? key : undefined
  }

  /** Columns that refer to each other, where both change their types. */
  private types(): void {
    const typed = (column: string): string | undefined => this.known(`column ${column} type`)
    const keys: ForeignKey[] = this.to.tables.flatMap((table) => table.foreignKeys)
    for (const { column, refersTo } of keys.flatMap(({ pairs }) => pairs)) {
      const own = typed(column)
      if (own !== undefined && typed(refersTo) !== undefined) this.together(own, typed(refersTo))
    }
  }
}

/** The ids of a part and of what is in it. */
function idsIn(part: object): string[] {
  const inside = Object.entries(part).filter(([name]) => name !== 'rows' && name !== 'reads')
  const lists = inside.flatMap(([, value]) => (Array.isArray(value) ? (value as unknown[]) : [value]))
  return [part, ...lists].flatMap((each) => (isPart(each) ? [each.id] : []))
}

const isPart = (value: unknown): value is { id: string } =>
  typeof value === 'object' && value !== null && 'id' in value && typeof value.id === 'string'

/** The ids that what changes names before it, or after it. */
function named(end: 'before' | 'after', alteration: PartAlteration): ReadonlySet<string> {
  if (alteration.kind === 'changed') return idsNamed(aspectIn(end, alteration))
  const part = end === 'before' && alteration.kind === 'removed' ? alteration.before : undefined
  const made = end === 'after' && alteration.kind === 'added' ? alteration.after : undefined
  return idsNamed({ ...(part ?? made), rows: undefined })
}
