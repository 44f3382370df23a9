import type { Statement } from './catalog.ts'
import type { MigrationInput } from './migration.ts'
import type { Step } from './step.ts'
import type { Group, StepWriter } from './step-writer.ts'
import { undoOf } from './undo.ts'

/** A way of a migration, as it is written from. */
export interface WayInput {
  input: MigrationInput
  steps: readonly Step[]
}

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
  begin(way: string): string
  /** A way that was taken back whole: the other is as good as done. */
  settle(from: string, to: string, done: number): string
  /** The other way can be gone again. */
  end(other: string): string
}

/**
 * A way that can be stopped anywhere and run again: it goes on from where it came to. Where the other way was
 * stopped half-way, that is taken back instead, statement by statement, and then this one is done.
 */
export function restartable(
  ways: Record<'up' | 'down', WayInput>,
  way: 'up' | 'down',
  writer: (input: MigrationInput) => StepWriter,
  words: RestartWords,
  always: readonly Statement[]
): Statement[] {
  const other = way === 'up' ? 'down' : 'up'
  const own = writer(ways[way].input).groups(ways[way].steps)
  const statements = own.flatMap((group) => group.statements)
  return [
    ...always,
    { sql: words.account, says: 'how far this has come' },
    ...takenBack(ways[other], other, writer, words),
    {
      sql: words.settle(other, way, statements.length),
      says: `where ${other} was taken back, ${way} is done`
    },
    { sql: words.begin(way), says: `${way} begins, or goes on` },
    ...statements.map(({ sql, says }, at) => ({
      sql: words.when({ way, atLeast: 0, below: at + 1 }, [sql], at + 1),
      says: `${at + 1} of ${statements.length}: ${says}`
    })),
    { sql: words.end(other), says: `${way} is done` }
  ]
}

/** What takes a way back that was stopped: the last that may have begun first. */
function takenBack(
  { input, steps }: WayInput,
  way: string,
  writer: (input: MigrationInput) => StepWriter,
  words: RestartWords
): Statement[] {
  const back = writer(input)
  let first = 0
  const parts = writer(input)
    .groups(steps)
    .map((group) => {
      const part = { group, first, last: first + group.statements.length }
      first = part.last
      return part
    })
  return parts.reverse().map((part) => ({
    // The next statement may have been done, and its end not been told.
    sql: words.when(
      { way, atLeast: part.first, below: first },
      undone(part.group, back, input),
      part.first - 1
    ),
    says: `where ${way} was stopped: take back ${part.group.statements[0]?.says ?? ''}`
  }))
}

function undone(group: Group, writer: StepWriter, input: MigrationInput): string[] {
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
