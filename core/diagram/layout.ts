import { referencesTo } from '../design/directory.ts'
import type { Design, Position } from '../design/model.ts'
import { boxesOf } from './box.ts'

/** What the layered step is given and gives back: the part of the ELK graph format that is used here. */
export interface LayeredGraph {
  id: string
  layoutOptions: Record<string, string>
  children: { id: string; width: number; height: number; x?: number; y?: number }[]
  edges: { id: string; sources: string[]; targets: string[] }[]
}
/** Places the nodes of a graph in layers from left to right; elkjs does, in a worker or in this process. */
export type LayeredStep = (graph: LayeredGraph) => Promise<Pick<LayeredGraph, 'children'>>

/** Room between tables: beside each other for lines to run in, and above each other. */
const GAP = { across: 96, down: 34 }

const OPTIONS = {
  'elk.algorithm': 'layered',
  'elk.direction': 'RIGHT',
  'elk.layered.spacing.nodeNodeBetweenLayers': String(GAP.across),
  'elk.spacing.nodeNode': String(GAP.down),
  'elk.spacing.componentComponent': '60',
  'elk.spacing.edgeNode': '18',
  'elk.layered.spacing.edgeNodeBetweenLayers': '24',
  'elk.aspectRatio': '1.5',
  'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
  'elk.layered.considerModelOrder.strategy': 'PREFER_NODES'
}

/**
 * In a large design a table that very many refer to would pull everything into one tall column. Such hubs
 * stand at the far left by themselves, and what they leave is laid out in parts that are packed side by side.
 */
const HUB = { tables: 60, referrers: 12 }

/**
 * A place for every table: ones left of manys by the layered step; a table that was put somewhere by
 * hand is there. Positions are top left corners, in whole pixels.
 */
export async function layout(design: Design, layered: LayeredStep): Promise<Map<string, Position>> {
  const boxes = boxesOf(design)
  const hubs = new Set(
    design.tables.length < HUB.tables
      ? []
      : design.tables.map((table) => table.id).filter((id) => referencesTo(design, id).length > HUB.referrers)
  )
  const graph: LayeredGraph = {
    id: 'design',
    layoutOptions: OPTIONS,
    children: [...boxes.values()]
      .filter(({ id }) => !hubs.has(id))
      .map(({ id, width, height }) => ({ id, width, height })),
    edges: design.tables.flatMap((table) =>
      table.foreignKeys
        .filter(
          (foreignKey) => foreignKey.table !== table.id && !hubs.has(foreignKey.table) && !hubs.has(table.id)
        )
        .map((foreignKey) => ({ id: foreignKey.id, sources: [foreignKey.table], targets: [table.id] }))
    )
  }
  const placed = graph.children.length > 0 ? (await layered(graph)).children : []
  const positions = new Map<string, Position>(
    placed.map(({ id, x = 0, y = 0 }) => [id, { x: Math.round(x), y: Math.round(y) }])
  )
  let top = 0
  for (const box of boxes.values()) {
    if (!hubs.has(box.id)) continue
    positions.set(box.id, { x: -box.width - GAP.across, y: top })
    top += box.height + GAP.down
  }
  for (const [id, position] of Object.entries(design.positions))
    if (positions.has(id)) positions.set(id, position)
  return positions
}
