<script setup lang="ts">
import { computed } from 'vue'
import { keyShape } from '../../core/design/key-shape.ts'
import { MARK, markColour, markPath, type MarkedKey } from '../../core/diagram/mark.ts'
import { useTheme } from '../stores/theme.ts'
import { useKeyLight } from './keyLight.ts'

const props = defineProps<{ mark: MarkedKey; large?: boolean }>()
const theme = useTheme()
const light = useKeyLight()

const shape = computed(() => keyShape(props.mark.key))
const colour = computed(() => markColour(shape.value, theme.dark))
const filled = computed(() => props.mark.style === 'own' || props.mark.style === 'both')
const scale = computed(() => (props.large ? 1.35 : 1))
const words = computed(
  () =>
    ({
      own: `the key of ${props.mark.table}`,
      fits: `fits the key of ${props.mark.table}`,
      open: `may fit the key of ${props.mark.table}, or be empty`,
      both: `fits the key of ${props.mark.table}, and is part of this key`
    })[props.mark.style]
)
</script>

<template>
  <svg
    class="mark"
    :class="{ lit: light.key === mark.key, dim: light.key !== '' && light.key !== mark.key }"
    :width="MARK.width * scale"
    :height="(MARK.height + 1) * scale"
    :viewBox="`0 0 ${MARK.width} ${MARK.height + 1}`"
    role="img"
    :aria-label="words"
    @pointerenter="light.point(mark.key)"
    @pointerleave="light.leave()">
    <title>{{ words }}</title>
    <path
      :d="markPath(shape)"
      :fill="filled ? colour : 'var(--sheet)'"
      :stroke="colour"
      stroke-width="1.2"
      stroke-linejoin="round"
      :stroke-dasharray="mark.style === 'open' ? '2.4 1.6' : undefined" />
    <rect v-if="mark.style === 'both'" x="0" y="11" :width="MARK.width" height="1.7" :fill="colour" />
  </svg>
</template>

<style scoped>
.mark {
  flex: none;
  display: block;
  transition: opacity 0.12s;
  overflow: visible;
}
.mark.dim {
  opacity: 0.3;
}
.mark.lit {
  filter: drop-shadow(0 0 2px var(--chosen));
}
</style>
