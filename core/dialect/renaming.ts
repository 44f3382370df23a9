import { byId } from '../design/by-id.ts'
import type { CatalogEnum, CatalogTable } from './catalog.ts'
import { bareName, Course, same } from './course.ts'
import { sort, type Pair } from './migration.ts'
import { qualify, schemaOf } from './qualified.ts'
import { asideId, constraintsOf, type ConstraintKind } from './step.ts'

/** How things come to be called otherwise, so that no two have a name at once. */
export abstract class Renaming extends Course {
  protected rename(): void {
    this.renameSchemas()
    this.renameLists()
    this.renameTables()
    for (const { to } of this.tables.kept) this.renameConstraints(to)
    for (const { to } of this.tables.kept) this.renameColumns(to)
  }

  private renameSchemas(): void {
    const { kept, made } = sort(this.input.from.schemas, this.input.to.schemas)
    if (this.words.inPlace.renamesSchemas) {
      this.renameAll(
        kept.map(({ from, to }) => ({ id: to.id, from: from.name, to: to.name })),
        made.map(({ name }) => name),
        (schema, name) => this.do({ kind: 'renameSchema', schema, name })
      )
    }
    const there = new Set(this.state.catalog.schemas.map(({ name }) => name))
    for (const schema of this.input.to.schemas)
      if (!there.has(schema.name)) this.do({ kind: 'makeSchema', schema })
  }

  private renameLists(): void {
    const { kept, gone, made } = sort(this.input.from.enums, this.input.to.enums)
    const { quote } = this.words
    const replaced = kept.filter((pair) => this.isReplaced(pair))
    for (const { from } of replaced) {
      const name = this.names.give(`old_${from.name}`)
      const id = asideId(from.id)
      this.replaced.set(from.id, id)
      this.do({ kind: 'renameList', list: from.id, as: { id, name, sql: quote(name) } })
    }
    const called = new Set(this.input.to.enums.map((list) => list.name))
    for (const { id, name } of gone.filter((list) => called.has(list.name))) {
      const passing = this.names.give(`old_${name}`)
      this.do({ kind: 'renameList', list: id, as: { id, name: passing, sql: quote(passing) } })
    }
    this.renameAll(
      kept
        .filter((pair) => !replaced.includes(pair))
        .map(({ from, to }) => ({ id: to.id, from: from.name, to: to.name })),
      [...made, ...replaced.map(({ to }) => to)].map(({ name }) => name),
      (list, name) => this.do({ kind: 'renameList', list, as: { id: list, name, sql: quote(name) } })
    )
    for (const { from, to } of kept)
      if (!same(from.values, to.values) && !this.replaced.has(from.id))
        this.do({ kind: 'addToList', list: from.id, values: to.values })
  }

  /** A list that loses a value or is ordered anew is made anew, as is one that gets a value which is used. */
  private isReplaced({ from, to }: Pair<CatalogEnum>): boolean {
    if (same(from.values, to.values)) return false
    const { flow, restore } = this.input
    const holds = new Set(
      this.input.to.tables
        .filter((table) => table.columns.some((column) => column.type.list === to.id))
        .map(({ id }) => id)
    )
    const touched = [...flow.adds, ...flow.fills, ...restore].some(({ table }) => holds.has(table))
    return touched || !this.words.inPlace.addsToList(from.values, to.values, this.input)
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
    // What goes to another schema under another name, or where its own is taken, gets a passing one first.
    const isTaken = this.takenIn()
    for (const { to } of crossing)
      if (now(to.id) !== bareName(to.name) || isTaken(to.name))
        rename(to.id, this.names.give(`old_${now(to.id)}`))
    for (const { to } of crossing) this.passConstraints(to, isTaken)
    const crossed = new Set(crossing.map(({ to }) => to.id))
    const moving = kept.filter(({ to }) => !crossed.has(to.id))
    this.renameAll(
      moving.map(({ to }) => ({ id: to.id, from: now(to.id), to: bareName(to.name) })),
      [...made, ...crossing.map(({ to }) => to)].map(({ name }) => bareName(name)),
      rename
    )
    for (const { to } of crossing)
      this.do({ kind: 'moveTable', table: to.id, name: qualify(schemaOf(to.name), now(to.id)) })
    for (const { to } of crossing) if (now(to.id) !== bareName(to.name)) rename(to.id, bareName(to.name))
  }

  /** Whether anything is called so, with its schema, at this point. */
  private takenIn(): (name: string) => boolean {
    const taken = new Set(
      this.state.catalog.tables.flatMap((table) => [
        table.name,
        ...constraintsOf(table).map(({ key }) => qualify(schemaOf(table.name), key.name))
      ])
    )
    return (name) => taken.has(name)
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

  private renameConstraints(to: CatalogTable): void {
    const before = byId(this.input.from.tables).get(to.id)
    if (!before) return
    const kept = constraintsOf(before).flatMap((each) => {
      const after = this.survival.of(before, each)
      if (!after) return []
      const now = this.state.constraint(to.id, each.kind, each.key.id)
      return [{ id: each.key.id, kind: each.kind, from: now.key.name, to: after.key.name }]
    })
    const kinds = new Map(kept.map(({ id, kind }) => [id, kind]))
    this.renameAll(kept, [], (id, name) =>
      this.do({ kind: 'renameConstraint', table: to.id, of: kinds.get(id) as ConstraintKind, id, name })
    )
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
      made.map(({ name }) => name),
      rename
    )
  }

  /** Renames so that no two things have a name at once: what is in the way gets a passing name first. */
  private renameAll(
    all: readonly { id: string; from: string; to: string }[],
    come: readonly string[],
    rename: (id: string, name: string) => void
  ): void {
    const changing = all.filter(({ from, to }) => from !== to)
    const takers = new Map<string, number>()
    for (const name of [...come, ...changing.map(({ to }) => to)].map(folded))
      takers.set(name, (takers.get(name) ?? 0) + 1)
    const isTaken = ({ from, to }: { from: string; to: string }): boolean =>
      (takers.get(folded(from)) ?? 0) > (folded(from) === folded(to) ? 1 : 0)
    for (const each of changing.filter(isTaken)) rename(each.id, this.names.give(`old_${each.from}`))
    for (const { id, to } of changing) rename(id, to)
  }
}

const folded = (name: string): string => name.toLowerCase()
