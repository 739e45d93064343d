// Bundles what runs outside the pages: the database thread, the stand-ins, the command line. Output in build/.
import { build } from 'esbuild'

await build({
  entryPoints: {
    'db-thread': 'src/server/db/thread.ts',
    boards: 'standins/board/main.ts',
    'board-thread': 'standins/board/thread.ts',
    controller: 'standins/controller/main.ts',
    supervise: 'scripts/supervise.ts',
    formats: 'scripts/formats.ts',
  },
  outdir: 'build', outExtension: { '.js': '.mjs' }, bundle: true, packages: 'external', platform: 'node', format: 'esm', target: 'node20',
  sourcemap: 'inline', logLevel: 'warning',
})
