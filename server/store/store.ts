import { setImmediate } from 'node:timers/promises'
import { FileWriting, type DesignFile } from '../../core/design/file.ts'
import { emptyDesign, newId, type Design, type Version } from '../../core/design/model.ts'
import { shorten } from '../../core/design/type.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Refusal } from '../../core/edit/refusal.ts'
import { sizeInTurns } from '../../core/design/size.ts'
import { textOf } from '../../core/design/text-of.ts'
import { inTurns } from '../in-turns.ts'
import { checksumOfDesign, checksumOfSnapshot, checksumOfVersion, firstMark, nextMark } from './marks.ts'
import type { DesignRow, SnapshotRow, VersionRow } from './models.ts'
import type { Head, Records } from './records.ts'
import { Processes } from './processes.ts'
import { some } from './some.ts'
import { Closing, Damaged } from './trouble.ts'
import { followed, lastOf, openOf, plain, stateOf, tooMany, type Open, type State } from './state.ts'
import { Turns } from './turns.ts'
import { readDesign, readOperation, readVersion, type Draft, type Logged } from './unfold.ts'

export type { Draft, Logged } from './unfold.ts'
/**
 * `mark`: that of the revision that was seen, where the client knows it; it shows that both have the same
 * history.
 */
export interface Submission {
  revision: number
  mark?: string | undefined
  operationId: string
  client: string
  operation: Operation
}
/**
 * `between`: what others did since the revision that the submission saw, in order. `parted`: the client
 * has seen another history than there is here; `behind`: it has seen this one, too long ago to be told what came
 * since, or what came is damaged. In both cases it must load the design anew.
 */
export type Answer =
  | { kind: 'taken'; logged: Logged; between: Logged[]; repeated: boolean }
  | { kind: 'refused'; refusal: Refusal; revision: number; mark: string; between: Logged[] }
  | Anew
export type Anew = { kind: 'parted' } | { kind: 'behind' }
/** `damage`: why the design cannot be opened. */
export interface Summary {
  id: string
  name: string
  revision: number
  changedAt: string
  tables: number
  versions: number
  lastNote: string | undefined
  damage: string | undefined
}
export type VersionInfo = Omit<Version, 'design'>

/** The log is folded into a snapshot after so many operations, so that opening a design stays quick. */
const SNAPSHOT_EVERY = 100
/** A client that is further behind, in operations or in characters of them, loads the design anew. */
const FURTHEST_BEHIND = 1000
const LONGEST_BEHIND = 8_000_000
/** What a choice of changes comes to is worked out here in designs of so many tables, and apart in larger ones. */
const FEW = 200
/**
 * What the store is opened with: what was found then, and who is told before a design is removed, where it
 * could not be, and at the end.
 */
export interface Around {
  notices?: readonly string[]
  goes?(id: string): void
  stays?(head: Head): void
  end?(): Promise<void>
}

/**
 * Designs with their logs and versions. What changes a design, or finds out how it stands, is done one
 * after the other; designs do not wait for each other. An operation is on disk before `submit` answers.
 * Opened by ./open.ts.
 */
export class Store {
  /** The designs that were used last: what is not used is let go. */
  private readonly states = new Map<string, State>()
  /** What is wrong with designs, as far as they were looked at. */
  private readonly damage = new Map<string, string>()
  private readonly turns = new Turns()
  /** What is worked out in processes of their own. */
  private readonly processes = new Processes()

  constructor(
    private readonly records: Records,
    private readonly around: Around = {}
  ) {}

  /** What was found when the store was opened, for a person. */
  get notices(): readonly string[] {
    return this.around.notices ?? []
  }

  /** Waits for what is being done, and lets go of the folder. What comes after is refused. */
  async close(): Promise<void> {
    const done = this.turns.close()
    this.processes.close()
    await done
    await this.records.close()
    await this.around.end?.()
  }

