import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // For work on the front end: the server beside it answers as to its own page.
  server: {
    proxy: {
      '/api': {
        target: 'http://127.0.0.1:7410',
        changeOrigin: true,
        headers: { origin: 'http://127.0.0.1:7410' },
      },
    },
  },
})
