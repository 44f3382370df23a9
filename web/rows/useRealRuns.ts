import { PROVABLE } from '../../core/dialect/index.ts'
import { useDesign } from '../stores/design.ts'
import { useRehearsal } from '../stores/rehearsal.ts'
import { useProof } from '../versions/useProof.ts'

const ENGINES = PROVABLE.map(({ name }) => name)

/** What is tried, on the real engines of the design that run here, compared with what is worked out. */
export function useRealRuns(): Pick<
  ReturnType<typeof useProof>,
  'job' | 'failure' | 'running' | 'cancel' | 'stop'
> & { tryReally: () => void } {
  const store = useDesign()
  const rehearsal = useRehearsal()
  const { job, failure, running, run, cancel, stop } = useProof()
  function tryReally(): void {
    const engines = rehearsal.dialects.map(({ name }) => name).filter((name) => ENGINES.includes(name))
    const trial = {
      statements: rehearsal.statements,
      together: rehearsal.together,
      deferring: rehearsal.deferring
    }
    if (store.id !== '' && engines.length > 0) void run({ design: store.id, to: 'draft', engines, trial })
  }
  return { job, failure, running, cancel, stop, tryReally }
}
