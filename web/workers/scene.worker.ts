import type { Design, Position } from '../../core/design/model.ts'
import type { DrawingRequest } from '../../core/diagram/drawing.ts'
import { layout } from '../../core/diagram/layout.ts'
import { makeScene, type Scene } from '../../core/diagram/scene.ts'
import { settle } from '../../core/diagram/settle.ts'
import { KeptDrawings, type KeptDrawing } from './kept-drawings.ts'

export type SceneExtent = Pick<DrawingRequest['extent'], 'rows'> & Partial<DrawingRequest['extent']>

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
  /** The name under which the drawing is kept, where it is. */
  keptAs: string | undefined
  /** Whether all is placed anew, whatever is kept. */
  isAnew: boolean
}

interface Drawn {
  design: Design
  extent: SceneExtent
  of: string
  own: ReadonlyMap<string, Position>
}

const kept = new KeptDrawings()
let last: Drawn | undefined
let newest = 0
let turn = Promise.resolve()

self.onmessage = ({ data }: MessageEvent<SceneQuestion>) => {
  newest = data.number
  turn = turn
    .then(() => answer(data))
    // Told to whoever listens for errors of the worker; what is asked next is answered.
    .catch((error: unknown) => void setTimeout(() => reportError(error)))
}

async function answer(question: SceneQuestion): Promise<void> {
  const { number, design, extent, positions, keptAs, isAnew, isSamePicture } = question
  const before =
    design && keptAs !== undefined && !isAnew && !isSamePicture ? await kept.get(keptAs) : undefined
  if (design) {
    const drawn = { ...design, positions: {} }
    // Another program may draw the same otherwise: its scripts stand elsewhere.
    const of = textOf([drawn, extent, self.location.href])
    const own =
      before?.of === of ? before.own : placed(drawn, extent, isSamePicture ? last?.own : before?.own)
    last = { design: drawn, extent, of, own }
  }
  // What was asked meanwhile is answered next, and a design that was sent with this question is known by now.
  if (!last || number !== newest) return
  const { of, own } = last
  const byHand = textOf(positions)
  const scene = before?.of === of && before.byHand === byHand ? before.scene : sceneOf(last, positions)
  self.postMessage({ number, scene })
  if (keptAs === undefined) return
  const drawing: KeptDrawing = { name: keptAs, of, byHand, own, scene, usedAt: Date.now() }
  await kept.put(drawing)
}

/** Where tables stand: as they stood before as far as they can, else laid out anew. */
const placed = (
  design: Design,
  extent: SceneExtent,
  before: ReadonlyMap<string, Position> | undefined
): ReadonlyMap<string, Position> => (before && settle(design, extent, before)) ?? layout(design, extent)

function sceneOf({ design, extent, own }: Drawn, positions: Record<string, Position>): Scene {
  const byHand = Object.entries(positions).filter(([id]) => own.has(id))
  return makeScene(design, new Map([...own, ...byHand]), extent)
}

const textOf = (value: unknown): string =>
  JSON.stringify(value, (_, each: unknown) => (each instanceof Set || each instanceof Map ? [...each] : each))
