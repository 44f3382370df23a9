import { defineConfig } from 'vitest/config'
import { times } from './tests/times.ts'

/**
 * Unit and property tests; they stand beside the code, and much of their time is waiting for engines and
 * disks, so two files run at once. Files that follow one another share what they import, which nothing keeps a
 * state in. The interface is tested by vitest.e2e.config.ts.
 */
export default defineConfig({
  test: {
    include: ['{core,server,cli,web,demo,bench,tests}/**/*.test.ts'],
    setupFiles: ['tests/random.ts'],
    testTimeout: times(300_000),
    hookTimeout: 180_000,
    pool: 'forks',
    maxWorkers: 2,
    isolate: false
  }
})
