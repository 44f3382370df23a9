import type { Design, Position } from '../../core/design/model.ts'
import type { Asked } from '../../core/diagram/drawing.ts'
import { layout } from '../../core/diagram/layout.ts'
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
}

let last: { design: Design; extent: SceneExtent; own: ReadonlyMap<string, Position> } | undefined

self.onmessage = ({ data: { number, design, extent, positions } }: MessageEvent<SceneQuestion>) => {
  if (design) last = { design, extent, own: layout({ ...design, positions: {} }, extent) }
  if (!last) return
  const byHand = Object.entries(positions).filter(([id]) => last?.own.has(id))
  self.postMessage({ number, scene: makeScene(last.design, new Map([...last.own, ...byHand]), last.extent) })
}