  /**
   * Every design, the one changed last first, by what is noted of each: none is read for it. A damaged one hides no
   * other; that it is damaged is told once it was opened, or looked at by {@link check}.
   */
  list(): Promise<Summary[]> {
    return this.turns.beside(async () => {
      const [rows, notes] = await Promise.all([
        this.records.heads(),
        this.records.lastNotes().catch(() => new Map<string, string>())
      ])
      return rows.map((row) => ({
        id: row.id,
        name: shorten(row.name, 128),
        revision: row.revision,
        changedAt: row.changedAt,
        tables: Math.max(row.tables, 0),
        versions: row.versions,
        lastNote: notes.get(row.id),
        damage: this.damage.get(row.id) ?? flawOfHead(row)
      }))
    })
  }

  /** Looks at every design, and lets go of it again; what is damaged is told of by {@link list} from then on. */
  async check(): Promise<void> {
    for (const { id } of await this.turns.beside(() => this.records.heads())) {
      if (this.turns.areClosed) return
      if (!this.states.has(id)) await this.look(id)
      // Whoever waits is served first.
      await setImmediate()
    }
  }

  private async look(id: string): Promise<void> {
    try {
      await this.turns.inTurn(id, async () => {
        const isKnown = this.states.has(id)
        await this.load(id)
        if (!isKnown) this.states.delete(id)
      })
    } catch (error) {
      if (error instanceof Closing) return
      this.damage.set(id, `It cannot be read. ${error instanceof Error ? error.message : String(error)}`)
    }
  }

  /**
   * Makes a design, empty or with all that a file holds. A file whose design is here already comes in as
   * another.
   */
  create(content: { name: string } | { file: DesignFile }): Promise<Draft> {
    const given = 'file' in content ? content.file.design : emptyDesign(content.name)
    // One after the other, so that of two files of one design only the first keeps its id.
    return this.turns.inTurn(given.id, async () => {
      const design = (await this.records.head(given.id)) ? { ...given, id: newId('d') } : given
      const at = new Date().toISOString()
      const saved = 'file' in content ? content.file.versions : []
      const mark = firstMark()
      const head: Head = {
        id: design.id,
        name: design.name,
        revision: 0,
        mark,
        versions: saved.length,
        createdAt: at,
        changedAt: at,
        tables: design.tables.length
      }
      const draft: Draft = { design, revision: 0, mark }
      await inTurns(sizeInTurns(design))
      await this.records.write({
        kind: 'create',
        head,
        snapshot: await snapshotOf(draft),
        versions: saved.map((version) => () => versionRow(design.id, version))
      })
      this.know(design.id, { ok: true, open: { draft, head, recent: [] } })
      return draft
    })
  }

  /**
   * The draft with everything acknowledged so far, or nothing where there is no such design. @throws
   * Damaged
   */
  async draft(id: string): Promise<Draft | undefined> {
    const state = await this.state(id)
    return state && openOf(state).draft
  }

  /**
   * Takes an operation into the log, if it can still be carried out on what there is now. One that was
   * sent before (its answer was lost) is answered as the first time. Nothing where there is no such design.
   */
  submit(id: string, submission: Submission): Promise<Answer | undefined> {
    return this.turns.inTurn(id, async () => {
      const state = await this.load(id)
      if (!state) return undefined
      const open = openOf(state)
      const { draft } = open
      if (!(await this.sharesHistory(id, open, submission))) return { kind: 'parted' }
      const between = await this.since(id, open, submission.revision)
      if (!between) return { kind: 'behind' }
      const before = await this.takenBefore(id, open, submission.operationId)
      if (before) return repeat(before, submission, between, draft)
      const result = apply(draft.design, submission.operation)
      if (!result.ok)
        return {
          kind: 'refused',
          refusal: result.refusal,
          revision: draft.revision,
          mark: draft.mark,
          between
        }
      const { operationId, client, operation } = submission
      const row = {
        designId: id,
        revision: draft.revision + 1,
        operationId,
        client,
        operation: JSON.stringify(operation),
        at: new Date().toISOString()
      }
      const mark = nextMark(draft.mark, row)
      const next: Draft = { design: result.design, revision: row.revision, mark }
      const head: Head = {
        ...open.head,
        name: result.design.name,
        revision: row.revision,
        mark,
        changedAt: row.at,
        tables: result.design.tables.length
      }
      const snapshot = row.revision % SNAPSHOT_EVERY === 0 ? await snapshotOf(next) : undefined
      await this.records.write({ kind: 'append', head, operation: { ...row, mark }, snapshot })
      const logged: Logged = { revision: row.revision, operationId, client, operation, mark }
      const recent = lastOf([...open.recent, { ...logged, length: row.operation.length }])
      this.know(id, { ok: true, open: { draft: next, head, recent } })
      return { kind: 'taken', logged, between, repeated: false }
    })
  }

