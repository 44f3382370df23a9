import { existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { dirname } from 'node:path'
import { BOUNDS } from '../core/bounds.ts'
import { readDesignFile, type DesignFile } from '../core/design/file.ts'
import { decodeText } from '../core/design/json.ts'
import type { Design } from '../core/design/model.ts'
import { bytesOf } from '../server/store/lines.ts'
import { CannotDo } from './outcome.ts'

/** The design file at the path. Refuses in one line that names the file. */
export function openDesign(path: string): DesignFile {
  const file = readDesignFile(readText(path, BOUNDS.file))
  if (!file.ok) throw new CannotDo(`${path}: ${file.message}`)
  return file.value
}

/** A state of a design: the draft of a file, or one of its versions, as in `design.json@3`. */
export function openState(place: string): { design: Design; called: string } {
  const [, path, number] = /^(.+)@(\d+)$/.exec(place) ?? []
  if (path === undefined || existsSync(place)) {
    const { design } = openDesign(place)
    return { design, called: design.name }
  }
  const { design, versions } = openDesign(path)
  const version = versions.find((each) => String(each.number) === number)
  const last = versions.at(-1)?.number
  if (!version)
    throw new CannotDo(
      `${path}: there is no version ${number}; ${last === undefined ? 'it has none yet' : `its last is ${last}`}.`
    )
  return { design: version.design, called: `${design.name}, version ${number}` }
}

/** The bytes of a file, up to so many; whatever is behind the path, no more is read of it. */
export function readBytes(path: string, most: number): Buffer {
  let bytes: Buffer
  try {
    bytes = bytesOf(path, most + 1)
  } catch (error) {
    throw new CannotDo(
      `${path}: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file' : 'it cannot be read'}.`
    )
  }
  if (bytes.length > most)
    throw new CannotDo(
      `${path}: it is longer than ${most.toLocaleString('en-GB')} bytes, which is more than is read.`
    )
  return bytes
}

/** The text of a file of up to so many bytes. */
export function readText(path: string, most: number): string {
  const bytes = readBytes(path, most)
  const text = decodeText(bytes)
  if (!text.ok) throw new CannotDo(`${path}: ${text.message}.`)
  return text.value
}

/** Writes a text to the path, or to standard output where none is given. */
export function put(text: string | Uint8Array, path: string | undefined): void {
  if (path === undefined) return void process.stdout.write(text)
  try {
    mkdirSync(dirname(path), { recursive: true })
    writeFileSync(path, text)
  } catch (error) {
    throw new CannotDo(`${path}: it cannot be written${whyNot(error)}.`)
  }
}

/** Why something cannot be written, where that is something to do about. */
export function whyNot(error: unknown): string {
  const { code } = error as NodeJS.ErrnoException
  if (code === 'ENOSPC') return ', since the disk is full'
  return code === 'EACCES' || code === 'EPERM' || code === 'EROFS'
    ? ', since this program may not write there'
    : ''
}
