import { createReadStream, createWriteStream, mkdtempSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { setImmediate } from 'node:timers/promises'
import type { Request, Response } from 'express'
import type { Design } from '../../core/design/model.ts'
import { piecesOf } from '../../core/design/text-of.ts'
import { Problem } from './problem.ts'

/** A folder for what passes through, gone when the work is done. */
export async function inPassing<T>(work: (file: string) => Promise<T>): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-'))
  try {
    return await work(join(folder, 'passing'))
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/**
 * Sends what is written into a file, when all of it has been: what goes wrong on the way is answered in words, and what
 * would be too large to be read again is not given out.
 * @param write writes the file, and says what it is called
 */
export function sendWhole(
  response: Response,
  most: number,
  write: (file: string) => Promise<string>
): Promise<void> {
  return inPassing(async (file) => {
    const name = await write(file)
    const { size } = statSync(file)
    if (size > most)
      throw new Problem(
        413,
        `It would be ${size.toLocaleString('en-GB')} bytes long, and ${most.toLocaleString('en-GB')} is the most that can be read again. Nothing was written.`
      )
    response.attachment(name).type(name.endsWith('.jsonl') ? 'application/jsonl' : 'json')
    response.setHeader('Content-Length', size)
    await send(createReadStream(file), response)
  })
}

/** Answers with a JSON object that has a design in it, piece by piece, so that others are served meanwhile. */
export function sendJson(response: Response, about: object, design: Design): Promise<void> {
  async function* pieces(): AsyncGenerator<string> {
    const rest = JSON.stringify(about)
    yield `${rest.slice(0, -1)}${rest === '{}' ? '' : ','}"design":`
    for (const piece of piecesOf(design)) {
      yield piece
      await setImmediate()
    }
    yield '}'
  }
  response.type('json')
  return send(Readable.from(pieces()), response)
}

/** Whoever has gone away is written for no more. */
async function send(from: Readable, response: Response): Promise<void> {
  await pipeline(from, response).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'ERR_STREAM_PREMATURE_CLOSE') throw error
  })
}

/** What comes with a request, as a file, within a bound. */
export async function receive(request: Request, file: string, most: number): Promise<void> {
  const type = request.headers['content-type'] ?? ''
  if (!/^application\/json\s*(?:;\s*charset\s*=\s*"?utf-8"?\s*)?$/i.test(type))
    throw new Problem(415, 'A request to this server is JSON in UTF-8 (Content-Type: application/json).')
  if (request.headers['content-encoding'] !== undefined)
    throw new Problem(415, 'What comes with a request is not to be packed (Content-Encoding).')
  let size = 0
  const counted = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      size += chunk.length
      if (size > most) done(new Problem(413, `That is longer than ${most.toLocaleString('en-GB')} bytes.`))
      else done(null, chunk)
    }
  })
  await pipeline(request, counted, createWriteStream(file, { mode: 0o600 }))
}
