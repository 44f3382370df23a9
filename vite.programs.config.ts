import { defineConfig } from 'vite'

/** The command line, and what the server starts as processes of their own; packages stay where they are installed. */
export default defineConfig({
  publicDir: false,
  build: {
    ssr: true,
    outDir: 'built',
    target: 'node20',
    sourcemap: true,
    rolldownOptions: {
      input: {
        'patient-key': 'cli/main.ts',
        'proof-process': 'server/engine/proof-process.ts',
        'helper-process': 'server/store/helper-process.ts'
      }
    }
  }
})
