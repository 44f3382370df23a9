import { strToU8, zipSync } from 'fflate'
import type { Version } from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import type { DialectName } from '../../core/dialect/dialect.ts'
import { chainOf } from '../../core/version/chain.ts'

/** Works out all versions as scripts, as one folder that is packed. */
export interface ChainQuestion {
  versions: Version[]
  dialect: DialectName
}
export type ChainAnswer = { done: number } | { packed: Uint8Array<ArrayBuffer> }

self.onmessage = ({ data: { versions, dialect } }: MessageEvent<ChainQuestion>) => {
  const answer = (said: ChainAnswer): void => self.postMessage(said)
  const files = chainOf(versions, DIALECTS[dialect], (done) => answer({ done }))
  answer({ packed: zipSync(Object.fromEntries(files.map(({ path, text }) => [path, strToU8(text)]))) })
}
