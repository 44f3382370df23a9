import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [vue()],
  publicDir: 'web/public',
  build: { outDir: 'dist', target: 'es2022', chunkSizeWarningLimit: 1600 },
  worker: { format: 'es' },
  server: { port: 4171, proxy: { '/api': 'http://127.0.0.1:4170' } }
})
