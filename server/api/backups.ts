import { Router } from 'express'
import { BOUNDS } from '../../core/bounds.ts'
import type { Apart } from '../store/apart.ts'
import { isOfFirstForm, judgeBackup, restore } from '../store/backup.ts'
import type { Store } from '../store/store.ts'
import { inPassing, receive, sendWhole } from './whole.ts'

/** All designs in one file, and back. */
export function backupRoutes(store: Store, apart: Apart): Router {
  const router = Router()

  router.get('/', (_request, response) =>
    sendWhole(
      response,
      `patient-key-${new Date().toISOString().slice(0, 10)}.backup.jsonl`,
      BOUNDS.backup,
      async (file) => void (await apart.write({ kind: 'backup' }, file))
    )
  )

  router.post('/', (request, response) =>
    inPassing(async (file) => {
      await receive(request, file, BOUNDS.backup)
      const lines = isOfFirstForm(file) ? await apart.asLines('backup', file) : file
      await judgeBackup(lines)
      response.status(201).json(await restore(store, lines))
    })
  )

  return router
}
