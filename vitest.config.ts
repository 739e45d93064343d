import path from 'node:path'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { alias: { '@': path.resolve('src') } },
  test: {
    include: ['tests/**/*.test.ts'],
    globalSetup: 'tests/support/bundle.ts',
    setupFiles: 'tests/support/perFile.ts',
    pool: 'forks',
    maxWorkers: 2,
    // Tests that wait for the same second wait for it together.
    maxConcurrency: 12,
    // What waits for a browser waits longer where the machine is slow.
    testTimeout: 200_000,
    hookTimeout: 240_000,
    coverage: { include: ['src/core/**/*.ts'], reporter: ['text-summary'], reportsDirectory: 'build/coverage' },
  },
})
