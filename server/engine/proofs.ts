import { fork, type ChildProcess } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import type { DialectName } from '../../core/dialect/dialect.ts'
import type { EngineRun } from '../../core/rehearse/on-engine.ts'
import { program } from '../places.ts'
import type { FromProcess, ProofTask, ToProcess } from './proof-process.ts'
import type { Proof } from '../../core/version/proof-step.ts'

/** How a proof on one engine stands, as it is told to whoever asked for it. */
export interface ProofState {
  engine: DialectName
  title: string
  phase: 'waiting' | 'starting' | 'running' | 'done' | 'broken'
  proof: Proof | undefined
  /** What it did with a trial, where that was asked for. */
  run: EngineRun | undefined
  message: string | undefined
}
export interface Job {
  id: string
  states: ProofState[]
  ended: boolean
}

/** A process that has not stopped by itself so long after it was told to is ended (milliseconds). */
const GRACE = 3000
/** Jobs that have ended are remembered for who asks late, so many of them. */
const REMEMBERED = 20

/**
 * Proofs run in processes of their own, one for each engine, which stays warm for the next; whatever an
 * engine does, the server goes on. What is told of each job goes to `publish`.
 */
export class Proofs {
  private readonly jobs = new Map<string, Job>()
  private readonly processes = new Map<DialectName, ChildProcess>()

  constructor(private readonly publish: (job: Job) => void) {}

  start(tasks: ProofTask[]): Job {
    const id = randomUUID()
    const job: Job = {
      id,
      ended: false,
      states: tasks.map(({ engine }) => ({
        engine,
        title: '',
        phase: 'waiting',
        proof: undefined,
        run: undefined,
        message: undefined
      }))
    }
    this.jobs.set(id, job)
    for (const old of [...this.jobs.values()].filter((each) => each.ended).slice(0, -REMEMBERED))
      this.jobs.delete(old.id)
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
        if (!isOpen(state)) return
        this.stop(state.engine)
        this.breakOpen(state.engine, 'It was cancelled.')
      }, GRACE).unref()
    }
    return true
  }

  close(): void {
    for (const engine of [...this.processes.keys()]) this.stop(engine)
  }

  private stop(engine: DialectName): void {
    const running = this.processes.get(engine)
    this.processes.delete(engine)
    running?.kill('SIGKILL')
  }

  private tell(engine: DialectName, message: ToProcess): void {
    this.process(engine).send(message)
  }

  private process(engine: DialectName): ChildProcess {
    const known = this.processes.get(engine)
    if (known) return known
    const { module, execArgv } = program('proof-process', 'server/engine/proof-process.ts')
    const started = fork(module, {
      execArgv,
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      serialization: 'advanced'
    })
    started.on('message', (message: FromProcess) => this.hear(engine, message))
    started.on('error', () => undefined)
    started.on('exit', () => {
      if (this.processes.get(engine) !== started) return
      this.processes.delete(engine)
      this.breakOpen(engine, 'The engine stopped by itself. Try again.')
    })
    this.processes.set(engine, started)
    return started
  }

  private hear(engine: DialectName, message: FromProcess): void {
    const job = this.jobs.get(message.job)
    const state = job?.states.find((each) => each.engine === engine)
    if (!job || !state) return
    if (message.kind === 'starting') state.phase = 'starting'
    else if (message.kind === 'broken') Object.assign(state, { phase: 'broken', message: message.message })
    else if (message.kind === 'ran')
      Object.assign(state, { phase: 'done', run: message.run, title: message.title })
    else
      Object.assign(state, {
        phase: message.kind === 'done' ? 'done' : 'running',
        proof: message.proof,
        title: message.title
      })
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
