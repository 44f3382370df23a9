import { defineConfig } from 'vitest/config'

/**
 * Tests of the real interface in headless Chromium; what they start is built first. One at a time: each has a
 * browser and a server of its own.
 */
export default defineConfig({
  test: {
    include: ['e2e/**/*.test.ts'],
    testTimeout: 180_000,
    hookTimeout: 60_000,
    pool: 'forks',
    fileParallelism: false
  }
})
