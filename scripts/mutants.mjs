/**
 * Mutants of the core on a seeded sample of lines, each run against the tests that reach it: `npm run mutants -- [SEED]
 * [LINES]`. Writes build/mutants.json and a table by folder; names who lived.
 */
import { execFileSync } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import { Stryker } from '@stryker-mutator/core'

const [seed = 20261127, lines = 260] = process.argv.slice(2).map(Number)
const TARGETS = [
  'src/core/wiring/netlist.ts',
  'src/core/calculations',
  'src/core/drivers',
  'src/core/nodefile',
  'src/core/edits',
]

/** Mulberry32: the same seed, the same sample. */
function random(state) {
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32
  }
}

const files = execFileSync('git', ['ls-files', ...TARGETS], { encoding: 'utf8' })
  .split('\n')
  .filter((f) => f.endsWith('.ts'))
/** Lines that hold code a mutant can change. */
const places = files.flatMap((file) =>
  fs
    .readFileSync(file, 'utf8')
    .split('\n')
    .flatMap((text, i) =>
      /^\s*(import|export type|type|interface|\/?\*|\/\/|[\])}]+[,;]?$)|^\s*$/.test(text)
        ? []
        : [`${file}:${i + 1}-${i + 1}`],
    ),
)
const draw = random(seed)
const sample = new Set()
while (sample.size < Math.min(lines, places.length)) sample.add(places[Math.floor(draw() * places.length)])

const results = await new Stryker({
  mutate: [...sample],
  testRunner: 'vitest',
  plugins: ['@stryker-mutator/vitest-runner'],
  vitest: { configFile: 'vitest.mutants.config.ts', related: false },
  coverageAnalysis: 'perTest',
  concurrency: 2,
  timeoutMS: 60_000,
  reporters: ['progress-append-only'],
  allowConsoleColors: false,
  tempDirName: 'build/mutants',
  ignorePatterns: ['.next', 'build/*', '!build/device', '!build/device-small', 'data', 'docs/screenshots', 'bench'],
  ignoreStatic: true,
  mutator: { excludedMutations: ['StringLiteral'] },
  packageManager: 'npm',
}).runMutationTest()

const KILLED = new Set(['Killed', 'Timeout'])
const counted = results.filter((r) => KILLED.has(r.status) || r.status === 'Survived' || r.status === 'NoCoverage')
const folderOf = (file) => path.relative('.', file).split('/').slice(2, 4).join('/').replace(/\.ts$/, '')
const table = new Map()
for (const r of counted) {
  const folder = folderOf(r.fileName).split('/')[0]
  const row = table.get(folder) ?? { mutants: 0, killed: 0 }
  table.set(folder, { mutants: row.mutants + 1, killed: row.killed + (KILLED.has(r.status) ? 1 : 0) })
}
const survivors = counted
  .filter((r) => !KILLED.has(r.status))
  .map((r) => ({
    at: `${path.relative('.', r.fileName)}:${r.location.start.line}:${r.location.start.column}`,
    mutator: r.mutatorName,
    instead: r.replacement,
    reached: r.status === 'Survived',
  }))
const killed = counted.length - survivors.length
fs.mkdirSync('build', { recursive: true })
fs.writeFileSync(
  'build/mutants.json',
  JSON.stringify({ seed, lines, mutants: counted.length, killed, survivors }, null, 1),
)
for (const s of survivors)
  console.log(
    `lived  ${s.at}  ${s.mutator}  ${(s.instead ?? '').replaceAll(/\s+/g, ' ').slice(0, 80)}${s.reached ? '' : '  (no test reaches it)'}`,
  )
for (const [folder, row] of [...table].sort())
  console.log(`${folder.padEnd(14)} ${row.killed} of ${row.mutants} killed`)
console.log(
  `seed ${seed}: ${killed} of ${counted.length} mutants killed, ${((100 * killed) / counted.length).toFixed(1)} %`,
)
