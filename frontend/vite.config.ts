import { fileURLToPath, URL } from 'node:url'

import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

// Where the API answers while one works on the pages: ./wide-dusk npm run dev names the site of this checkout.
const api = process.env.WIDE_DUSK_API ?? 'http://127.0.0.1:8077'

export default defineConfig(({ command, mode }) => ({
  base: command === 'serve' && mode === 'development' ? '/' : '/static/',
  plugins: [vue()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  server: {
    host: '127.0.0.1',
    port: 5180,
    proxy: Object.fromEntries(['/api', '/field', '/static'].map((path) => [path, { target: api }])),
  },
  // No inlined fonts or scripts: the content security policy lets only files of our own in.
  build: {
    outDir: 'dist',
    manifest: true, // by which the first load is measured
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 700,
  },
  // Tests write small templates of their own; the build ships no template compiler.
  test: {
    include: ['src/**/*.test.ts'],
    passWithNoTests: false,
    alias: { vue: 'vue/dist/vue.esm-bundler.js' },
    pool: 'vmThreads', // a world of its own for each file, with the packages read once: a third of the time
    maxWorkers: 2,
  },
}))
