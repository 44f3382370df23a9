import { Processes } from './processes.ts'
import type { Store } from './store.ts'
import { writeFrom } from './writing.ts'
import type { NotWhole, Whole, Written } from './tasks.ts'

/** So many tables, each counted with every version, are written in less time than a process takes to start. */
const FEW = 500

/**
 * Writes what takes long in a process of its own, which reads the designs beside the server, so that nobody waits for
 * it; what takes little is written here.
 */
export class Apart {
  private readonly processes = new Processes()

  constructor(
    private readonly store: Store,
    private readonly folder: string
  ) {}

  /**
   * Writes to a file.
   * @returns the designs of which not all is in it; nothing where there is no such design
   * @throws Damaged
   */
  async write(written: Written, to: string): Promise<NotWhole[] | undefined> {
    const all = await this.store.list()
    const those = written.kind === 'backup' ? all : all.filter(({ id }) => id === written.design)
    const size = those.reduce((sum, { tables, versions }) => sum + tables * (versions + 1), 0)
    if (size <= FEW) return writeFrom(this.store, written, to)
    const done = await this.processes.run({ kind: 'write', folder: this.folder, written, to })
    return done.notWhole
  }

  /**
   * Judges what is read whole, and writes what it holds as a backup beside it.
   * @returns the path of that
   * @throws CannotTake
   */
  async asLines(what: Whole, file: string): Promise<string> {
    const to = `${file}.lines`
    await this.processes.run({ kind: 'lines', what, from: file, to })
    return to
  }

  close(): void {
    this.processes.close()
  }
}
