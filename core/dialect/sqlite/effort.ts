import type { EffortFacts } from '../effort.ts'

/**
 * What steps cost in SQLite: the whole database has one writer (SQLite, "File Locking And Concurrency"), and
 * a table that changes in more than an index is made anew (./migrate.ts).
 */
export const effort: EffortFacts = {
  until: 'until it ends',
  everywhere: 'Nobody else writes anything in the database until it ends.',
  referred: { work: 'none', waits: 'nobody' },
  released: { work: 'none', waits: 'nobody' },
  held: 'writers',
  changed: 'writers',
  dropped: 'writers',
  shape: (step) => {
    if (isOfTrigger(step)) return { work: 'none', waits: 'writers' }
    const isOfIndex =
      (step.kind === 'addConstraint' && step.constraint.kind === 'index') || isIndexDropped(step)
    if (!isOfIndex) return { work: 'writes', waits: 'writers' }
    return { work: isIndexDropped(step) ? 'none' : 'reads', waits: 'writers' }
  }
}

const isOfTrigger = (step: Parameters<EffortFacts['shape']>[0]): boolean =>
  (step.kind === 'addConstraint' && step.constraint.kind === 'trigger') ||
  (step.kind === 'dropConstraint' && step.of === 'trigger')

const isIndexDropped = (step: Parameters<EffortFacts['shape']>[0]): boolean =>
  step.kind === 'dropConstraint' && step.of === 'index'
