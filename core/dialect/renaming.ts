import { byId } from '../design/by-id.ts'
import type { CatalogTable } from './catalog.ts'
import { bareName, Course } from './course.ts'
import { sort } from './migration.ts'
import { qualify, schemaOf } from './qualified.ts'
import { asideId, constraintsOf, type ConstraintKind } from './step.ts'
import { same } from './replaced-lists.ts'

/** How things come to be called otherwise, so that no two have a name at once. */
export abstract class RenamingCourse extends Course {
  protected rename(): void {
    this.renameSchemas()
    this.makeWayForLists()
    this.renameLists()
    this.renameTables()
    this.renameConstraints()
    for (const { to } of this.tables.kept) this.renameColumns(to)
  }

  private renameSchemas(): void {
    const { kept } = sort(this.input.from.schemas, this.input.to.schemas)
    if (this.words.inPlace.renamesSchemas) {
      this.renameAll(
        kept.map(({ from, to }) => ({ id: to.id, from: from.name, to: to.name })),
        (schema, name) => this.do({ kind: 'renameSchema', schema, name })
      )
    }
    const there = new Set(this.state.catalog.schemas.map(({ name }) => name))
    for (const schema of this.input.to.schemas)
      if (!there.has(schema.name)) this.do({ kind: 'makeSchema', schema })
  }

  /** A table that goes, and is called as a list of values is to be: a table is a type as well there. */
  private makeWayForLists(): void {
    const called = new Set(this.input.to.enums.map(({ name }) => name))
    for (const { id, name } of this.tables.gone)
      if (called.has(name)) this.do({ kind: 'renameTable', table: id, name: this.names.give(`old_${name}`) })
  }

  private renameLists(): void {
    const { kept, gone } = sort(this.input.from.enums, this.input.to.enums)
    const { quote } = this.words
    const replaced = kept.filter(({ to }) => this.listsReplaced.has(to.id))
    for (const { from } of replaced) {
      const name = this.names.give(`old_${from.name}`)
      const id = asideId(from.id)
      this.replaced.set(from.id, id)
      this.do({ kind: 'renameList', list: from.id, as: { id, name, sql: quote(name) } })
    }
    // A table is a type as well there.
    const { enums, tables } = this.input.to
    const called = new Set([...enums, ...tables].map((each) => each.name))
    for (const { id, name } of gone.filter((list) => called.has(list.name))) {
      const passing = this.names.give(`old_${name}`)
      this.do({ kind: 'renameList', list: id, as: { id, name: passing, sql: quote(passing) } })
    }
    this.renameAll(
      kept
        .filter((pair) => !replaced.includes(pair))
        .map(({ from, to }) => ({ id: to.id, from: from.name, to: to.name })),
      (list, name) => this.do({ kind: 'renameList', list, as: { id: list, name, sql: quote(name) } })
    )
    for (const { from, to } of kept)
      if (!same(from.values, to.values) && !this.replaced.has(from.id))
        this.do({ kind: 'addToList', list: from.id, values: to.values })
  }

  private renameTables(): void {
    const { kept, gone, made } = this.tables
    const taken = new Set([...made, ...kept.map(({ to }) => to)].map(({ name }) => name))
    const rename = (table: string, name: string): void =>
      this.do({ kind: 'renameTable', table, name: qualify(schemaOf(this.state.table(table).name), name) })
    for (const { id } of gone) {
      const { name } = this.state.table(id)
      if (taken.has(name)) rename(id, this.names.give(`old_${bareName(name)}`))
    }
    const crossing = kept.filter(({ to }) => schemaOf(this.state.table(to.id).name) !== schemaOf(to.name))
    const now = (id: string): string => bareName(this.state.table(id).name)
    // What goes to another schema under another name, where its own is taken there or wanted here, gets a
    // passing one first.
    const isTaken = this.takenIn()
    const isWanted = ({ id, name }: CatalogTable): boolean =>
      kept.some(({ to }) => to.id !== id && to.name === name)
    for (const { to } of crossing)
      if (now(to.id) !== bareName(to.name) || isTaken(to.name) || isWanted(this.state.table(to.id)))
        rename(to.id, this.names.give(`old_${now(to.id)}`))
    for (const { to } of crossing) this.passConstraints(to, isTaken)
    const crossed = new Set(crossing.map(({ to }) => to.id))
    const moving = kept.filter(({ to }) => !crossed.has(to.id))
    this.renameAll(
      moving.map(({ to }) => ({
        id: to.id,
        from: now(to.id),
        to: bareName(to.name),
        within: schemaOf(to.name)
      })),
      rename
    )
    for (const { to } of crossing)
      this.do({ kind: 'moveTable', table: to.id, name: qualify(schemaOf(to.name), now(to.id)) })
    for (const { to } of crossing) if (now(to.id) !== bareName(to.name)) rename(to.id, bareName(to.name))
  }