  /** Whether what the client saw is what there was here at that revision. */
  private async sharesHistory(
    id: string,
    { draft, recent }: Open,
    { revision, mark }: Pick<Submission, 'revision' | 'mark'>
  ): Promise<boolean> {
    if (revision > draft.revision) return false
    if (mark === undefined) return true
    if (revision === draft.revision) return mark === draft.mark
    const own =
      recent.find((each) => each.revision === revision)?.mark ?? (await this.records.markAt(id, revision))
    return mark === own
  }

  /** What was done since a revision; nothing where that is too much. */
  private async since(id: string, { draft, recent }: Open, revision: number): Promise<Logged[] | undefined> {
    if (draft.revision - revision > FURTHEST_BEHIND) return undefined
    const first = recent[0]?.revision ?? draft.revision + 1
    if (revision + 1 >= first || revision === draft.revision)
      return recent.filter((each) => each.revision > revision).map(plain)
    if ((await this.records.lengthAfter(id, revision)) > LONGEST_BEHIND) return undefined
    const [rows, mark] = await Promise.all([
      this.records.operationsAfter(id, revision, FURTHEST_BEHIND),
      this.records.markAt(id, revision)
    ])
    return mark === undefined ? undefined : followed(rows, mark, draft)
  }

  private async takenBefore(id: string, { recent }: Open, operationId: string): Promise<Logged | undefined> {
    const near = recent.find((each) => each.operationId === operationId)
    if (near) return plain(near)
    const row = await this.records.operation(id, operationId)
    if (!row) return undefined
    const before = await this.records.markAt(id, row.revision - 1)
    const read = before === undefined || row.mark === nextMark(before, row) ? readOperation(row) : undefined
    if (!read)
      throw new Damaged(`What became of this change is not known: change ${row.revision} is damaged.`)
    return read
  }

  /**
   * What was done since a revision that a client saw; `parted` and `behind` as in {@link submit}, nothing where
   * there is no such design.
   */
  operationsAfter(
    id: string,
    seen: Pick<Submission, 'revision' | 'mark'>
  ): Promise<Logged[] | 'parted' | 'behind' | undefined> {
    return this.turns.beside(async () => {
      const state = await this.state(id)
      if (!state) return undefined
      const open = openOf(state)
      if (!(await this.sharesHistory(id, open, seen))) return 'parted'
      return (await this.since(id, open, seen.revision)) ?? 'behind'
    })
  }

  versions(id: string): Promise<VersionInfo[]> {
    return this.turns.beside(async () =>
      (await this.records.versions(id)).map(({ number, note, savedAt }) => ({ number, note, savedAt }))
    )
  }

  /** @throws Damaged where it is not as it was saved. */
  version(id: string, number: number): Promise<Version | undefined> {
    return this.turns.beside(async () => {
      const row = await this.records.version(id, number)
      if (row) return inTurns(readVersion(row))
      const head = await this.records.head(id)
      if (head && number <= head.versions)
        throw new Damaged(`Version ${number} is damaged: it is not there any more.`)
      return undefined
    })
  }

