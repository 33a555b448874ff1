import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

/** Where the server for programs is; ./dev says. */
const api = process.env.DRY_ANVIL_API ?? 'http://127.0.0.1:7410'

export default defineConfig({
  plugins: [react(), tailwindcss()],
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
