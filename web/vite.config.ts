import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react()],
  build: { outDir: '../src/rezept/server/static', emptyOutDir: true, chunkSizeWarningLimit: 1500 },
  server: { proxy: { '/api': { target: 'http://127.0.0.1:8137', changeOrigin: true } } },
  test: {
    include: ['tests/**/*.test.{ts,tsx}'],
    environment: 'node',
    // For tests that mount a hook: addresses of the server are relative.
    environmentOptions: { happyDOM: { url: 'http://rezept.test/' } },
  },
})
