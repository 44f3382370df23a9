import { byId } from '../design/by-id.ts'
import type { Statement, Tables } from './catalog.ts'
import type { MigrationInput } from './migration.ts'
import { KeepsakeWriter } from './keepsake-writer.ts'
import type { DraftStatement } from './row-writer.ts'
import type { Speech } from './speech.ts'
import type { State } from './state.ts'
import { isKeepStep, isShapeStep, type ShapeStep, type Step } from './step.ts'

export type { RowId, DraftStatement, Update } from './row-writer.ts'

/**
 * Says the steps of a migration one after the other, each over what there is by then. What moves rows is
 * said in ./row-writer.ts, what is kept in ./keepsake-writer.ts; what changes the catalog is the dialect's to say.
 */
export abstract class StepWriter extends KeepsakeWriter {
  private readonly others: Tables

  constructor(input: MigrationInput, speech: Speech) {
    super(input, speech)
    this.others = byId([...input.from.tables, ...input.to.tables].filter((table) => table.external))
  }

  /** What changes the catalog, in the dialect's words. */
  protected abstract shape(step: ShapeStep): DraftStatement[]

  /** The tables that references lead to, another system's among them. */
  protected get tables(): Tables {
    const { state, others } = this
    return { get: (id) => state.tables.get(id) ?? others.get(id) }
  }

  protected say(step: Step): DraftStatement[] {
    if (isShapeStep(step)) return this.shape(step)
    return isKeepStep(step) ? this.keepAside(step) : this.moveRows(step)
  }

  /** The statements for the steps. */
  write(steps: readonly Step[]): Statement[] {
    return this.groups(steps, false).flatMap(({ statements }) => statements)
  }

  /** The same from a state on that is not the first. */
  writeFrom(state: State, steps: readonly Step[]): Statement[] {
    this.state = state
    return this.write(steps)
  }

  /** The statements in groups that can be done and taken back by themselves: those of a step, or of several in one. */
  groups(steps: readonly Step[], withStates = true): StatementGroup[] {
    const groups: StatementGroup[] = []
    let last: (StatementGroup & { said: DraftStatement[] }) | undefined
    for (const step of steps) {
      const said = this.say(step)
      const before = withStates ? this.state.clone() : this.state
      this.state.take(step)
      if (said.length === 0) continue
      const [alters] = said.map((each) => each.alters)
      const isOne =
        alters !== undefined && [...(last?.said ?? []), ...said].every((each) => each.alters === alters)
      if (last && isOne && last.steps.every((each) => sortOf(each) === sortOf(step))) {
        last.steps.push(step)
        last.said.push(...said)
      } else {
        last = { steps: [step], before, said, statements: [], cleanups: [] }
        groups.push(last)
      }
      last.statements = joined(last.said)
      last.cleanups = last.said.flatMap(({ cleanup }) => cleanup ?? [])
    }
    return groups
  }
}

/** Steps of one sort may stand in one statement: a reference may need a key that is there before it. */
const sortOf = (step: Step): string =>
  step.kind === 'addConstraint' && step.constraint.kind === 'foreignKey' ? 'refer' : step.kind

/** Statements that belong together. */
export interface StatementGroup {
  steps: Step[]
  /** What there is before them, where states were asked for. */
  before: State
  statements: Statement[]
  /** What is to be done first where they are taken back half-way. */
  cleanups: string[]
}

/** Clauses of one ALTER TABLE that follow one another stand in one statement: on a line where it is one. */
function joined(said: readonly DraftStatement[]): Statement[] {
  const statements: (Statement & { alters: string | undefined; clauses: string[] })[] = []
  for (const { sql, says, alters } of said) {
    const last = statements.at(-1)
    if (alters === undefined || last?.alters !== alters)
      statements.push({ sql: alters === undefined ? sql : `${alters} ${sql}`, says, alters, clauses: [sql] })
    else {
      last.clauses.push(sql)
      last.sql = `${alters}\n  ${last.clauses.join(',\n  ')}`
      if (!last.says.split('; ').includes(says)) last.says += `; ${says}`
    }
  }
  return statements.map(({ sql, says }) => ({ sql, says }))
}