  /**
   * Saves the draft as the next version; `stale` where it has changed since the revision that was seen,
   * `unknown` where what was chosen is not among its changes.
   * @param only the keys of those changes since the last version that it is to have; the others stay in the
   *   draft
   */
  saveVersion(
    id: string,
    { note, revision, only }: { note: string; revision: number; only?: readonly string[] | undefined }
  ): Promise<Version | 'stale' | 'unknown' | undefined> {
    return this.turns.inTurn(id, async () => {
      const state = await this.load(id)
      if (!state) return undefined
      const open = openOf(state)
      if (open.draft.revision !== revision) return 'stale'
      const design = only ? await this.someOf(open, only) : open.draft.design
      if (!design) return 'unknown'
      const version: Version = {
        number: open.head.versions + 1,
        note,
        savedAt: new Date().toISOString(),
        design
      }
      const head: Head = { ...open.head, versions: version.number }
      await this.records.write({ kind: 'version', head, version: await versionRow(id, version) })
      this.know(id, { ok: true, open: { ...open, head } })
      return version
    })
  }

  /** The last version with some of the draft's changes; nothing where they are not among them. */
  some(id: string, only: readonly string[]): Promise<Design | undefined> {
    return this.turns.beside(async () => {
      const state = await this.state(id)
      return state && this.someOf(openOf(state), only)
    })
  }

  private async someOf({ draft, head }: Open, only: readonly string[]): Promise<Design | undefined> {
    const row = await this.records.version(head.id, head.versions)
    if (!row) return undefined
    const { design } = await inTurns(readVersion(row))
    if (draft.design.tables.length <= FEW) return some(design, draft.design, only)
    const to = await inTurns(textOf(draft.design))
    const found = await this.processes.run({ kind: 'some', from: row.design, to, only })
    return found.design === undefined ? undefined : inTurns(readDesign(found.design))
  }

  /**
   * Changes what is said of a version; or, of the last, what it is: the draft, from then on. `stale` where
   * the draft has changed since the revision that was seen, `past` where the version is not the last.
   */
  changeVersion(
    id: string,
    number: number,
    { note, revision }: { note?: string | undefined; revision?: number | undefined }
  ): Promise<Version | 'stale' | 'past' | undefined> {
    return this.turns.inTurn(id, async () => {
      const state = await this.load(id)
      const row = state && (await this.records.version(id, number))
      if (!row) return undefined
      const { draft, head } = openOf(state)
      const before = await inTurns(readVersion(row))
      const isAmended = revision !== undefined
      if (isAmended && number !== head.versions) return 'past'
      if (isAmended && draft.revision !== revision) return 'stale'
      const version: Version = {
        ...before,
        ...(note !== undefined && { note }),
        ...(isAmended && { design: draft.design, savedAt: new Date().toISOString() })
      }
      await this.records.write({ kind: 'amend', head, version: await versionRow(id, version) })
      return version
    })
  }

  /** Removes a design with its log and its versions, damaged or not. False where there is none. */
  remove(id: string): Promise<boolean> {
    return this.turns.inTurn(id, async () => {
      const head = await this.records.head(id)
      if (!head) return false
      this.around.goes?.(id)
      try {
        await this.records.write({ kind: 'remove', id })
      } catch (error) {
        this.around.stays?.(head)
        throw error
      }
      this.states.delete(id)
      this.damage.delete(id)
      return true
    })
  }

  /** Whether there is such a design, damaged or not. */
  has(id: string): Promise<boolean> {
    return this.turns.beside(async () => (await this.records.head(id)) !== undefined)
  }

  /** The versions of a design in turn; each is read when it is asked for. @throws Damaged where one is */
  async *versionsOf(id: string): AsyncGenerator<Version> {
    const head = await this.turns.beside(() => this.records.head(id))
    for (let number = 1; number <= (head?.versions ?? 0); number++) {
      const version = await this.version(id, number)
      if (version) yield version
    }
  }

