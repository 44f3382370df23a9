import type { Design, Position } from '../../core/design/model.ts'
import type { Asked } from '../../core/diagram/drawing.ts'
import { layout } from '../../core/diagram/layout.ts'
import { settle } from '../../core/diagram/settle.ts'
import { makeScene } from '../../core/diagram/scene.ts'

export type SceneExtent = Pick<Asked['extent'], 'rows'> & Partial<Asked['extent']>

/** Lays a design out and draws it; the answer carries the number of the question. */
export interface SceneQuestion {
  number: number
  /** Nothing where its tables are those that were asked for before. */
  design: Design | undefined
  /** How much of it is drawn. */
  extent: SceneExtent
  /** Where tables were put by hand. */
  positions: Record<string, Position>
  /** Whether tables stay where they stand, as far as they can. */
  isSamePicture: boolean
}

let last: { design: Design; extent: SceneExtent; own: ReadonlyMap<string, Position> } | undefined

self.onmessage = ({
  data: { number, design, extent, positions, isSamePicture }
}: MessageEvent<SceneQuestion>) => {
  if (design) {
    const drawn = { ...design, positions: {} }
    const settled = isSamePicture && last ? settle(drawn, extent, last.own) : undefined
    last = { design, extent, own: settled ?? layout(drawn, extent) }
  }
  if (!last) return
  const byHand = Object.entries(positions).filter(([id]) => last?.own.has(id))
  self.postMessage({ number, scene: makeScene(last.design, new Map([...last.own, ...byHand]), last.extent) })
}
