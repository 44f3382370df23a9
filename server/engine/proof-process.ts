import { DIALECTS, isProvable } from '../../core/dialect/index.ts'
import type { DialectName } from '../../core/dialect/dialect.ts'
import type { Design } from '../../core/design/model.ts'
import { proveDesign, proveMigration } from '../../core/version/proof.ts'
import { runOnEngine, type EngineRun } from '../../core/rehearse/on-engine.ts'
import { rulebookOf } from '../../core/rehearse/rules.ts'
import { rehearse } from '../../core/rehearse/run.ts'
import { soundRows } from '../../core/rehearse/sound-rows.ts'
import type { Trial } from '../../core/rehearse/trial.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'
import type { Proof } from '../../core/version/proof-step.ts'

/**
 * What is to be proven: one state, or the way from one to another and back; or what a trial does to its rows. Designs
 * are texts of JSON, which pass from one process to another in little time.
 */
export interface ProofTask {
  engine: DialectName
  to: string
  from?: string
  names: { from: string; to: string }
  trial?: Trial
}
export type ToProcess = { kind: 'prove'; job: string; task: ProofTask } | { kind: 'cancel'; job: string }
export type FromProcess =
  | { job: string; kind: 'starting' }
  | { job: string; kind: 'progress'; proof: Proof; title: string }
  | { job: string; kind: 'done'; proof: Proof; title: string }
  | { job: string; kind: 'ran'; run: EngineRun; title: string }
  | { job: string; kind: 'broken'; message: string }

/** One process keeps one engine warm and proves one thing after the other on it. */
let engine: Promise<Engine> | undefined
let running: { job: string; signal: { aborted: boolean } } | undefined
const cancelled = new Set<string>()

const send = (message: FromProcess): void => void process.send?.(message)

async function prove(job: string, task: ProofTask): Promise<void> {
  const signal = { aborted: cancelled.delete(job) }
  running = { job, signal }
  try {
    send({ job, kind: 'starting' })
    const dialect = DIALECTS[task.engine]
    if (!isProvable(dialect)) throw new Error(`No ${dialect.title} runs here.`)
    engine ??= openEngine(dialect)
    const { query, title } = await engine
    const to = JSON.parse(task.to) as Design
    if (task.trial) {
      const { design } = soundRows(to)
      const rehearsed = rehearse(design, rulebookOf(design, dialect), task.trial)
      return send({
        job,
        kind: 'ran',
        run: await runOnEngine(design, dialect, query, task.trial, rehearsed),
        title
      })
    }
    const report = (proof: Proof): void => send({ job, kind: 'progress', proof, title })
    const proof = task.from
      ? await proveMigration(JSON.parse(task.from) as Design, to, dialect, query, {
          report,
          signal,
          names: task.names
        })
      : await proveDesign(to, dialect, query, { report, signal })
    send({ job, kind: 'done', proof, title })
  } catch (error) {
    engine = undefined
    send({ job, kind: 'broken', message: error instanceof Error ? error.message : String(error) })
  } finally {
    running = undefined
  }
}

let queue: Promise<unknown> = Promise.resolve()
process.on('message', (message: ToProcess) => {
  if (message.kind === 'prove') queue = queue.then(() => prove(message.job, message.task))
  else if (running?.job === message.job) running.signal.aborted = true
  else cancelled.add(message.job)
})
// Without the server there is nobody left to prove for.
process.on('disconnect', () => process.exit())
