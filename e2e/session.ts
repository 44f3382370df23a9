import { afterAll, beforeAll } from 'vitest'
import { App } from './app.ts'
import { Browser } from './browser.ts'

/**
 * An application and a browser for the tests of one description: started before the first, ended after the
 * last.
 */
export function session({
  demo = false,
  host,
  ...options
}: { demo?: boolean; host?: string; dark?: boolean; downloads?: string; names?: string[] } = {}): {
  app: App
  browser: Browser
} {
  const app = new App({ demo, ...(host !== undefined && { host }) })
  const browser = new Browser(options)
  beforeAll(async () => {
    await app.start()
    await browser.start()
  })
  afterAll(async () => {
    await browser.stop()
    await app.stop()
  })
  return { app, browser }
}
