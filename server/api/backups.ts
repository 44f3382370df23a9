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
    sendWhole(response, BOUNDS.backup, async (file) => {
      const notWhole = (await apart.write({ kind: 'backup' }, file)) ?? []
      const day = new Date().toISOString().slice(0, 10)
      // Nothing but its name is seen of a file that a browser saves.
      return `patient-key-${day}${notWhole.length > 0 ? '-not-whole' : ''}.backup.jsonl`
    })
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
