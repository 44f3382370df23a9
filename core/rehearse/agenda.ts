import type { Row, Table } from '../design/model.ts'
import type { ReferenceRule } from './rules.ts'
import type { Cause, EffectKind } from './trial.ts'

/** One row to be changed. */
export interface RowTask {
  kind: 'row'
  what: EffectKind
  table: Table
  place: number
  /** What becomes of its columns; nothing where it goes. */
  values: Row | undefined
  cause: Cause | undefined
  step: number
}

/** A reference whose turn it is, since a row that it may lead to is gone or has another key. */
export interface TurnTask {
  kind: 'turn'
  rule: ReferenceRule
  on: 'delete' | 'update'
  before: Row
  after: Row | undefined
  effect: number
  step: number
}

/** Whether what refers by a text leads somewhere. */
export interface LookTask {
  kind: 'look'
  rule: ReferenceRule
  text: string
  effect: number
  /** Whether it is looked at because something refers from now on, or because what was referred to is gone. */
  because: 'refers' | 'gone'
}

/** A row that is there again when all that its change brings about is done. */
export interface SettleTask {
  kind: 'settle'
  task: RowTask
  before: Row
  after: Row
  effect: number
}

export type Task = RowTask | TurnTask | LookTask | SettleTask

/** What is still to be done, and in which order: a queue, or what was added last first. */
export class Agenda {
  private tasks: Task[] = []
  private next = 0

  constructor(private readonly isQueue: boolean) {}

  /** Adds tasks in their order, and others behind them. */
  add(tasks: readonly Task[], others: readonly Task[] = []): void {
    if (this.isQueue) {
      for (const task of tasks) this.tasks.push(task)
      for (const task of others) this.tasks.push(task)
      return
    }
    for (let at = others.length - 1; at >= 0; at--) this.tasks.push(others[at] as Task)
    for (let at = tasks.length - 1; at >= 0; at--) this.tasks.push(tasks[at] as Task)
  }

  take(): Task | undefined {
    return this.isQueue ? this.tasks[this.next++] : this.tasks.pop()
  }

  clear(): void {
    this.tasks = []
    this.next = 0
  }
}
