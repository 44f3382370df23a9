import { defineConfig } from 'vitest/config'

/**
 * Tests of the real interface in headless Chromium; what they start is built first. Each file has a browser and a
 * server of its own, which mostly wait for each other: two run at once.
 */
export default defineConfig({
  test: {
    include: ['e2e/**/*.test.ts'],
    testTimeout: 180_000,
    hookTimeout: 180_000,
    pool: 'forks',
    maxWorkers: 2
  }
})
