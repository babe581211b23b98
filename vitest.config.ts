import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    projects: [
      { test: { name: 'unit', include: ['tests/unit/**/*.test.ts'] } },
      { test: { name: 'standards', include: ['tests/standards/**/*.test.ts'] } },
      { test: { name: 'server', include: ['tests/server/**/*.test.ts'], globalSetup: ['tests/server/support/cluster.ts'], testTimeout: 120_000, hookTimeout: 120_000, fileParallelism: false } },
    ],
  },
})
