import ELK from 'elkjs/lib/elk.bundled.js'
import type { LayeredGraph, LayeredStep } from '../core/diagram/layout.ts'

/** The layered step of the diagram's layout, in this process. */
export const layered: LayeredStep = async (graph) => (await new ELK().layout(graph)) as LayeredGraph
