import { byId } from '../design/by-id.ts'
import { NameGiver } from '../naming/fit.ts'
import { isSameTable, type CatalogColumn, type CatalogTable } from './catalog.ts'
import type { Facts } from './facts.ts'
import { sort, type Keepsake, type MigrationInput, type BothStates } from './migration.ts'
import { nameParts } from './qualified.ts'
import { replacedLists, same } from './replaced-lists.ts'
import { State } from './state.ts'
import { constraintsOf, type Step } from './step.ts'
import { Survival, type InPlace } from './survival.ts'

/** What steps are worked out with, beside what changes. */
export interface StepWords {
  quote(name: string): string
  facts: Pick<Facts, 'nameLimit' | 'refusedInNames'>
  inPlace: InPlace
}

/** What has been worked out so far, and what there is by then. */
export abstract class Course {
  protected readonly steps: Step[] = []
  protected readonly state: State
  protected readonly survival: Survival
  private giver: NameGiver | undefined
  /** The tables that are concerned: most of a design stays as it is. */
  protected readonly tables: ReturnType<typeof sort<CatalogTable>>
  protected readonly after: CatalogTable[]
  /** The lists of values that another takes the place of. */
  protected readonly listsReplaced: ReadonlySet<string>
  /** Those, by the ids that they have until they go. */
  protected readonly replaced = new Map<string, string>()

  constructor(
    protected readonly input: MigrationInput,
    protected readonly words: StepWords
  ) {
    this.state = new State(input.from)
    this.listsReplaced = replacedLists(input, words.inPlace)
    this.survival = new Survival(input, words.inPlace, this.listsReplaced)
    this.tables = changing(input)
    this.after = [...this.tables.made, ...this.tables.kept.map(({ to }) => to)]
  }

  /** Gives passing names; most migrations need none. */
  protected get names(): NameGiver {
    if (this.giver) return this.giver
    const { nameLimit, refusedInNames } = this.words.facts
    const giver = new NameGiver(nameLimit, refusedInNames)
    for (const name of new Set(namesIn(this.input))) giver.give(name)
    this.giver = giver
    return giver
  }

  protected do(step: Step): void {
    this.state.take(step)
    this.steps.push(step)
  }
}

/** Of the tables that stay those that differ, or are of a list of values that does, and those that refer to one. */
function changing({ from, to }: MigrationInput): ReturnType<typeof sort<CatalogTable>> {
  const { gone, made, kept } = sort(from.tables, to.tables)
  const lists = new Set(
    sort(from.enums, to.enums)
      .kept.filter((pair) => !same(pair.from.values, pair.to.values))
      .map((pair) => pair.to.id)
  )
  const isOfOne = ({ columns }: CatalogTable): boolean =>
    lists.size > 0 && columns.some(({ type }) => type.list !== undefined && lists.has(type.list))
  const isOther = (pair: BothStates<CatalogTable>): boolean =>
    !isSameTable(pair.from, pair.to) || isOfOne(pair.to)
  const differ = new Set(kept.filter(isOther).map((pair) => pair.to.id))
  const leans = (pair: BothStates<CatalogTable>): boolean =>
    pair.to.foreignKeys.some((key) => differ.has(key.table))
  return { gone, made, kept: kept.filter((pair) => differ.has(pair.to.id) || leans(pair)) }
}

/** Every name that there is before or after. */
function namesIn({ from, to, keep, restore, flow }: MigrationInput): string[] {
  const tables = [...from.tables, ...to.tables]
  return [
    ...[...from.enums, ...to.enums, ...from.schemas, ...to.schemas].map(({ name }) => name),
    ...tables.flatMap((table) => [
      bareName(table.name),
      ...constraintsOf(table).map(({ key }) => key.name),
      ...table.columns.map(({ name }) => name)
    ]),
    ...[...keep, ...restore].map(({ name }: Keepsake) => name),
    ...flow.results.map(({ name }) => `carried_${name}`)
  ]
}

export const bareName = (name: string): string => nameParts(name).at(-1) ?? name

export const columnIn = (table: CatalogTable | undefined, id: string): CatalogColumn | undefined =>
  table && byId(table.columns).get(id)
