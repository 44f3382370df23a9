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
  <div v-if="trouble" class="trouble notice-bar gone" role="alert">
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
}
</style>
