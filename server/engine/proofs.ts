import { randomUUID } from 'node:crypto'
import { createRequire } from 'node:module'
import { pathToFileURL } from 'node:url'
import { Worker } from 'node:worker_threads'
import type { DialectName } from '../../core/dialect/dialect.ts'
import type { Proof } from '../../core/version/proof.ts'
import type { FromWorker, ProofTask, ToWorker } from './proof-worker.ts'

/** How a proof on one engine stands, as it is told to whoever asked for it. */
export interface ProofState { engine: DialectName; title: string; phase: 'waiting' | 'starting' | 'running' | 'done' | 'broken'; proof: Proof | undefined; message: string | undefined }
export interface Job { id: string; states: ProofState[]; ended: boolean }

/** A worker that has not stopped by itself so long after it was told to is ended (milliseconds). */
const GRACE = 3000
/** Jobs that have ended are remembered for who asks late, so many of them. */
const REMEMBERED = 20

/**
 * Proofs run off the main thread, one worker for each engine, which stays warm for the next. What is
 * told of each job goes to `publish`.
 */
export class Proofs {
  private readonly jobs = new Map<string, Job>()
  private readonly workers = new Map<DialectName, Worker>()

  constructor(private readonly publish: (job: Job) => void) {}

  start(tasks: ProofTask[]): Job {
    const id = randomUUID()
    const job: Job = { id, ended: false, states: tasks.map(({ engine }) => ({ engine, title: '', phase: 'waiting', proof: undefined, message: undefined })) }
    this.jobs.set(id, job)
    for (const old of [...this.jobs.values()].filter((each) => each.ended).slice(0, -REMEMBERED)) this.jobs.delete(old.id)
    for (const task of tasks) this.tell(task.engine, { kind: 'prove', job: id, task })
    return job
  }

  job(id: string): Job | undefined {
    return this.jobs.get(id)
  }

  /** Stops a job after the statement that is running; an engine that does not come back is ended. */
  cancel(id: string): boolean {
    const job = this.jobs.get(id)
    if (!job) return false
    for (const state of job.states.filter(isOpen)) {
      this.tell(state.engine, { kind: 'cancel', job: id })
      setTimeout(() => {
        if (isOpen(state)) void this.stop(state.engine).then(() => this.breakOpen(state.engine, 'It was cancelled.'))
      }, GRACE).unref()
    }
    return true
  }

  async close(): Promise<void> {
    await Promise.all([...this.workers.keys()].map((engine) => this.stop(engine)))
  }

  private async stop(engine: DialectName): Promise<void> {
    const worker = this.workers.get(engine)
    this.workers.delete(engine)
    await worker?.terminate()
  }

  private tell(engine: DialectName, message: ToWorker): void {
    this.worker(engine).postMessage(message)
  }

  private worker(engine: DialectName): Worker {
    const known = this.workers.get(engine)
    if (known) return known
    const loader = pathToFileURL(createRequire(import.meta.url).resolve('tsx')).href
    const worker = new Worker(new URL('./proof-worker.ts', import.meta.url), { execArgv: ['--import', loader] })
    worker.unref()
    worker.on('message', (message: FromWorker) => this.hear(engine, message))
    worker.on('error', (error) => {
      if (this.workers.get(engine) === worker) this.workers.delete(engine)
      this.breakOpen(engine, `The engine stopped: ${error.message}`)
    })
    this.workers.set(engine, worker)
    return worker
  }

  private hear(engine: DialectName, message: FromWorker): void {
    const job = this.jobs.get(message.job)
    const state = job?.states.find((each) => each.engine === engine)
    if (!job || !state) return
    if (message.kind === 'starting') state.phase = 'starting'
    else if (message.kind === 'broken') Object.assign(state, { phase: 'broken', message: message.message })
    else Object.assign(state, { phase: message.kind === 'done' ? 'done' : 'running', proof: message.proof, title: message.title })
    this.settle(job)
  }

  /** Everything that waited for an engine that is gone is told so. */
  private breakOpen(engine: DialectName, message: string): void {
    for (const job of this.jobs.values()) {
      for (const state of job.states) {
        if (state.engine === engine && isOpen(state)) Object.assign(state, { phase: 'broken', message })
      }
      this.settle(job)
    }
  }

  private settle(job: Job): void {
    if (job.ended) return
    job.ended = !job.states.some(isOpen)
    this.publish(job)
  }
}

const isOpen = (state: ProofState): boolean => state.phase !== 'done' && state.phase !== 'broken'
