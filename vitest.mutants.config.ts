import path from 'node:path'
import { defineConfig } from 'vitest/config'

/** Tests of the core that need no build, for `npm run mutants`: the long walks over remedies are left to the full run. */
export default defineConfig({
  resolve: { alias: { '@': path.resolve('src') } },
  test: {
    include: ['tests/core/*.test.ts'],
    exclude: ['tests/core/{documents,harm,pins,assignment}.test.ts'],
    testTimeout: 120_000,
  },
})
