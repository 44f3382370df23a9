import { defineConfig } from 'vitest/config'

/** Unit and property tests; they stand beside the code. The interface is tested by vitest.e2e.config.ts. */
export default defineConfig({
  test: { include: ['{core,server,cli,web,demo,bench}/**/*.test.ts'], testTimeout: 120_000, hookTimeout: 60_000, pool: 'forks' }
})
