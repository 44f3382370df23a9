<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index.mjs'

/** A card over the page on which something is put together before it is done; what does it stands in `acts`. */
defineProps<{ title: string; width?: number }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <ElDialog
    :model-value="true"
    class="relate"
    :show-close="false"
    :width="`min(${width ?? 760}px, 94vw)`"
    top="7vh"
    :title="title"
    destroy-on-close
    @close="emit('close')">
    <div class="card">
      <h1>{{ title }}</h1>
      <slot />
      <p class="acts">
        <slot name="acts" />
      </p>
    </div>
  </ElDialog>
</template>

<style scoped>
.card {
  padding: 18px 24px;
  max-height: 86vh;
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 10px;
}
h1 {
  font-size: 18px;
  font-weight: 600;
}
.acts {
  display: flex;
  gap: 10px;
}
</style>
