import { fileURLToPath, URL } from 'node:url'

import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  base: '/static/',
  plugins: [vue()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
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
})
