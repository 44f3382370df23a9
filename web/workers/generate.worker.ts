import type { Design, Row, TableId } from '../../core/design/model.ts'
import { generateRows, type Wanted } from '../../core/rows/generate.ts'

/** Makes believable rows for one table. */
export interface GenerateQuestion {
  design: Design
  table: TableId
  wanted: Wanted
}
export type GenerateAnswer = { made: number; of: number } | { rows: Row[]; why: string }

self.onmessage = ({ data: { design, table, wanted } }: MessageEvent<GenerateQuestion>) => {
  const answer = (said: GenerateAnswer): void => self.postMessage(said)
  const there = design.tables.find(({ id }) => id === table)?.rows.length ?? 0
  const work = generateRows(design, wanted)
  for (;;) {
    const { done, value } = work.next()
    if (done) {
      const rows = value.design.tables.find(({ id }) => id === table)?.rows.slice(there) ?? []
      return answer({ rows, why: value.short[0]?.why ?? '' })
    }
    answer({ made: value.made, of: value.of })
  }
}
