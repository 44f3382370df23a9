<script setup lang="ts">
import { useTheme } from './stores/theme.ts'

useTheme()
</script>

<template>
  <RouterView />
</template>
