import { fork, type ChildProcess } from 'node:child_process'
import { program } from '../places.ts'
import type { Store } from './store.ts'
import { Closing, Damaged } from './trouble.ts'
import type { FromWriter, ToWriter } from './writing-process.ts'
import { writeFrom, type Written } from './writing.ts'

/** So many tables, each counted with every version, are written in less time than a process takes to start. */
const FEW = 500

/**
 * Writes what takes long in a process of its own, which reads the designs beside the server, so that nobody waits for
 * it; what takes little is written here.
 */
export class Apart {
  private readonly processes = new Set<ChildProcess>()

  constructor(
    private readonly store: Store,
    private readonly folder: string
  ) {}

  /** Writes to a file. False where there is no such design. @throws Damaged */
  async write(written: Written, to: string): Promise<boolean> {
    const all = await this.store.list()
    const those = written.kind === 'backup' ? all : all.filter(({ id }) => id === written.design)
    const size = those.reduce((sum, { tables, versions }) => sum + tables * (versions + 1), 0)
    return size <= FEW
      ? writeFrom(this.store, written, to)
      : this.writeApart({ folder: this.folder, written, to })
  }

  private writeApart(task: ToWriter): Promise<boolean> {
    const { module, execArgv } = program('writing-process', 'server/store/writing-process.ts')
    const started = fork(module, { execArgv, stdio: ['ignore', 'ignore', 'inherit', 'ipc'] })
    this.processes.add(started)
    return new Promise<boolean>((resolve, reject) => {
      started.once('message', (answer: FromWriter) => {
        if (answer.kind === 'done') resolve(answer.isThere)
        else reject(answer.kind === 'damaged' ? new Damaged(answer.message) : new Error(answer.message))
      })
      started.once('error', reject)
      started.once('exit', () => reject(new Closing()))
      started.send(task)
    }).finally(() => this.processes.delete(started))
  }

  close(): void {
    for (const each of this.processes) each.kill('SIGKILL')
  }
}
