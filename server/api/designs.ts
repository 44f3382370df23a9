import { Router } from 'express'
import { z } from 'zod'
import { readDesignFile, writeDesignFile } from '../../core/design/file.ts'
import { nameSchema } from '../../core/design/model.ts'
import { operationSchema } from '../../core/edit/operation.ts'
import type { Store } from '../store/store.ts'
import type { Events } from './events.ts'
import { found, Problem, read } from './problem.ts'

const newDesign = z.union([z.strictObject({ name: nameSchema }), z.strictObject({ file: z.string() })])
const submission = z.strictObject({
  revision: z.int().min(0),
  operationId: z.string().min(8).max(64),
  client: z.string().min(1).max(64),
  operation: operationSchema
})
const newVersion = z.strictObject({ note: z.string().trim().max(2000), revision: z.int().min(0) })
const after = z.strictObject({ after: z.coerce.number().int().min(0).default(0) })
const number = z.coerce.number().int().min(1)

/** Designs, the operations on them, and their versions. */
export function designRoutes(store: Store, events: Events): Router {
  const router = Router()

  router.get('/', async (_request, response) => void response.json({ designs: await store.list() }))

  router.post('/', async (request, response) => {
    const body = read(newDesign, request.body)
    if ('name' in body) return void response.status(201).json(await store.create({ name: body.name }))
    const file = readDesignFile(body.file)
    if (!file.ok) throw new Problem(400, file.message)
    response.status(201).json(await store.create({ file: file.value }))
  })

  router.get('/:id', async (request, response) => {
    const { id } = request.params
    const draft = found(await store.draft(id), 'design')
    response.json({ ...draft, versions: await store.versions(id) })
  })

  router.delete('/:id', async (request, response) => {
    if (!await store.remove(request.params.id)) found(undefined, 'design')
    events.publish(request.params.id, 'removed', {})
    response.status(204).end()
  })

  router.get('/:id/file', async (request, response) => {
    const { design, versions } = found(await store.file(request.params.id), 'design')
    response.attachment('design.json').type('json').send(writeDesignFile(design, versions))
  })

  router.get('/:id/operations', async (request, response) => {
    const { id } = request.params
    found(await store.draft(id), 'design')
    response.json({ operations: await store.operationsAfter(id, read(after, request.query).after) })
  })

  router.post('/:id/operations', async (request, response) => {
    const { id } = request.params
    const answer = found(await store.submit(id, read(submission, request.body)), 'design')
    if (!answer.ok) return void response.status(409).json({ error: { message: answer.refusal.message, refusal: answer.refusal }, revision: answer.revision, between: answer.between })
    if (!answer.repeated) events.publish(id, 'operation', answer.logged)
    response.json({ revision: answer.logged.revision, between: answer.between })
  })

  router.get('/:id/events', async (request, response) => {
    const { id } = request.params
    const { revision } = found(await store.draft(id), 'design')
    events.listen(id, request, response, [{ event: 'here', data: { revision } }])
  })

  router.get('/:id/versions/:number', async (request, response) => {
    response.json(found(await store.version(request.params.id, read(number, request.params.number)), 'version'))
  })

  router.post('/:id/versions', async (request, response) => {
    const { note, revision } = read(newVersion, request.body)
    const saved = found(await store.saveVersion(request.params.id, note, revision), 'design')
    if (saved === 'stale') throw new Problem(409, 'The draft has changed since you saw it. Look at it again, then save the version.', { code: 'stale' })
    const { design: _, ...version } = saved
    events.publish(request.params.id, 'version', version)
    response.status(201).json(version)
  })

  return router
}
