import { defineConfig } from 'vitest/config'

// Ends a test that hangs. Never a statement about speed: a busy machine with one core must pass as well (`npm run bench` measures).
const patience = { testTimeout: 300_000, hookTimeout: 300_000 }

export default defineConfig({
  test: {
    projects: [
      // Test files load the same modules, and leave nothing behind in them: each worker loads them once.
      { test: { name: 'unit', include: ['tests/unit/**/*.test.ts'], isolate: false, ...patience } },
      { test: { name: 'standards', include: ['tests/standards/**/*.test.ts'], isolate: false, ...patience } },
      {
        test: {
          name: 'server',
          include: ['tests/server/**/*.test.ts'],
          globalSetup: ['tests/server/cluster.ts'],
          isolate: false,
          ...patience,
        },
      },
    ],
  },
})
