import { defineConfig } from '@playwright/test'

export default defineConfig({
  testDir: 'tests/browser',
  globalSetup: './tests/browser/support/cluster.ts',
  workers: 2,
  timeout: 180_000,
  // Ends a test that hangs, and says nothing of speed: a busy machine must pass as well.
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json', { outputFile: 'test-results/browser.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
    trace: 'retain-on-failure',
  },
})
