import { byId } from '../design/by-id.ts'
import type { Statement } from './catalog.ts'
import type { MigrationInput } from './migration.ts'
import { RowWriter, type Said } from './row-writer.ts'
import type { Speech } from './speech.ts'
import { isShapeStep, type ShapeStep, type Step } from './step.ts'
import type { Tables } from './write.ts'

export type { RowId, Said, Update } from './row-writer.ts'

/**
 * Says the steps of a migration one after the other, each over what there is by then. What moves rows is
 * said in ./row-writer.ts; what changes the catalog is the dialect's to say.
 */
export abstract class StepWriter extends RowWriter {
  private readonly others: Tables

  constructor(input: MigrationInput, speech: Speech) {
    super(input, speech)
    this.others = byId([...input.from.tables, ...input.to.tables].filter((table) => table.external))
  }

  /** What changes the catalog, in the dialect's words. */
  protected abstract shape(step: ShapeStep): Said[]

  /** The tables that references lead to, another system's among them. */
  protected get tables(): Tables {
    const { state, others } = this
    return { get: (id) => state.tables.get(id) ?? others.get(id) }
  }

  /** The statements for the steps. */
  write(steps: readonly Step[]): Statement[] {
    const statements: Statement[] = []
    let open: Clauses | undefined
    const close = (): void => {
      if (open) statements.push(altering(open))
      open = undefined
    }
    for (const step of steps) {
      for (const said of isShapeStep(step) ? this.shape(step) : this.rows(step)) {
        if (open && (open.alters !== said.alters || open.kind !== step.kind)) close()
        if (said.alters === undefined) statements.push({ sql: said.sql, says: said.says })
        else {
          open ??= { alters: said.alters, kind: step.kind, clauses: [], says: [] }
          open.clauses.push(said.sql)
          if (!open.says.includes(said.says)) open.says.push(said.says)
        }
      }
      this.state.take(step)
    }
    close()
    return statements
  }
}

/** Clauses of one ALTER TABLE, by steps of one kind. */
interface Clauses {
  alters: string
  kind: Step['kind']
  clauses: string[]
  says: string[]
}

/** On a line where it is one. */
function altering({ alters, clauses, says }: Clauses): Statement {
  const sql = clauses.length === 1 ? `${alters} ${clauses[0]}` : `${alters}\n  ${clauses.join(',\n  ')}`
  return { sql, says: says.join('; ') }
}
