<script setup lang="ts">
import { useOutgoing } from './stores/outgoing.ts'
import { useTheme } from './stores/theme.ts'
import { trouble } from './stores/trouble.ts'

useTheme()
// What an earlier page left in the browser goes out from wherever one is.
void useOutgoing().sendWhatWasLeft()
const again = (): void => location.reload()
</script>

<template>
  <RouterView />
  <div v-if="trouble" class="trouble" role="alert">
    <span>Something went wrong in this page: {{ trouble }} What you did before is kept.</span>
    <button type="button" class="button" @click="again">Load the page again</button>
    <button type="button" class="link" @click="trouble = ''">Go on</button>
  </div>
</template>

<style scoped>
.trouble {
  position: fixed;
  inset: auto 0 0;
  z-index: 60;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  padding: 9px 20px;
  background: var(--chosen-tint);
  border-top: 1px solid var(--line);
  box-shadow: inset 3px 0 0 var(--deleted);
}
</style>