  /** The text of a design file, part by part; nothing where there is no such design. @throws Damaged */
  async file(id: string): Promise<AsyncGenerator<string> | undefined> {
    const draft = await this.draft(id)
    const head = draft && (await this.turns.beside(() => this.records.head(id)))
    return draft && head && written(draft.design, head.versions, this.versionsOf(id))
  }

  /**
   * What is sound of a damaged design: of its draft, with those versions that can be read. Nothing where
   * nothing is.
   */
  soundFile(id: string): Promise<DesignFile | undefined> {
    return this.turns.beside(async () => {
      const state = await this.state(id)
      if (!state) return undefined
      const design = state.ok ? state.open.draft.design : (await inTurns(state.sound()))?.design
      if (!design) return undefined
      const versions: Version[] = []
      for (const row of await this.records.versions(id).catch(() => []))
        versions.push(...(await readIfSound(row)))
      return { design, versions: inOrder(versions) }
    })
  }

  private async state(id: string): Promise<State | undefined> {
    return this.states.get(id) ?? this.turns.inTurn(id, () => this.load(id))
  }

  /**
   * Finds out how a design stands, where that is not known; only in its turn, so that none comes back that
   * is being removed.
   */
  private async load(id: string): Promise<State | undefined> {
    const known = this.states.get(id)
    if (known) {
      this.know(id, known)
      return known
    }
    const kept = await this.records.kept(id)
    if (!kept) return undefined
    const state = await stateOf(kept)
    this.know(id, state)
    return state
  }

  /** Keeps at hand how a design stands, as the one used last; those used longest ago are let go. */
  private know(id: string, state: State): void {
    this.states.delete(id)
    this.states.set(id, state)
    if (state.ok) this.damage.delete(id)
    else this.damage.set(id, state.message)
    for (const other of tooMany(this.states)) this.states.delete(other)
  }
}

/** What is wrong with what is noted of a design; nothing where it is as it was written. */
const flawOfHead = (row: DesignRow): string | undefined =>
  row.checksum === checksumOfDesign(row) ? undefined : 'The entry that says where it stands is damaged.'

async function readIfSound(row: VersionRow): Promise<Version[]> {
  try {
    return [await inTurns(readVersion(row))]
  } catch {
    return []
  }
}

async function* written(
  design: Design,
  count: number,
  versions: AsyncIterable<Version>
): AsyncGenerator<string> {
  const writing = new FileWriting()
  yield writing.begin(design, count)
  for await (const version of versions) yield writing.version(version)
  yield writing.end()
}

/** Versions numbered from 1, each with the number that it had where that was another. */
function inOrder(versions: readonly Version[]): Version[] {
  return versions.map((version, at) =>
    version.number === at + 1
      ? version
      : { ...version, number: at + 1, note: `${version.note} (version ${version.number})`.trim() }
  )
}

/** The answer to an operation that was taken before; another under the same id is refused. */
function repeat(
  before: Logged,
  submission: Submission,
  between: Logged[],
  { revision, mark }: Draft
): Answer {
  const same = JSON.stringify(before.operation) === JSON.stringify(submission.operation)
  if (!same)
    return {
      kind: 'refused',
      refusal: {
        code: 'id-taken',
        message: 'Another change was made under the same id before.',
        where: {},
        offers: []
      },
      revision,
      mark,
      between
    }
  return {
    kind: 'taken',
    logged: before,
    between: between.filter((each) => each.operationId !== before.operationId),
    repeated: true
  }
}

async function snapshotOf({ design, revision, mark }: Draft): Promise<SnapshotRow> {
  const row = { designId: design.id, revision, mark, design: await inTurns(textOf(design)) }
  return { ...row, checksum: await inTurns(checksumOfSnapshot(row)) }
}

async function versionRow(designId: string, { number, note, savedAt, design }: Version): Promise<VersionRow> {
  const row = { designId, number, note, savedAt, design: await inTurns(textOf(design)) }
  return { ...row, checksum: await inTurns(checksumOfVersion(row)) }
}
