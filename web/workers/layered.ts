import ELK from 'elkjs/lib/elk-api.js'
import workerUrl from 'elkjs/lib/elk-worker.min.js?url'
import type { LayeredGraph, LayeredStep } from '../../core/diagram/layout.ts'

let elk: InstanceType<typeof ELK> | undefined

/** The layered step of the diagram's layout, in a worker of its own. */
export const layered: LayeredStep = async (graph) => {
  elk ??= new ELK({ workerUrl })
  return (await elk.layout(graph)) as LayeredGraph
}
