import { existsSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'

/** Whether this runs from what was built of the sources (bin/build), not from themselves. */
const isBuilt = !import.meta.url.endsWith('.ts')

/** The project's folder. */
const ROOT = above(dirname(fileURLToPath(import.meta.url)))

function above(folder: string): string {
  if (existsSync(join(folder, 'package.json'))) return folder
  const next = dirname(folder)
  if (next === folder)
    throw new Error('The project’s own folder, with its package.json, is not above this program.')
  return above(next)
}

/** The folder of the built pages. */
export const PAGES = join(ROOT, 'dist')

/**
 * How a program of the project is started as a process of its own: the module, and what Node is told before it.
 * @param name one of those that vite.programs.config.ts builds, and where its source is
 */
export function program(name: string, source: string): { module: string; execArgv: string[] } {
  if (isBuilt) return { module: join(ROOT, 'built', `${name}.js`), execArgv: ['--enable-source-maps'] }
  const loader = pathToFileURL(createRequire(import.meta.url).resolve('tsx')).href
  return { module: join(ROOT, source), execArgv: ['--import', loader] }
}
