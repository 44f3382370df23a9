import type { Design, Look, ShownPart } from '../design/model.ts'
import { PLAIN_LOOK } from '../design/model.ts'
import { layout } from './layout.ts'
import type { Extent } from './box.ts'
import { partOf, type DrawnPart } from './part.ts'
import { makeScene, type Scene } from './scene.ts'

/** What is drawn of a design, and how. */
export interface Shown {
  shows: ShownPart
  look: Look
}

export const ALL_SHOWN: Shown = { shows: { kind: 'all' }, look: PLAIN_LOOK }

/** What is drawn, with how much of it. */
export interface DrawingRequest {
  part: DrawnPart
  extent: Extent & Pick<Look, 'words' | 'ends'>
}

/** What a view asks of a design. Places that were given by hand are those of the whole with all its columns. */
export function askedOf(design: Design, { shows, look }: Shown): DrawingRequest {
  const part = partOf(design, shows)
  const isWhole = shows.kind === 'all' && look.rows === 'all' && look.types
  const { subjects, ...bare } = part.design
  const drawn: Design = {
    ...bare,
    ...(look.regions && subjects && { subjects }),
    positions: isWhole ? part.design.positions : {}
  }
  return {
    part: { ...part, design: drawn },
    extent: {
      rows: look.rows,
      bare: !look.types,
      words: look.words,
      ends: look.ends,
      whole: design,
      slim: part.slim,
      more: part.more
    }
  }
}

/** A design as a view shows it. */
export function sceneOf(design: Design, shown: Shown): Scene {
  const { part, extent } = askedOf(design, shown)
  return makeScene(part.design, layout(part.design, extent), extent)
}
