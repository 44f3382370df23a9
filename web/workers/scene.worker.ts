import type { Design, Position } from '../../core/design/model.ts'
import { makeScene } from '../../core/diagram/scene.ts'

/**
 * Routes the lines of a design whose tables have their places; the answer carries the number of the
 * question.
 */
export interface SceneQuestion {
  number: number
  design: Design
  positions: [string, Position][]
}

self.onmessage = ({ data }: MessageEvent<SceneQuestion>) => {
  self.postMessage({ number: data.number, scene: makeScene(data.design, new Map(data.positions)) })
}
