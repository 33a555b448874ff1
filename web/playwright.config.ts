import { defineConfig } from '@playwright/test'
import { launchOptions } from './chromium.mjs'

// Debian's Chromium, against servers that the caller has started: cargo test does. Each worker has its own.
const shops = (process.env.DRY_ANVIL_AT ?? 'http://127.0.0.1:7410').split(',')

export default defineConfig({
  testDir: 'e2e',
  workers: shops.length,
  // What is right only at a second try is counted and told; a second failure is a fault at once.
  retries: process.env.CI ? 1 : 0,
  timeout: 60_000,
  expect: { timeout: process.env.CI ? 20_000 : 10_000 },
  reporter: [['list'], ['./e2e/second-tries.ts']],
  use: {
    baseURL: shops[Number(process.env.TEST_PARALLEL_INDEX ?? 0)],
    viewport: { width: 1280, height: 800 },
    // Only where a test is about them: else each page is asked of the server.
    serviceWorkers: 'block',
    launchOptions,
  },
})
