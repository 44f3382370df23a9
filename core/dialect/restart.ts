import type { Statement } from './catalog.ts'
import type { ScriptLine } from './chain.ts'
import type { MigrationInput } from './migration.ts'
import type { WayInput, WayInputs } from './step.ts'
import type { StatementGroup, StepWriter } from './step-writer.ts'
import { undoOf } from './undo.ts'
import type { WayProgress } from './distance.ts'

/** How a dialect says what keeps account of how far a migration has come. */
export interface RestartWords {
  /** The table of account, unless it is there: which way, and how many of its statements are done. */
  account: string
  /** The statements, where so many of a way are done but not more; then so many count as done. */
  when(
    done: { way: string; atLeast: number; below: number },
    statements: readonly string[],
    then: number
  ): string
  /** How many statements of a way are done; empty where it has not begun. */
  done(way: string): string
  /** Unless so many statements of the other way are done, but not all; and only where a condition holds. */
  begin(way: string, other: string, all: number, only?: string): string
  /** A way that was taken back whole: the other is as good as done. */
  settle(from: string, to: string, done: number): string[]
  /** The other way, which was done whole, can be gone again. */
  end(other: string, all: number): string
}

/** What holds a way to where the database stands. */
export interface Gate {
  first: ScriptLine[]
  /** The condition under which it begins. */
  only: string
  last: ScriptLine[]
}

/**
 * A way that can be stopped anywhere and run again: it goes on from where it came to. Where the other way was
 * stopped half-way, that is taken back instead, statement by statement, and then this one is done.
 */
export function restartable(
  ways: WayInputs,
  way: 'up' | 'down',
  writer: (input: MigrationInput) => StepWriter,
  words: RestartWords,
  always: readonly Statement[],
  gateFor?: (course: WayProgress) => Gate
): ScriptLine[] {
  const other = way === 'up' ? 'down' : 'up'
  const own = writer(ways[way].input).groups(ways[way].steps)
  const statements = own.flatMap((group) => group.statements)
  const back = writer(ways[other].input).groups(ways[other].steps)
  const enough = countOf(needed(back))
  const [{ id }, { id: otherId }] = [ways[way], ways[other]]
  const gate = gateFor?.({
    account: accountOf(ways),
    own: { done: words.done(id), enough: countOf(needed(own)), all: statements.length },
    other: { done: words.done(otherId), enough, all: countOf(back) }
  })
  return [
    ...always,
    { sql: words.account, says: 'how far this has come' },
    ...(gate?.first ?? []),
    {
      sql: words.begin(id, otherId, enough, gate?.only),
      says: `${way} begins, or goes on, unless ${other} was stopped`
    },
    // Where nothing changes, there and back are one.
    ...(id === otherId ? [] : [{ sql: words.end(otherId, enough), says: `${other} is past` }]),
    ...statements.map(({ sql, says }, at) => ({
      sql: words.when({ way: id, atLeast: at, below: at + 1 }, [sql], at + 1),
      says: `${at + 1} of ${statements.length}: ${says}`
    })),
    ...takenBack(ways[other], other, needed(back), writer, words),
    ...words
      .settle(otherId, id, statements.length)
      .map((sql) => ({ sql, says: `where ${other} was taken back, ${way} is done` })),
    ...(gate?.last ?? [])
  ]
}

/** The groups without those at the end that only clear away what was kept, which cannot be taken back. */
function needed(groups: readonly StatementGroup[]): StatementGroup[] {
  const clears = ({ steps }: StatementGroup): boolean => steps.every(({ kind }) => kind === 'dropKeepsake')
  const last = groups.findLastIndex((group) => !clears(group))
  return groups.slice(0, last + 1)
}

const countOf = (groups: readonly StatementGroup[]): number =>
  groups.flatMap(({ statements }) => statements).length

/** What takes a way back that was stopped: the last that may have begun first. */
function takenBack(
  { id, input }: WayInput,
  way: string,
  groups: readonly StatementGroup[],
  writer: (input: MigrationInput) => StepWriter,
  words: RestartWords
): Statement[] {
  const back = writer(input)
  let first = 0
  const parts = groups.map((group) => {
    const part = { group, first, last: first + group.statements.length }
    first = part.last
    return part
  })
  return parts.reverse().map((part) => ({
    // The next statement may have been done, and its end not been told.
    sql: words.when(
      { way: id, atLeast: part.first, below: part.last },
      undone(part.group, back, input),
      part.first - 1
    ),
    says: `where ${way} was stopped: take back ${part.group.statements[0]?.says ?? ''}`
  }))
}

function undone(group: StatementGroup, writer: StepWriter, input: MigrationInput): string[] {
  const states = [group.before]
  for (const step of group.steps) {
    const next = (states.at(-1) ?? group.before).clone()
    next.take(step)
    states.push(next)
  }
  const undo = [...group.steps].reverse().flatMap((step, at) => {
    const before = states[group.steps.length - 1 - at]
    return before ? undoOf(step, before, input) : []
  })
  const after = states.at(-1) ?? group.before
  return [...group.cleanups, ...writer.writeFrom(after.clone(), undo).map(({ sql }) => sql)]
}

/** The table of account of two ways, whichever of them is the way there. */
export const accountOf = ({ up, down }: WayInputs): string => `progress_${[up.id, down.id].sort()[0]}`
