import ELK, { type ElkExtendedEdge, type ElkNode } from 'elkjs/lib/elk.bundled.js'
import type { Design } from '../core/design/model.ts'
import { boxesOf } from '../core/diagram/box.ts'
import type { Drawing } from '../tests/drawing.ts'
import type { Point } from '../core/diagram/geometry.ts'

/** The yardstick for layout and routes: the same boxes and references given to a layered layout as they are. */
export async function plainLayers(
  design: Design,
  isDrawn: (key: string) => boolean = () => true
): Promise<Drawing> {
  const keys = design.tables.flatMap((table) =>
    table.foreignKeys
      .filter(({ id, table: to }) => to !== table.id && isDrawn(id))
      .map(({ id, key, table: parent }) => ({ id, key, parent, child: table.id }))
  )
  const graph: ElkNode = await new ELK().layout({
    id: 'design',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.edgeRouting': 'ORTHOGONAL'
    },
    children: [...boxesOf(design).values()].map(({ id, width, height }) => ({ id, width, height })),
    edges: keys.map(({ id, parent, child }) => ({ id, sources: [parent], targets: [child] }))
  })
  const ways = new Map(graph.edges?.map(({ id, sections }: ElkExtendedEdge) => [id, sections?.[0]]))
  return {
    tables: (graph.children ?? []).map(({ id, x = 0, y = 0, width = 0, height = 0 }) => ({
      id,
      x,
      y,
      width,
      height
    })),
    lines: keys.map((key) => {
      const way = ways.get(key.id)
      const points = way ? [way.startPoint, ...(way.bendPoints ?? []), way.endPoint] : []
      return { ...key, points: points.map(({ x, y }): Point => [x, y]) }
    })
  }
}
