import { flawsInTurns } from '../../core/design/integrity.ts'
import { readJson, readJsonInTurns } from '../../core/design/json.ts'
import type { Design, Version } from '../../core/design/model.ts'
import { finish, type Paused } from '../../core/design/paused.ts'
import { shapedDesign } from '../../core/design/shaped.ts'
import { soundPartInTurns, type SoundPart } from '../../core/design/sound.ts'
import { shorten } from '../../core/design/type.ts'
import { replay } from '../../core/edit/apply.ts'
import { operationSchema } from '../../core/edit/all.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { checksumOfDesign, checksumOfSnapshot, checksumOfVersion, nextMark } from './marks.ts'
import type { OperationRow, SnapshotRow, VersionRow } from './models.ts'
import type { Kept } from './records.ts'
import { Damaged } from './trouble.ts'

/** A draft at a revision; `mark` stands for everything that led to it. */
export interface Draft {
  design: Design
  revision: number
  mark: string
}
/** An operation that has been taken into the log. */
export interface Logged {
  revision: number
  operationId: string
  client: string
  operation: Operation
  mark: string
}

/** What was found of a design on disk: the draft, or what is wrong, with what of it is sound. */
export type Unfolded =
  | { ok: true; draft: Draft; log: Logged[] }
  | { ok: false; message: string; sound(): Paused<SoundPart | undefined> }

/**
 * Makes a design of what is kept: the newest snapshot that is as it was written, with the log after it.
 * Nothing is taken on trust: every checksum is worked out again, every operation follows the one before
 * it, and the last is the one that the design's own row names.
 */
export function* unfold({ head, snapshots, operations }: Kept): Paused<Unfolded> {
  let start: Draft | undefined
  for (const row of snapshots) start ??= yield* readSnapshot(row)
  if (!start)
    return {
      ok: false,
      message: 'What was kept of it is no longer as it was written.',
      sound: () => salvage(snapshots)
    }
  let draft = start
  const log: Logged[] = []
  for (const row of operations.filter((each) => each.revision > draft.revision)) {
    yield
    const next = follow(draft, row)
    if (typeof next === 'string')
      return damaged(draft.design, `Its log is damaged after change ${draft.revision}: ${next}.`)
    draft = next.draft
    log.push(next.logged)
  }
  if (head.checksum !== checksumOfDesign(head))
    return damaged(draft.design, 'The entry that says where it stands is damaged.')
  const missing = head.revision - draft.revision
  if (missing > 0)
    return damaged(draft.design, `Its log ends at change ${draft.revision}, and there were ${missing} more.`)
  if (missing < 0 || head.mark !== draft.mark)
    return damaged(draft.design, 'Its log and the entry that says where it stands do not belong together.')
  const [flaw] = yield* flawsInTurns(draft.design)
  if (flaw)
    return damaged(
      draft.design,
      `It does not hold together: ${shorten(flaw.message, 300)} (at ${flaw.path.join('.')}).`
    )
  return { ok: true, draft, log }
}

function damaged(design: Design, message: string): Unfolded {
  return { ok: false, message, sound: () => soundPartInTurns(design) }
}

function* readSnapshot(row: SnapshotRow): Paused<Draft | undefined> {
  if (row.checksum !== (yield* checksumOfSnapshot(row))) return undefined
  const design = yield* readDesign(row.design)
  return design && { design, revision: row.revision, mark: row.mark }
}

/** A design from text that this program has written. */
export function readDesignText(text: string): Design {
  const design = finish(readDesign(text))
  if (!design) throw new Error('This is no design.')
  return design
}

/** What a text that was kept comes to; nothing where it is no design. */
export function* readDesign(text: string): Paused<Design | undefined> {
  const json = yield* readJsonInTurns(text)
  return json.ok ? (yield* shapedDesign(json.value)).data : undefined
}

/** What of the snapshots is a design, the newest that is one at all. */
function* salvage(snapshots: readonly SnapshotRow[]): Paused<SoundPart | undefined> {
  for (const { design } of snapshots) {
    const json = yield* readJsonInTurns(design)
    const sound = json.ok ? yield* soundPartInTurns(json.value) : undefined
    if (sound) return sound
  }
  return undefined
}

/** The draft after the next operation of the log, or why it is not the next. */
function follow(draft: Draft, row: OperationRow): { draft: Draft; logged: Logged } | string {
  if (row.revision !== draft.revision + 1) return `change ${draft.revision + 1} is missing`
  if (row.mark !== nextMark(draft.mark, row)) return `change ${row.revision} is not as it was written`
  const logged = readOperation(row)
  if (!logged) return `change ${row.revision} is none that this program knows`
  const result = replay(draft.design, logged.operation)
  if (!result.ok) return `change ${row.revision} cannot be done again (${result.refusal.message})`
  return { draft: { design: result.design, revision: row.revision, mark: row.mark }, logged }
}

/** An operation as it stands in the log. */
export function readOperation({
  revision,
  operationId,
  client,
  operation,
  mark
}: OperationRow): Logged | undefined {
  const json = readJson(operation)
  const parsed = json.ok ? operationSchema.safeParse(json.value) : undefined
  return parsed?.success ? { revision, operationId, client, operation: parsed.data, mark } : undefined
}

/** @throws Damaged where the version is not as it was saved, or does not hold together. */
export function* readVersion(row: VersionRow): Paused<Version> {
  const { number, note, savedAt } = row
  const isAsSaved = row.checksum === (yield* checksumOfVersion(row))
  const design = isAsSaved ? yield* readDesign(row.design) : undefined
  if (!design) throw new Damaged(`Version ${number} is damaged: it cannot be read as it was saved.`)
  const [flaw] = yield* flawsInTurns(design)
  if (flaw) throw new Damaged(`Version ${number} does not hold together: ${shorten(flaw.message, 300)}.`)
  return { number, note, savedAt, design }
}
