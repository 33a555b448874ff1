import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'

/** Where the server for programs is; ./dev says. */
const api = process.env.DRY_ANVIL_API ?? 'http://127.0.0.1:7410'

/** What the server answers has another shape where its description is another. */
const shape = createHash('sha256').update(readFileSync('src/api/openapi.json')).digest('hex').slice(0, 12)

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    // The program opens without the server; what it has seen and what waits is kept apart (src/app/seen, src/api/outbox).
    VitePWA({
      registerType: 'autoUpdate',
      injectRegister: false,
      workbox: {
        globPatterns: ['**/*.{js,css,html,svg,png,ico,woff2,webmanifest}'],
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//, /\.\w+$/],
        cleanupOutdatedCaches: true,
      },
      manifest: {
        name: 'Dry Anvil',
        short_name: 'Dry Anvil',
        description: 'The bench book of a transmission rebuilder',
        start_url: '/',
        display: 'standalone',
        background_color: '#f3f0e8',
        theme_color: '#17211f',
        icons: [
          { src: '/mark-192.png', sizes: '192x192', type: 'image/png' },
          { src: '/mark-512.png', sizes: '512x512', type: 'image/png' },
          { src: '/mark.svg', sizes: 'any', type: 'image/svg+xml' },
        ],
      },
    }),
  ],
  build: {
    rolldownOptions: {
      output: {
        codeSplitting: {
          // What several views share comes in few files, for each costs a journey to the server.
          groups: [
            { name: 'first', tags: ['$initial'], priority: 2 },
            { name: 'parts', test: /src\/(ui|domain|api)\/|@tanstack/, minShareCount: 2, priority: 1 },
            { name: 'charts', test: /src\/charts\/|node_modules\/(d3-|internmap)/, minShareCount: 2 },
          ],
        },
      },
    },
  },
  define: { __BUILD__: JSON.stringify(shape) },
  // For work on the front end: the server beside it answers as to its own page.
  server: {
    proxy: {
      '/api': {
        target: api,
        changeOrigin: true,
        headers: { origin: api },
        ws: true,
      },
    },
  },
})
