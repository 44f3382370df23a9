<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { isSingle, readingOf } from '../../core/relate/reading.ts'
import { endMarks, linePath } from '../../core/diagram/scene.ts'
import { useKeyLight } from '../parts/keyLight.ts'
import type { Neighbour } from './useNeighbours.ts'
import type { Point } from '../../core/diagram/geometry.ts'

/** The lines between the sheet and its neighbours: from the row of the column concerned, at right angles. */
const props = defineProps<{ ones: Neighbour[]; manys: Neighbour[]; root: HTMLElement | undefined }>()
const light = useKeyLight()

interface Wire {
  id: string
  key: string
  paths: string[]
  identifying: boolean
  ends: { path: string; circle: Point | undefined }[]
}
const wires = ref<Wire[]>([])
let observer: ResizeObserver | undefined
let frame = 0

/** Where a card's line meets it: the middle of its heading, from its top. */
const HEAD = 19
/** Between lines that leave the same row and say different things. */
const APART = 7

interface Place {
  neighbour: Neighbour
  card: DOMRect
  identifying: boolean
  least: 0 | 1
  /** How many there are on the many side at the least. */
  some: 0 | 1
  many: 'one' | 'many'
}

function draw(): void {
  const { root } = props
  const sheet = root?.querySelector('.sheet')
  if (!root || !sheet) return void (wires.value = [])
  const origin = root.getBoundingClientRect()
  const middle = sheet.getBoundingClientRect()
  const crisp = (value: number): number => Math.round(value) + 0.5
  const rowY = (column: string): number => {
    const row = sheet.querySelector(`[data-column="${CSS.escape(column)}"]`)?.getBoundingClientRect()
    return crisp((row ? row.top + 14 : middle.top + 24) - origin.top)
  }
  const places = (side: 'one' | 'many', neighbours: readonly Neighbour[]): Place[] =>
    neighbours.flatMap((neighbour) => {
      const card = root
        .querySelector(`[data-side="${side}"] [data-relation="${CSS.escape(neighbour.foreignKey.id)}"]`)
        ?.getBoundingClientRect()
      if (!card) return []
      const reading = readingOf(neighbour.child, neighbour.foreignKey)
      return [
        {
          neighbour,
          card,
          identifying: reading.identifying,
          least: reading.ofChild === 'exactly one' ? 1 : 0,
          some: neighbour.foreignKey.atLeastOne ? 1 : 0,
          many: isSingle(reading) ? 'one' : 'many'
        }
      ]
    })
  const cardY = (card: DOMRect): number => crisp(card.top + Math.min(HEAD, card.height / 2) - origin.top)

  // On the left each line has a lane of its own; those from above turn later, so that they do not cross.
  const ones = places('one', props.ones)
  const left = ones.map(({ neighbour, card, identifying, least, some, many }, at): Wire => {
    const start: Point = [card.right - origin.left, cardY(card)]
    const end: Point = [middle.left - origin.left, rowY(neighbour.foreignKey.pairs[0]?.column ?? '')]
    const room = Math.max(end[0] - start[0] - 44, 0)
    const x = crisp(
      start[0] + 22 + (ones.length > 1 ? ((ones.length - 1 - at) / (ones.length - 1)) * room : room / 2)
    )
    return {
      id: `one ${neighbour.foreignKey.id}`,
      key: neighbour.foreignKey.key,
      identifying,
      paths: [linePath([start, [x, start[1]], [x, end[1]], end])],
      ends: [
        endMarks({ at: start, side: 1, least, most: 'one' }),
        endMarks({ at: end, side: -1, least: some, most: many })
      ]
    }
  })

  // On the right all that say the same of one key share a way out, and branch off it card by card.
  const groups = new Map<string, Place[]>()
  for (const place of places('many', props.manys)) {
    const name = `${place.neighbour.foreignKey.pairs[0]?.refersTo} ${place.identifying} ${place.least}`
    groups.set(name, [...(groups.get(name) ?? []), place])
  }
  const right = [...groups.values()].map((group, at): Wire => {
    const { neighbour, identifying, least } = group[0] as Place
    const shift = (at - (groups.size - 1) / 2) * APART
    const start: Point = [
      middle.right - origin.left,
      rowY(neighbour.foreignKey.pairs[0]?.refersTo ?? '') + shift
    ]
    const ends = group.map(({ card }): Point => [card.left - origin.left, cardY(card)])
    const x = crisp((start[0] + (ends[0] as Point)[0]) / 2 - shift)
    const heights = [start[1], ...ends.map(([, y]) => y)]
    return {
      id: `many ${neighbour.foreignKey.id}`,
      key: neighbour.foreignKey.key,
      identifying,
      paths: [
        linePath([start, [x, start[1]]]),
        linePath([
          [x, Math.min(...heights)],
          [x, Math.max(...heights)]
        ]),
        ...ends.map((end) => linePath([[x, end[1]], end]))
      ],
      ends: [
        endMarks({ at: start, side: 1, least, most: 'one' }),
        ...ends.map((end, index) => {
          const { some, many } = group[index] as Place
          return endMarks({ at: end, side: -1, least: some, most: many })
        })
      ]
    }
  })
  wires.value = [...left, ...right]
}

function redraw(): void {
  cancelAnimationFrame(frame)
  frame = requestAnimationFrame(draw)
}

onMounted(() => {
  observer = new ResizeObserver(redraw)
  watch(
    () => props.root,
    (root) => {
      observer?.disconnect()
      if (root)
        for (const element of [root, ...root.querySelectorAll('.side, .middle')]) observer?.observe(element)
      redraw()
    },
    { immediate: true }
  )
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
      <path
        v-for="(path, at) in wire.paths"
        :key="`way ${at}`"
        :d="path"
        :stroke-dasharray="wire.identifying ? undefined : '6 4'" />
      <template v-for="(end, at) in wire.ends" :key="at">
        <path :d="end.path" />
        <circle v-if="end.circle" :cx="end.circle[0]" :cy="end.circle[1]" r="3.5" />
      </template>
    </g>
  </svg>
</template>

<style scoped>
.wires {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  overflow: visible;
}
path {
  fill: none;
  stroke: var(--wire);
  stroke-width: 1.3;
}
circle {
  fill: var(--film);
  stroke: var(--wire);
  stroke-width: 1.3;
}
.lit path,
.lit circle {
  stroke: var(--chosen);
  stroke-width: 2;
}
</style>
