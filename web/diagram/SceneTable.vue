<script setup lang="ts">
import { computed, inject } from 'vue'
import { BOX, clip, rowTexts, textWidth } from '../../core/diagram/box.ts'
import { SIGNS, tagOf } from '../../core/diagram/fates.ts'
import type { Detail } from '../../core/diagram/labels.ts'
import { MARK, type MarkedKey } from '../../core/diagram/mark.ts'
import { outline } from '../../core/diagram/scene.ts'
import { HOW, PLAIN } from './how.ts'
import SceneMark from './SceneMark.vue'
import type { SceneTable } from '../../core/diagram/scene-parts.ts'

/** One table of the scene, as much of it as can be read. */
const {
  table,
  detail = 'columns',
  size = 14
} = defineProps<{
  table: SceneTable
  detail?: Detail
  /** How large its name is where its columns are not drawn. */
  size?: number
}>()

const nameX = computed(() => table.x + BOX.pad + table.marks.length * (MARK.width + 4) + 4)
const how = inject(HOW, PLAIN)
const fate = computed(() => how.value.fates?.get(table.id))
/** Where there is no room for more, what became of it is a sign before its name. */
const signed = computed(() => (fate.value ? `${SIGNS[fate.value.fate]} ${table.name}` : table.name))
const rows = computed(() =>
  table.rows.map((row) => {
    const { name, type } = rowTexts(row, table.width)
    const own = how.value.fates?.get(row.id)
    const room = table.width - BOX.pad * 2 - BOX.markColumn - textWidth(name, 12.5, true) - 8
    return {
      row,
      name,
      fate: own?.fate,
      type: own?.was === undefined ? type : clip(`was ${own.was}`, room, 12, true)
    }
  })
)
interface PlacedMark {
  mark: MarkedKey
  x: number
  y: number
}
const marks = computed((): PlacedMark[] => [
  // Where the name is large, it has the head for itself.
  ...(detail === 'keys' ? [] : table.marks).map((mark, at) => ({
    mark,
    x: table.x + BOX.pad + at * (MARK.width + 4),
    y: table.y + 10
  })),
  ...table.rows.flatMap((row) =>
    row.mark ? [{ mark: row.mark, x: table.x + BOX.pad, y: table.y + row.middle - 5 }] : []
  )
])
</script>

<template>
  <g class="table">
    <path
      class="paper"
      :class="[fate?.fate, { external: table.external, slim: table.slim }]"
      :d="outline(table, BOX.cut)" />
    <path
      v-if="table.rule > BOX.head && detail !== 'outlines'"
      class="rule"
      :d="`M${table.x} ${table.y + table.rule}H${table.x + table.width}`" />
    <template v-if="detail === 'columns'">
      <text :x="nameX" :y="table.y + 20" class="name" :class="{ gone: fate?.fate === 'removed' }"
        >{{ clip(table.name, table.width - (nameX - table.x) - BOX.pad, 14)
        }}<title>{{ table.name }}</title></text
      >
      <text v-if="fate" :x="table.x" :y="table.y - 6" class="tag" :class="fate.fate">{{ tagOf(fate) }}</text>
      <template v-for="{ row, name, type, fate: own } in rows" :key="row.id">
        <text v-if="own" :x="table.x + 5" :y="table.y + row.middle + 4" class="sign" :class="own">{{
          SIGNS[own]
        }}</text>
        <text
          :x="table.x + BOX.pad + BOX.markColumn"
          :y="table.y + row.middle + 4"
          class="column"
          :class="[own, { open: !row.required }]"
          >{{ name }}</text
        >
        <text :x="table.x + table.width - BOX.pad" :y="table.y + row.middle + 4" class="type">{{
          type
        }}</text>
      </template>
    </template>
    <text
      v-else-if="detail === 'keys'"
      :x="table.x + BOX.pad"
      :y="table.y + BOX.head / 2"
      class="name large"
      :class="fate?.fate"
      :style="{ fontSize: `${size}px` }"
      >{{ clip(signed, table.width - BOX.pad * 2, size) }}</text
    >
    <template v-if="detail !== 'outlines'">
      <SceneMark v-for="(placed, at) in marks" :key="at" v-bind="placed" />
    </template>
  </g>
</template>

<style scoped>
.paper {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1;
}
.paper.external {
  stroke-width: 1.5;
  stroke-dasharray: 1.5 2.5;
}
.paper.slim {
  stroke: var(--quiet);
  stroke-dasharray: 5 3;
}
.paper.added,
.paper.removed,
.paper.renamed,
.paper.changed {
  stroke: var(--became);
  stroke-width: 2;
}
.paper.removed {
  stroke-dasharray: 8 4;
}
.added {
  --became: var(--added);
}
.removed {
  --became: var(--deleted);
}
.renamed {
  --became: var(--refused);
}
.changed {
  --became: var(--emptied);
}
text.added,
text.removed,
text.renamed,
text.changed {
  fill: var(--became);
}
.column.removed,
.gone {
  text-decoration: line-through;
}
.sign,
.tag {
  font: 700 12px var(--sans);
}
.sign {
  text-anchor: middle;
}
.rule {
  stroke: var(--ink);
  stroke-width: 1;
}
/* Seen from afar, an outline is as thick as from near. */
.paper,
.rule {
  vector-effect: non-scaling-stroke;
}
text {
  fill: var(--ink);
  font-family: var(--mono);
  font-size: 12.5px;
}
.name {
  font-family: var(--sans);
  font-size: 14px;
  font-weight: 700;
}
.large {
  dominant-baseline: central;
}
.open {
  font-style: italic;
}
.type {
  fill: var(--quiet);
  font-size: 12px;
  text-anchor: end;
}
</style>
