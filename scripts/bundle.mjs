// Bundles what runs outside the pages: the database thread, the stand-ins, the command line. Output in build/.
import { PGlite } from '@electric-sql/pglite'
import { build } from 'esbuild'
import fs from 'node:fs'

await build({
  entryPoints: {
    'db-thread': 'src/server/db/thread.ts',
    boards: 'standins/board/main.ts',
    'board-thread': 'standins/board/thread.ts',
    controller: 'standins/controller/main.ts',
    supervise: 'scripts/supervise.ts',
    vivid: 'src/cli/vivid.ts',
    bench: 'bench/run.ts',
    kill: 'bench/kill.ts',
    'heap-trial': 'bench/heapTrial.ts',
    'editing-child': 'tests/support/editing-child.ts',
    formats: 'scripts/formats.ts',
    pictures: 'scripts/pictures.ts',
  },
  outdir: 'build', outExtension: { '.js': '.mjs' }, bundle: true, packages: 'external', platform: 'node', format: 'esm', target: 'node20',
  sourcemap: 'inline', logLevel: 'warning',
})

// An empty database, made once per version: creating one takes seconds, copying it a fraction of one.
const { version } = JSON.parse(fs.readFileSync('node_modules/@electric-sql/pglite/package.json', 'utf8'))
const stamp = 'build/empty-database.version'
if (!fs.existsSync(stamp) || fs.readFileSync(stamp, 'utf8') !== version) {
  fs.rmSync('build/empty-database', { recursive: true, force: true })
  const db = await PGlite.create('build/empty-database')
  await db.close()
  fs.writeFileSync(stamp, version)
}
