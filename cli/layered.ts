import type { LayeredGraph, LayeredStep } from '../core/diagram/layout.ts'

/** The layered step of the diagram's layout, in this process. */
export const layered: LayeredStep = async (graph) => {
  const { default: ELK } = await import('elkjs/lib/elk.bundled.js')
  return (await new ELK().layout(graph)) as LayeredGraph
}
