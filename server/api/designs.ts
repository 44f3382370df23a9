import { statSync } from 'node:fs'
import { Router, type Response } from 'express'
import { z } from 'zod'
import { nameSchema } from '../../core/design/model.ts'
import { idSchema } from '../../core/design/ids.ts'
import { flawOfText } from '../../core/design/value.ts'
import { BOUNDS } from '../../core/bounds.ts'
import { countOperations, operationSchema } from '../../core/edit/all.ts'
import type { Apart } from '../store/apart.ts'
import { firstDesignOf, soundCopy } from '../store/backup.ts'
import type { Draft, Store } from '../store/store.ts'
import { designFileAt } from '../store/writing.ts'
import type { Events } from './events.ts'
import { found, Problem, read } from './problem.ts'
import { inPassing, receive, sendJson, sendWhole } from './whole.ts'

/**
 * What a client calls itself or an operation by: plain letters, so that no two are the same to one program
 * and not to another.
 */
const clientId = z
  .string()
  .regex(/^[A-Za-z0-9_-]{1,64}$/, { error: 'must be up to 64 letters, digits, hyphens and underscores' })
const mark = z
  .string()
  .regex(/^[0-9a-f]{32}$/, { error: 'is not a mark that this server gives' })
  .optional()

const newDesign = z.strictObject({ name: nameSchema })
const submission = z.strictObject({
  revision: z.int().min(0),
  mark,
  operationId: clientId.min(8, { error: 'must be at least 8 characters long' }),
  client: clientId,
  operation: operationSchema.refine((operation) => countOperations(operation) <= BOUNDS.operations, {
    error: `one step has at most ${BOUNDS.operations} operations`
  })
})
const note = z
  .string()
  .trim()
  .max(BOUNDS.note)
  .refine((text) => flawOfText(text) === undefined, { error: 'has a character in it that cannot be kept' })
/** Some of the changes since the last version, by their keys. */
export const someChanges = z.array(z.string().max(80)).min(1).max(BOUNDS.operations)
const newVersion = z.strictObject({ note, revision: z.int().min(0), only: someChanges.optional() })
/** Another note; or, with the revision of the draft that was seen, that draft in the version's place. */
const changedVersion = z.strictObject({ note: note.optional(), revision: z.int().min(0).optional() })
const after = z.strictObject({ after: z.coerce.number().int().min(0).default(0), mark })
const number = z.coerce.number().int().min(1).max(BOUNDS.versions)

const SAID = {
  parted: 'This design has another history here than the one you have seen. It must be loaded anew.',
  behind:
    'What came since is too much to be told of, or cannot be read any more. The design must be loaded anew.'
}
/** The client must load the design anew: `parted` and `behind` as in the store. */
const anew = (code: keyof typeof SAID): Problem => new Problem(409, SAID[code], { code })

/** A file of so many bytes is read in less time than a process takes to start. */
const SHORT = 2 ** 18

/** Design files, which may be longer than other requests. */
export function fileRoutes(store: Store, apart: Apart): Router {
  const router = Router()
  router.post('/', (request, response) =>
    inPassing(async (path) => {
      await receive(request, path, BOUNDS.file)
      const isShort = statSync(path).size <= SHORT
      const file = isShort ? designFileAt(path) : await firstDesignOf(await apart.asLines('file', path))
      await sendDraft(response.status(201), await store.create({ file }))
    })
  )
  return router
}

/** Sends a draft, with what else is said of the design, piece by piece. */
async function sendDraft(
  response: Response,
  { design, ...about }: Draft,
  more: Record<string, unknown> = {}
): Promise<void> {
  await sendJson(response, { ...about, ...more }, design)
}

