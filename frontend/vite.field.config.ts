/** The field: one bundle of its own under an address of its own, which stays when the connection goes. */
import { readFileSync } from 'node:fs'
import { createHash } from 'node:crypto'
import { fileURLToPath, URL } from 'node:url'

import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url))
const pageVersion = () =>
  createHash('sha256')
    .update(readFileSync(here('./dist/field/field.html')))
    .digest('hex')

export default defineConfig({
  base: '/static/field/',
  publicDir: 'public-field',
  plugins: [
    vue(),
    VitePWA({
      registerType: 'autoUpdate',
      injectRegister: null,
      scope: '/field/',
      base: '/field/',
      includeAssets: [],
      manifest: {
        id: '/field/',
        name: 'Wide Dusk in the field',
        short_name: 'Field',
        description: 'One step at a time, in the cold, with no connection.',
        start_url: '/field/',
        scope: '/field/',
        display: 'standalone',
        background_color: '#000000',
        theme_color: '#000000',
        icons: [
          { src: '/static/field/field-icon-192.png', sizes: '192x192', type: 'image/png', purpose: 'any' },
          { src: '/static/field/field-icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'any' },
          { src: '/static/field/field-icon.svg', sizes: 'any', type: 'image/svg+xml' },
        ],
      },
      workbox: {
        globPatterns: ['assets/*.{js,css,woff2}', '*.{svg,png}'],
        modifyURLPrefix: { '': '/static/field/' },
        // The page itself is served by the application, at another address than its file has.
        manifestTransforms: [
          (entries) => ({ manifest: [...entries, { url: '/field/', revision: pageVersion(), size: 0 }], warnings: [] }),
        ],
        navigateFallback: '/field/',
        navigateFallbackAllowlist: [/^\/field\//],
        inlineWorkboxRuntime: true,
        cleanupOutdatedCaches: true,
        clientsClaim: true,
        skipWaiting: true,
      },
    }),
  ],
  resolve: { alias: { '@': here('./src') } },
  build: {
    outDir: 'dist/field',
    assetsInlineLimit: 0,
    modulePreload: false,
    cssCodeSplit: false,
    rollupOptions: { input: here('./field.html'), output: { inlineDynamicImports: true } },
  },
})
