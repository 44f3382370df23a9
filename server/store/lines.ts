import { closeSync, createReadStream, openSync, readSync } from 'node:fs'
import { BOUNDS } from '../../core/bounds.ts'

/** A file that cannot be read line by line, in words. */
export class NoLines extends Error {}

/**
 * The lines of a file of UTF-8, one at a time: of the file no more is in memory than a line and what was read with it.
 * @throws NoLines where it is no UTF-8, or a line is longer than a design file may be
 */
export async function* linesOf(path: string): AsyncGenerator<string> {
  const decoder = new TextDecoder('utf-8', { fatal: true })
  let parts: string[] = []
  let length = 0
  const grow = (part: string): void => {
    parts.push(part)
    length += part.length
    if (length > BOUNDS.file)
      throw new NoLines(`it has a line of more than ${BOUNDS.file.toLocaleString('en-GB')} characters`)
  }
  for await (const chunk of createReadStream(path, { highWaterMark: 1 << 20 })) {
    const pieces = decoded(decoder, chunk as Buffer).split('\n')
    for (const piece of pieces.slice(0, -1)) {
      grow(piece)
      yield parts.join('')
      parts = []
      length = 0
    }
    grow(pieces.at(-1) ?? '')
  }
  grow(decoded(decoder, undefined))
  if (length > 0) yield parts.join('')
}

function decoded(decoder: TextDecoder, chunk: Buffer | undefined): string {
  try {
    return chunk ? decoder.decode(chunk, { stream: true }) : decoder.decode()
  } catch {
    throw new NoLines('it is not text in UTF-8')
  }
}

/** The bytes of a file, up to so many; whatever is behind the path, no more is read of it. */
export function bytesOf(path: string, most: number): Buffer {
  const file = openSync(path, 'r')
  try {
    const parts: Buffer[] = []
    for (let size = 0; size < most;) {
      const part = Buffer.alloc(Math.min(1 << 20, most - size))
      const read = readSync(file, part)
      if (read === 0) break
      parts.push(part.subarray(0, read))
      size += read
    }
    return Buffer.concat(parts)
  } finally {
    closeSync(file)
  }
}
