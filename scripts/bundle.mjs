// Bundles what runs outside the pages: the database thread, the stand-ins, the command line. Output in build/.
import { build } from 'esbuild'
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { once } from 'node:events'
import fs from 'node:fs'
import { Worker } from 'node:worker_threads'

await build({
  entryPoints: {
    broker: 'src/broker/main.ts',
    'db-thread': 'src/server/db/thread.ts',
    'derive-thread': 'src/server/derived/thread.ts',
    boards: 'standins/board/main.ts',
    'board-thread': 'standins/board/thread.ts',
    'cable-thread': 'standins/cable/thread.ts',
    controller: 'standins/controller/main.ts',
    supervise: 'scripts/supervise.ts',
    vivid: 'src/cli/vivid.ts',
    bench: 'bench/run.ts',
    'peer-process': 'bench/peerProcess.ts',
    kill: 'bench/kill.ts',
    'heap-trial': 'bench/heapTrial.ts',
    'days-trial': 'bench/daysTrial.ts',
    'editing-child': 'tests/support/editing-child.ts',
    'serving-child': 'tests/support/serving-child.ts',
    'exchanging-child': 'tests/support/exchanging-child.ts',
    'acknowledging-child': 'tests/support/acknowledging-child.ts',
    formats: 'scripts/formats.ts',
    'module-heap': 'scripts/moduleHeap.ts',
    pictures: 'scripts/pictures.ts',
  },
  outdir: 'build',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  packages: 'external',
  platform: 'node',
  format: 'esm',
  target: 'node20',
  sourcemap: 'inline',
  logLevel: 'warning',
})

// In a process of its own: the compiler ends its process's ways with the network.
execFileSync(process.execPath, ['scripts/precompile.mjs'], { stdio: 'inherit' })

// An empty database with today's tables, made by the thread that will open its copies: creating one takes seconds,
// copying it a fraction of one.
const template = 'build/empty-database'
const migrationsFolder = 'src/server/db/migrations'
const migrations = fs
  .readdirSync(migrationsFolder)
  .sort()
  .map((name) => ({ name, sql: fs.readFileSync(`${migrationsFolder}/${name}`, 'utf8') }))
const { version } = JSON.parse(fs.readFileSync('node_modules/@electric-sql/pglite/package.json', 'utf8'))
const made = createHash('sha256')
  .update(JSON.stringify([version, migrations]))
  .digest('hex')
const stamp = `${template}.made-of`
if (!fs.existsSync(stamp) || fs.readFileSync(stamp, 'utf8') !== made) {
  fs.rmSync(template, { recursive: true, force: true })
  const thread = new Worker('./build/db-thread.mjs', { workerData: { folder: template, template: null, migrations } })
  await once(thread, 'message')
  thread.postMessage({ id: 1, kind: 'close' })
  await once(thread, 'exit')
  fs.writeFileSync(stamp, made)
}
