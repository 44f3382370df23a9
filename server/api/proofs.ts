import { Router } from 'express'
import { z } from 'zod'
import { PROVABLE } from '../../core/dialect/index.ts'
import { type Design } from '../../core/design/model.ts'
import { trialSchema } from '../../core/rehearse/trial.ts'
import { idSchema } from '../../core/design/ids.ts'
import { textOf } from '../../core/design/text-of.ts'
import { inTurns } from '../in-turns.ts'
import { Proofs } from '../engine/proofs.ts'
import type { Store } from '../store/store.ts'
import { someChanges } from './designs.ts'
import type { Events } from './events.ts'
import { found, read } from './problem.ts'

const state = z.union([z.literal('draft'), z.int().min(1)])
const newProof = z.strictObject({
  design: idSchema,
  to: state,
  from: state.optional(),
  /** Of the draft, only these of its changes since the last version. */
  only: someChanges.optional(),
  /** What is tried on the rows of that state, instead of proving it. */
  trial: trialSchema.optional(),
  engines: z.array(z.enum(PROVABLE.map((each) => each.name))).min(1)
})

/** Proofs on real engines: started, followed by events, and cancelled. */
export function proofRoutes(store: Store, events: Events): { router: Router; proofs: Proofs } {
  const proofs = new Proofs((job) => events.publish(`proof ${job.id}`, 'proof', job))
  const router = Router()

  const designAt = async (id: string, at: z.infer<typeof state>): Promise<Design> =>
    at === 'draft'
      ? found(await store.draft(id), 'design').design
      : found(await store.version(id, at), 'version').design
  const nameOf = (at: z.infer<typeof state>): string => (at === 'draft' ? 'the draft' : `version ${at}`)

  router.post('/', async (request, response) => {
    const { design, to, from, engines, only, trial } = read(newProof, request.body)
    const after = only ? found(await store.some(design, only), 'change') : await designAt(design, to)
    const before = from === undefined ? undefined : await designAt(design, from)
    const states = {
      to: await inTurns(textOf(after)),
      ...(before && { from: await inTurns(textOf(before)) })
    }
    const names = {
      from: from === undefined ? '' : nameOf(from),
      to: only ? 'what is chosen of the draft' : nameOf(to)
    }
    const tasks = [...new Set(engines)].map((engine) => ({
      engine,
      ...states,
      ...(trial && { trial }),
      names
    }))
    response.status(201).json(proofs.start(tasks))
  })

  router.get('/:id/events', (request, response) => {
    const job = found(proofs.job(request.params.id), 'proof')
    events.listen(`proof ${job.id}`, request, response, [{ event: 'proof', data: job }])
  })

  router.delete('/:id', (request, response) => {
    if (!proofs.cancel(request.params.id)) found(undefined, 'proof')
    response.status(202).end()
  })

  return { router, proofs }
}
