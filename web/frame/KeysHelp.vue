<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index.mjs'
import { computed } from 'vue'
import { KEY_GROUPS } from './keys.ts'

/** What can be pressed on the screen that one is at. */
const props = defineProps<{ screen: string }>()
const emit = defineEmits<{ close: [] }>()
const groups = computed(() =>
  KEY_GROUPS.filter(({ screens }) => screens === undefined || screens.includes(props.screen))
)
</script>

<template>
  <ElDialog
    :model-value="true"
    class="relate"
    :show-close="false"
    width="min(820px, 94vw)"
    top="8vh"
    title="What can be pressed here"
    destroy-on-close
    @close="emit('close')">
    <div class="help">
      <h1>What can be pressed here</h1>
      <div class="groups">
        <section v-for="group in groups" :key="group.where">
          <h2>{{ group.where }}</h2>
          <dl>
            <template v-for="[press, does] in group.keys" :key="press">
              <dt>
                <kbd>{{ press }}</kbd>
              </dt>
              <dd>{{ does }}</dd>
            </template>
          </dl>
        </section>
      </div>
      <p>
        <button type="button" class="link quiet" @click="emit('close')">Close <kbd>Esc</kbd></button>
      </p>
    </div>
  </ElDialog>
</template>

<style scoped>
.help {
  padding: 18px 24px;
  max-height: 82vh;
  overflow: auto;
}
h1 {
  font-size: 18px;
  font-weight: 600;
  margin-bottom: 8px;
}
.groups {
  columns: 2;
  column-gap: 32px;
}
p {
  margin-top: 6px;
}
section {
  break-inside: avoid;
  margin-bottom: 14px;
}
h2 {
  font-size: 12px;
  color: var(--quiet);
  margin-bottom: 2px;
}
dl {
  display: grid;
  grid-template-columns: 112px minmax(0, 1fr);
  gap: 3px 12px;
  margin: 0;
}
dd {
  margin: 0;
}
dt kbd {
  white-space: nowrap;
}
</style>
