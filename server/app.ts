import { existsSync } from 'node:fs'
import { join } from 'node:path'
import express, { type Express } from 'express'
import helmet from 'helmet'
import { backupRoutes } from './api/backups.ts'
import { jsonBody } from './api/body.ts'
import { designRoutes, fileRoutes } from './api/designs.ts'
import { Events } from './api/events.ts'
import { guard } from './api/guard.ts'
import { answerProblems, nothingHere } from './api/problem.ts'
import { proofRoutes } from './api/proofs.ts'
import { Apart } from './store/apart.ts'
import type { Store } from './store/store.ts'

export interface AppOptions {
  store: Store
  /** The folder with the designs. */
  data: string
  host: string
  token?: string | undefined
  /** Where the built pages are. */
  pages: string
  log: (error: unknown) => void
}

/** The application: the interface's pages and what they ask for. `close` ends what it has running. */
export function makeApp({ store, data, host, token, pages, log }: AppOptions): {
  app: Express
  close(): void
} {
  const app = express()
  const events = new Events()
  const apart = new Apart(store, data)
  const { router, proofs } = proofRoutes(store, events)
  app.disable('x-powered-by')
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          fontSrc: ["'self'", 'data:'],
          workerSrc: ["'self'", 'blob:'],
          connectSrc: ["'self'"],
          objectSrc: ["'none'"],
          frameAncestors: ["'none'"],
          baseUri: ["'self'"],
          formAction: ["'self'"]
        }
      },
      strictTransportSecurity: false
    })
  )
  app.use(guard(host, token))
  app.use('/api/backup', backupRoutes(store, apart))
  app.use('/api/files', fileRoutes(store, apart))
  app.use('/api', jsonBody)
  app.get('/api/health', (_request, response) => void response.json({ application: 'patient-key' }))
  app.use('/api/designs', designRoutes(store, events, apart))
  app.use('/api/proofs', router)
  app.use('/api', nothingHere)
  app.use(
    express.static(pages, {
      index: false,
      setHeaders: (response, path) =>
        void response.setHeader(
          'Cache-Control',
          path.includes('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache'
        )
    })
  )
  // Every other address is a place inside the application.
  app.get(/.*/, (_request, response) => {
    const page = join(pages, 'index.html')
    if (existsSync(page)) response.setHeader('Cache-Control', 'no-cache').sendFile(page)
    else response.status(503).send('The pages have not been built yet. Run bin/start.')
  })
  app.use(answerProblems(log))
  return {
    app,
    close: () => {
      events.close()
      apart.close()
      proofs.close()
    }
  }
}
