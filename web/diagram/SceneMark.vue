<script setup lang="ts">
import { computed } from 'vue'
import { keyShape } from '../../core/design/key-shape.ts'
import { MARK, markColour, markPath, type MarkedKey } from '../../core/diagram/mark.ts'
import { useKeyLight } from '../parts/keyLight.ts'
import { useTheme } from '../stores/theme.ts'

/** The mark of a key in the diagram; pointing at it lights every place that the key reaches. */
const props = defineProps<{ mark: MarkedKey; x: number; y: number }>()
const theme = useTheme()
const light = useKeyLight()
const colour = computed(() => markColour(keyShape(props.mark.key), theme.dark))
const isFilled = computed(() => props.mark.style === 'own' || props.mark.style === 'both')
</script>

<template>
  <g
    :transform="`translate(${x} ${y})`"
    :class="{ dim: light.key && light.key !== mark.key }"
    @pointerenter="light.point(mark.key)"
    @pointerleave="light.leave()">
    <path
      :d="markPath(keyShape(mark.key))"
      :fill="isFilled ? colour : 'var(--sheet)'"
      :stroke="colour"
      stroke-width="1.2"
      :stroke-dasharray="mark.style === 'open' ? '2.4 1.6' : undefined" />
    <rect v-if="mark.style === 'both'" x="0" y="11" :width="MARK.width" height="1.6" :fill="colour" />
    <rect x="-2" y="-3" :width="MARK.width + 4" height="18" fill="transparent" />
  </g>
</template>

<style scoped>
.dim {
  opacity: 0.3;
}
</style>
