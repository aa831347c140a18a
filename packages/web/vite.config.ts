import { fileURLToPath } from 'node:url'
import { resolve } from 'node:path'
import react from '@vitejs/plugin-react'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vite'
import { prose } from './prose.ts'

const here = fileURLToPath(new URL('.', import.meta.url))

export default defineConfig({
  root: here,
  plugins: [prose(), react(), tailwindcss()],
  worker: { format: 'es', plugins: () => [prose()] },
  resolve: { alias: { '@demo': resolve(here, '../../demo') } },
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    target: 'es2023',
    assetsInlineLimit: 0,
    sourcemap: false,
    chunkSizeWarningLimit: 1600,
  },
  server: {
    fs: { allow: [resolve(here, '../..')] },
    headers: { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' },
  },
})
