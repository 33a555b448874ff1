import { defineConfig } from 'vitest/config'

// Pure files (.test.ts), and forms and drawings in a document of their own (.test.tsx); whole views are tested in the
// browser (e2e).
export default defineConfig({
  test: { include: ['src/**/*.test.{ts,tsx}', 'test/**/*.test.ts'], setupFiles: ['test/setup.ts'] },
})
