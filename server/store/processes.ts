import { fork, type ChildProcess } from 'node:child_process'
import { program } from '../places.ts'
import { CannotTake, Closing, Damaged } from './trouble.ts'
import type { FromHelper, ToHelper } from './tasks.ts'

const TROUBLE = { damaged: Damaged, refused: CannotTake, broken: Error }

/** Long work in processes of its own (./helper-process.ts), one for each piece, so that nobody waits for it. */
export class Processes {
  private readonly running = new Set<ChildProcess>()

  /** @throws Damaged, CannotTake; Closing where the process was ended */
  run(task: ToHelper): Promise<Extract<FromHelper, { kind: 'done' }>> {
    const { module, execArgv } = program('helper-process', 'server/store/helper-process.ts')
    const started = fork(module, {
      execArgv,
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      serialization: 'advanced'
    })
    this.running.add(started)
    return new Promise<Extract<FromHelper, { kind: 'done' }>>((resolve, reject) => {
      started.once('message', (answer: FromHelper) => {
        if (answer.kind === 'done') resolve(answer)
        else reject(new TROUBLE[answer.kind](answer.message))
      })
      started.once('error', reject)
      started.once('exit', () => reject(new Closing()))
      started.send(task)
    }).finally(() => this.running.delete(started))
  }

  close(): void {
    for (const each of this.running) each.kill('SIGKILL')
  }
}
