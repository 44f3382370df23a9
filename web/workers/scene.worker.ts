import type { Design, Position } from '../../core/design/model.ts'
import { layout } from '../../core/diagram/layout.ts'
import { makeScene } from '../../core/diagram/scene.ts'

/** Lays a design out and draws it; the answer carries the number of the question. */
export interface SceneQuestion {
  number: number
  /** Nothing where its tables are those that were asked for before. */
  design: Design | undefined
  /** The design of which that is a part, where it is one. */
  whole: Design | undefined
  /** Where tables were put by hand. */
  positions: Record<string, Position>
}

let last: { design: Design; whole: Design; own: ReadonlyMap<string, Position> } | undefined

self.onmessage = ({ data: { number, design, whole, positions } }: MessageEvent<SceneQuestion>) => {
  if (design) last = { design, whole: whole ?? design, own: layout({ ...design, positions: {} }) }
  if (!last) return
  const byHand = Object.entries(positions).filter(([id]) => last?.own.has(id))
  self.postMessage({ number, scene: makeScene(last.design, new Map([...last.own, ...byHand]), last.whole) })
}
