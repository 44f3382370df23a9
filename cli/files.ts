import { readFileSync, writeFileSync, mkdirSync } from 'node:fs'
import { dirname } from 'node:path'
import { readDesignFile, type DesignFile } from '../core/design/file.ts'
import { CannotDo } from './outcome.ts'

/** The design file at the path. Refuses in one line that names the file. */
export function openDesign(path: string): DesignFile {
  let text: string
  try {
    text = readFileSync(path, 'utf8')
  } catch (error) {
    throw new CannotDo(`${path}: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file' : 'it cannot be read'}.`)
  }
  const file = readDesignFile(text)
  if (!file.ok) throw new CannotDo(`${path}: ${file.message}`)
  return file.value
}

/** Writes a text to the path, or to standard output where none is given. */
export function put(text: string, path: string | undefined): void {
  if (path === undefined) return void process.stdout.write(text)
  try {
    mkdirSync(dirname(path), { recursive: true })
    writeFileSync(path, text)
  } catch {
    throw new CannotDo(`${path}: it cannot be written.`)
  }
}
