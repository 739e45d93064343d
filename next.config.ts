import path from 'node:path'
import type { NextConfig } from 'next'

const config: NextConfig = {
  serverExternalPackages: ['@electric-sql/pglite', 'aedes', 'mqtt'],
  poweredByHeader: false,
  // The first page is asked for at the start; the others are loaded when somebody goes there.
  experimental: { preloadEntriesOnStart: false },
  // Types are checked by `npm run types` over the whole project, tests included; a build need not do it again.
  typescript: { ignoreBuildErrors: true },
  devIndicators: false,
  turbopack: { root: path.resolve('.') },
  sassOptions: { silenceDeprecations: ['import', 'global-builtin', 'color-functions', 'if-function'], quietDeps: true },
}

export default config
