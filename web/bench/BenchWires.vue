<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { readingOf } from '../../core/relate/reading.ts'
import { endMarks, linePath } from '../../core/diagram/scene.ts'
import type { Point } from '../../core/diagram/route.ts'
import { useKeyLight } from '../parts/keyLight.ts'
import type { Neighbour } from './useNeighbours.ts'

/** The lines between the sheet and its neighbours: from the row of the column concerned, at right angles. */
const props = defineProps<{ ones: Neighbour[]; manys: Neighbour[]; root: HTMLElement | undefined }>()
const light = useKeyLight()

interface Wire { id: string; key: string; points: Point[]; identifying: boolean; ends: { path: string; circle: Point | undefined }[] }
const wires = ref<Wire[]>([])
let observer: ResizeObserver | undefined
let frame = 0

/** Where a card's line meets it: the middle of its heading, from its top. */
const HEAD = 19

function draw(): void {
  const { root } = props
  const sheet = root?.querySelector('.sheet')
  if (!root || !sheet) return void (wires.value = [])
  const origin = root.getBoundingClientRect()
  const middle = sheet.getBoundingClientRect()
  const rowY = (column: string): number => {
    const row = sheet.querySelector(`[data-column="${CSS.escape(column)}"]`)?.getBoundingClientRect()
    return Math.round((row ? row.top + 14 : middle.top + 24) - origin.top) + 0.5
  }
  const found: Wire[] = []
  const add = (neighbour: Neighbour, side: 'one' | 'many', at: number, count: number): void => {
    const { foreignKey, child } = neighbour
    const card = root.querySelector(`[data-side="${side}"] [data-relation="${CSS.escape(foreignKey.id)}"]`)?.getBoundingClientRect()
    const [pair] = foreignKey.pairs
    if (!card || !pair) return
    const reading = readingOf(child, foreignKey)
    const cardY = Math.round(card.top + HEAD - origin.top) + 0.5
    const many = reading.ofParent === 'any number of' ? 'many' as const : 'one' as const
    const least = reading.ofChild === 'exactly one' ? 1 as const : 0 as const
    let start: Point
    let end: Point
    if (side === 'one') {
      start = [card.right - origin.left, cardY]
      end = [middle.left - origin.left, rowY(pair.column)]
    } else {
      start = [middle.right - origin.left, rowY(pair.refersTo)]
      end = [card.left - origin.left, cardY]
    }
    // On the left each line has a lane of its own; on the right all leave by the key and share the way.
    const room = end[0] - start[0]
    const lane = side === 'one' ? 22 + (count > 1 ? (at / (count - 1)) * Math.max(room - 44, 0) : room / 2 - 22) : room / 2
    const x = Math.round(start[0] + lane) + 0.5
    found.push({
      id: side + foreignKey.id, key: foreignKey.key, identifying: reading.identifying,
      points: start[1] === end[1] ? [start, end] : [start, [x, start[1]], [x, end[1]], end],
      ends: [endMarks({ at: start, side: 1, least, most: 'one' }), endMarks({ at: end, side: -1, least: 0, most: many })]
    })
  }
  // Lines that come from above turn later, those from below earlier, so that they do not cross.
  props.ones.forEach((neighbour, at) => add(neighbour, 'one', props.ones.length - 1 - at, props.ones.length))
  props.manys.forEach((neighbour, at) => add(neighbour, 'many', at, props.manys.length))
  wires.value = found
}

function redraw(): void {
  cancelAnimationFrame(frame)
  frame = requestAnimationFrame(draw)
}

onMounted(() => {
  observer = new ResizeObserver(redraw)
  watch(() => props.root, (root) => {
    observer?.disconnect()
    if (root) for (const element of [root, ...root.querySelectorAll('.side, .middle')]) observer?.observe(element)
    redraw()
  }, { immediate: true })
})
watch([() => props.ones, () => props.manys], redraw, { flush: 'post' })
onBeforeUnmount(() => {
  observer?.disconnect()
  cancelAnimationFrame(frame)
})
defineExpose({ redraw })
</script>

<template>
  <svg class="wires" aria-hidden="true">
    <g v-for="wire in wires" :key="wire.id" :class="{ lit: light.key === wire.key }">
      <path :d="linePath(wire.points)" :stroke-dasharray="wire.identifying ? undefined : '6 4'" />
      <template v-for="(end, at) in wire.ends" :key="at">
        <path :d="end.path" />
        <circle v-if="end.circle" :cx="end.circle[0]" :cy="end.circle[1]" r="3.5" />
      </template>
    </g>
  </svg>
</template>

<style scoped>
.wires { position: absolute; inset: 0; width: 100%; height: 100%; pointer-events: none; overflow: visible; }
path { fill: none; stroke: var(--wire); stroke-width: 1.3; }
circle { fill: var(--film); stroke: var(--wire); stroke-width: 1.3; }
.lit path, .lit circle { stroke: var(--chosen); stroke-width: 2; }
</style>
