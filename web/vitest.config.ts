import { defineConfig } from 'vitest/config'

// The front end's pure files; what is drawn is tested in the browser (e2e).
export default defineConfig({ test: { include: ['src/**/*.test.ts', 'test/**/*.test.ts'] } })