  /** Whether anything is called so, with its schema, at this point. */
  private takenIn(): (name: string) => boolean {
    const names = (): string[] =>
      this.state.catalog.tables.flatMap((table) => [
        table.name,
        ...constraintsOf(table).map(({ key }) => qualify(schemaOf(table.name), key.name))
      ])
    let taken: ReadonlySet<string> | undefined
    return (name) => (taken ??= new Set(names())).has(name)
  }

  /** A table takes its constraints along, which must have names that are free where it goes. */
  private passConstraints(to: CatalogTable, isTaken: (name: string) => boolean): void {
    for (const { kind, key } of constraintsOf(this.state.table(to.id))) {
      if (!isTaken(qualify(schemaOf(to.name), key.name)) || !this.words.inPlace.renames.includes(kind))
        continue
      const name = this.names.give(`old_${key.name}`)
      this.do({ kind: 'renameConstraint', table: to.id, of: kind, id: key.id, name })
    }
  }

  /** Constraints go over to their new names: in each table by itself, or in all at once where names are shared. */
  private renameConstraints(): void {
    const kept = this.tables.kept.map(({ to }) => this.constraintsCalled(to))
    const groups = this.words.inPlace.namesAreOwn ? kept : [kept.flat()]
    for (const group of groups) {
      const known = byId(group)
      this.renameAll(group, (id, name) => {
        const of = known.get(id)
        if (of) this.do({ kind: 'renameConstraint', table: of.table, of: of.kind, id: of.key, name })
      })
    }
  }

  /** The constraints of a table that stay, by what they are called and are to be called. */
  private constraintsCalled(to: CatalogTable): CalledConstraint[] {
    const before = byId(this.input.from.tables).get(to.id)
    if (!before) return []
    return constraintsOf(before).flatMap((each) => {
      const after = this.survival.of(before, each)
      if (!after) return []
      const { kind, key } = each
      const now = this.state.constraint(to.id, kind, key.id)
      const id = `${to.id} ${kind} ${key.id}`
      const called = { from: now.key.name, to: after.key.name, within: schemaOf(to.name) }
      return [{ id, table: to.id, kind, key: key.id, ...called }]
    })
  }

  private renameColumns(to: CatalogTable): void {
    const now = this.state.table(to.id)
    const { kept, gone, made } = sort(now.columns, to.columns)
    const rename = (column: string, name: string): void =>
      this.do({ kind: 'renameColumn', table: to.id, column, name })
    const come = new Set([...made, ...kept.map((pair) => pair.to)].map(({ name }) => name.toLowerCase()))
    for (const { id, name } of gone)
      if (come.has(name.toLowerCase())) rename(id, this.names.give(`old_${name}`))
    this.renameAll(
      kept.map((pair) => ({ id: pair.to.id, from: pair.from.name, to: pair.to.name })),
      rename
    )
  }

  /** Renames so that no two things have a name at once; where they change names, one gets a passing one first. */
  private renameAll(all: readonly Called[], rename: (id: string, name: string) => void): void {
    const held = new Map<string, number>()
    const countOf = (each: Called, name: string): number => held.get(placed(each, name)) ?? 0
    const hold = (each: Called, name: string, by: number): void =>
      void held.set(placed(each, name), countOf(each, name) + by)
    for (const each of all) hold(each, each.from, 1)
    let open = all.filter(({ from, to }) => from !== to)
    const isFree = (each: Called): boolean =>
      countOf(each, each.to) === (folded(each.from) === folded(each.to) ? 1 : 0)
    const call = (each: Called, name: string): void => {
      rename(each.id, name)
      hold(each, each.from, -1)
      hold(each, name, 1)
    }
    while (open.length > 0) {
      const free = open.filter(isFree)
      const [first] = open
      for (const each of free) call(each, each.to)
      const called = new Set(free)
      open = open.filter((each) => !called.has(each))
      if (free.length > 0 || !first) continue
      const passing = this.names.give(`old_${first.from}`)
      call(first, passing)
      open = open.map((each) => (each === first ? { ...first, from: passing } : each))
    }
  }
}

/** Something that is called so now, and is to be called otherwise or not. */
interface Called {
  id: string
  /** The schema in which no other may be called so. */
  within?: string | undefined
  from: string
  to: string
}

interface CalledConstraint extends Called {
  table: string
  kind: ConstraintKind
  key: string
}

const placed = ({ within = '' }: Called, name: string): string => JSON.stringify([within, folded(name)])

const folded = (name: string): string => name.toLowerCase()