/** Designs, the operations on them, and their versions. */
export function designRoutes(store: Store, events: Events, apart: Apart): Router {
  const router = Router()

  router.param('id', (_request, _response, next, id: string) =>
    next(
      idSchema.safeParse(id).success
        ? undefined
        : new Problem(404, 'There is no such design here. It may have been removed.')
    )
  )

  router.get(
    '/',
    async (_request, response) => void response.json({ designs: await store.list(), notices: store.notices })
  )

  router.post('/', async (request, response) => {
    const { name } = read(newDesign, request.body)
    response.status(201).json(await store.create({ name }))
  })

  router.get('/:id', async (request, response) => {
    const { id } = request.params
    const draft = found(await store.draft(id), 'design')
    await sendDraft(response, draft, { versions: await store.versions(id) })
  })

  router.delete('/:id', async (request, response) => {
    if (!(await store.remove(request.params.id))) found(undefined, 'design')
    events.publish(request.params.id, 'removed', {})
    response.status(204).end()
  })

  router.get('/:id/file', async (request, response) => {
    const { id } = request.params
    await sendWhole(response, BOUNDS.file, async (file) => {
      found(await apart.write({ kind: 'file', design: id }, file), 'design')
      return 'design.json'
    })
  })

  /** What is sound of a damaged design becomes a design of its own; the damaged one stays as it is. */
  router.post('/:id/salvage', async (request, response) => {
    const file = found(await soundCopy(store, request.params.id), 'design')
    await sendDraft(response.status(201), await store.create({ file }))
  })

  router.get('/:id/head', async (request, response) => {
    const { revision, mark } = found(await store.draft(request.params.id), 'design')
    response.json({ revision, mark })
  })

  router.get('/:id/operations', async (request, response) => {
    const { after: revision, mark } = read(after, request.query)
    const operations = found(await store.operationsAfter(request.params.id, { revision, mark }), 'design')
    if (operations === 'parted' || operations === 'behind') throw anew(operations)
    response.json({ operations })
  })

  router.post('/:id/operations', async (request, response) => {
    const { id } = request.params
    const answer = found(await store.submit(id, read(submission, request.body)), 'design')
    if (answer.kind === 'parted') throw anew('parted')
    if (answer.kind === 'behind') throw anew('behind')
    const { between } = answer
    if (answer.kind === 'refused') {
      const { refusal, revision, mark } = answer
      return void response
        .status(409)
        .json({ error: { message: refusal.message, refusal }, revision, mark, between })
    }
    const { revision, mark } = answer.logged
    if (!answer.repeated) events.publish(id, 'operation', answer.logged)
    response.json({ revision, mark, between })
  })

  router.get('/:id/events', async (request, response) => {
    const { id } = request.params
    const { revision, mark } = found(await store.draft(id), 'design')
    events.listen(id, request, response, [{ event: 'here', data: { revision, mark } }])
  })

  router.get('/:id/versions/:number', async (request, response) => {
    const at = read(number, request.params.number)
    const { design, ...about } = found(await store.version(request.params.id, at), 'version')
    await sendJson(response, about, design)
  })

  router.post('/:id/versions', async (request, response) => {
    const saved = found(await store.saveVersion(request.params.id, read(newVersion, request.body)), 'design')
    if (saved === 'stale')
      throw new Problem(
        409,
        'The draft has changed since you saw it. Look at it again, then save the version.',
        { code: 'stale' }
      )
    if (saved === 'unknown')
      throw new Problem(
        409,
        'What was chosen is not among the changes since the last version. Look at them again, then save the version.'
      )
    const { design: _, ...version } = saved
    events.publish(request.params.id, 'version', version)
    response.status(201).json(version)
  })

  router.patch('/:id/versions/:number', async (request, response) => {
    const changed = read(changedVersion, request.body)
    const at = read(number, request.params.number)
    const saved = found(await store.changeVersion(request.params.id, at, changed), 'version')
    if (saved === 'stale')
      throw new Problem(
        409,
        'The draft has changed since you saw it. Look at it again, then change the version.',
        { code: 'stale' }
      )
    if (saved === 'past')
      throw new Problem(409, `Version ${at} is not the last any more: others came after it, and build on it.`)
    const { design: _, ...version } = saved
    events.publish(request.params.id, 'version', version)
    response.json(version)
  })

  return router
}
