import { Router } from 'express'
import { BOUNDS } from '../../core/bounds.ts'
import { readBackup } from '../../core/design/backup.ts'
import { backupOf, restore } from '../store/backup.ts'
import type { Store } from '../store/store.ts'
import { textBody } from './body.ts'
import { Problem } from './problem.ts'

/** All designs in one file, and back. */
export function backupRoutes(store: Store): Router {
  const router = Router()

  router.get('/', async (_request, response) => {
    response.attachment(`patient-key-${new Date().toISOString().slice(0, 10)}.backup.json`).type('json')
    for await (const part of backupOf(store)) {
      // A page that reads slowly is waited for, and one that has gone is written for no more.
      if (!response.write(part))
        await new Promise<void>((resolve) => response.once('drain', resolve).once('close', resolve))
      if (response.destroyed) return
    }
    response.end()
  })

  router.post('/', ...textBody(BOUNDS.backup), async (request, response) => {
    const backup = readBackup(typeof request.body === 'string' ? request.body : '')
    if (!backup.ok) throw new Problem(400, backup.message)
    response.status(201).json(await restore(store, backup.value.files, backup.value.savedAt))
  })

  return router
}
