import fs from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import { builtInCatalog, type Catalog, withItems } from '../core/catalog/catalog'
import { derive } from '../core/derive/derive'
import type { Design } from '../core/model/design'
import { readDesign } from '../core/model/readDesign'
import { nearestWord, problemWords } from '../core/documents/readDocument'
import { compile } from '../core/nodefile/compile'
import { explainPin } from '../core/alternatives/explainPin'
import { lineName, planLines } from '../core/lines/lines'
import { planPins } from '../core/pins/planPins'
import { freeingEdits } from '../core/alternatives/remedies'
import { describe } from '../core/publish/describe'
import { DEFAULT_ROOT } from '../core/publish/topics'
import { scheduleCsv, scheduleOf } from '../core/wiring/schedule'
import { backup, restore } from './backup'
import { install, writeBundle } from './bundle'
import { dataFolder } from './dataFolder'

/** 0 fine, 1 a stop finding or no plan, 2 input that cannot be read. */
type Exit = 0 | 1 | 2
interface Told {
  exit: Exit
  json: unknown
  text: string
  csv?: string
}

const broker = { host: '127.0.0.1', port: 1883, root: DEFAULT_ROOT }

const COMMANDS: Record<string, { does: string; run: (design: Design, catalog: Catalog) => Told }> = {
  check: { does: 'all findings with their working', run: check },
  pins: { does: 'the best pin plan with reasons, or what conflicts', run: pins },
  wires: { does: 'the from–to list', run: wires },
  'node-file': { does: 'the file the board runs', run: nodeFile },
  td: { does: 'the Thing Description', run: td },
}

function check(design: Design, catalog: Catalog): Told {
  const { findings } = derive(design, catalog)
  const text =
    findings
      .map((f) => {
        const tag = f.signalId === null ? '' : ` ${design.signals[f.signalId]?.tag ?? ''}`
        const steps = f.working?.steps.map((s) => `      ${s.gives}: ${s.formula}; ${s.numbers} = ${s.result}`) ?? []
        const caution = f.caution ? [`      ${f.caution.title}. ${f.caution.text}`] : []
        return [
          `${f.severity.toUpperCase().padEnd(4)}${tag}  ${f.sentence}`,
          ...steps,
          ...caution,
          ...f.remedies.map((r) => `      remedy: ${r.label}`),
        ].join('\n')
      })
      .join('\n') || 'Nothing stands against this design as far as the rules know.'
  return { exit: findings.some((f) => f.severity === 'stop') ? 1 : 0, json: findings, text }
}

function pins(design: Design, catalog: Catalog): Told {
  const plan = planPins(design, catalog)
  const lines = planLines(design, catalog)
  if (plan.kind === 'stopped') return { exit: 1, json: plan, text: 'stopped' }
  if (plan.kind === 'impossible') {
    let n = 0
    const frees = freeingEdits(design, catalog, () => `new${'abcdefgh'[n++ % 8]}`)
    return {
      exit: 1,
      json: { ...plan, proven: true, frees },
      text: [
        ...plan.conflicts.flatMap((c) => [c.words, ...c.members.map((m) => `  ${m.words}`)]),
        ...(frees.length > 0 ? ['What would free it:'] : []),
        ...frees.map((f) => `  ${f.label} (${f.what})${f.leaves > 0 ? `, leaves ${f.leaves} open` : ''}`),
      ].join('\n'),
    }
  }
  const planned = { ...design, plan: { ...design.plan, pins: plan.pins } }
  const reasons = lines.map((l) => ({
    line: l.key,
    name: lineName(l),
    pin: plan.pins[l.key],
    reason: explainPin(planned, catalog, l.key),
  }))
  const proof = plan.proven ? 'proven least' : `stopped; no plan costs less than ${plan.bound.cost}`
  return {
    exit: 0,
    json: { ...plan, reasons },
    text: [
      ...reasons.map((r) => `${(r.pin ?? '–').padEnd(5)} ${r.name.padEnd(24)} ${r.reason?.sentence ?? ''}`),
      `cost ${plan.price.cost}, ${proof}; ${plan.moves.length} moved against the accepted plan; ${plan.explored} nodes explored`,
    ].join('\n'),
  }
}

function wires(design: Design, catalog: Catalog): Told {
  const { wiring } = derive(design, catalog)
  const rows = scheduleOf(design, wiring)
  return {
    exit: 0,
    json: { wires: rows.map(({ wire: _, signalId: __, ...r }) => r), components: wiring.components },
    csv: scheduleCsv(design, wiring),
    text: [
      ...rows.map(
        (r) =>
          `${`W${r.number}`.padEnd(5)}${r.tag.padEnd(6)}${r.from.padEnd(26)} → ${r.to.padEnd(26)}${r.insulation.padEnd(9)}${r.gaugeMm2} mm²  ${r.note}`,
      ),
      ...wiring.components.map((c) => `${c.name.padEnd(5)}${c.what} ${c.value}, ${c.place}`),
    ].join('\n'),
  }
}

function nodeFile(design: Design, catalog: Catalog): Told {
  const result = compile(design, catalog, broker, 1)
  if (!result.ok) return { exit: 1, json: result, text: result.reasons.join('\n') }
  return { exit: 0, json: result.compiled.file, text: JSON.stringify(result.compiled.file, null, 2) }
}

function td(design: Design, catalog: Catalog): Told {
  const described = describe(design, catalog, broker)
  return { exit: 0, json: described, text: JSON.stringify(described, null, 2) }
}

function bundle(design: Design, catalog: Catalog, args: string[]): Told {
  const at = args.indexOf('--broker')
  const [host = broker.host, port = broker.port] = at < 0 ? [] : (args[at + 1]?.split(':') ?? [])
  const out = args.find((a, i) => !a.startsWith('--') && (at < 0 || i !== at + 1))
  const reached = { ...broker, host, port: Number(port) }
  const made = writeBundle(design, catalog, reached, path.join(path.dirname(fileURLToPath(import.meta.url)), '..'), out)
  return 'reasons' in made
    ? { exit: 1, json: made, text: made.reasons.join('\n') }
    : { exit: 0, json: made, text: `${made.path}: ${made.files.length} files, no passwords` }
}

const USAGE = [
  'vivid COMMAND DESIGN.json [--json]   (wires also --csv)',
  ...Object.entries(COMMANDS).map(([name, c]) => `  ${name.padEnd(10)} ${c.does}`),
  'vivid bundle DESIGN.json --broker HOST[:PORT] [FILE.zip]   what goes onto the board, without passwords',
  'vivid install BUNDLE.zip PORT        onto the board at this serial port',
  'vivid backup FILE        one file with everything, also while the product runs (PORT, default 3000)',
  'vivid restore FILE DIR   a new data folder from such a file',
  'vivid data DIR [--use NAME | --clear NAME | --begin-anew]   what a data folder holds, and bringing a copy back',
].join('\n')

function fail(message: string): never {
  console.error(message)
  process.exit(2)
}

function told(act: () => string): void {
  try {
    console.log(act())
  } catch (e) {
    fail(e instanceof Error ? e.message : String(e))
  }
}

const [name = '', file, ...rest] = process.argv.slice(2)
if (name === 'backup' && file !== undefined)
  await backup(file).catch((e: unknown) => fail(e instanceof Error ? e.message : String(e)))
else if (name === 'restore' && file !== undefined && rest[0] !== undefined)
  await restore(file, rest[0]).catch((e: unknown) => fail(e instanceof Error ? e.message : String(e)))
else if (name === 'install' && file !== undefined && rest[0] !== undefined)
  await install(file, rest[0]).catch((e: unknown) => fail(e instanceof Error ? e.message : String(e)))
else if (name === 'data' && file !== undefined) told(() => dataFolder(file, rest))
else {
  const command =
    name === 'bundle'
      ? { does: '', run: (design: Design, catalog: Catalog) => bundle(design, catalog, rest) }
      : COMMANDS[name]
  if (!command || file === undefined) {
    const near = nearestWord(name, [...Object.keys(COMMANDS), 'bundle', 'install', 'backup', 'restore', 'data'])
    fail(
      `${name && !command ? `There is no command “${name}”${near ? `; did you mean “${near}”?` : '.'}\n` : ''}${USAGE}`,
    )
  }
  const text = readText(file)
  const design = readDesign(text, builtInCatalog)
  if (!design.ok) {
    if (rest.includes('--json')) console.log(JSON.stringify({ file, problems: design.problems }, null, 2))
    fail(design.problems.map((p) => problemWords(file, p)).join('\n'))
  }
  for (const words of design.said ?? []) console.error(`${file}: ${words}`)
  const told = command.run(design.value, withItems(builtInCatalog, design.value.items))
  if (rest.includes('--csv') && told.csv === undefined) fail(`“${name}” has no CSV; “wires” has.`)
  console.log(
    rest.includes('--json') ? JSON.stringify(told.json, null, 2) : rest.includes('--csv') ? told.csv : told.text,
  )
  process.exitCode = told.exit
}

function readText(path: string): string {
  try {
    return fs.readFileSync(path, 'utf8')
  } catch (e) {
    return fail(`${path}: cannot be read: ${e instanceof Error ? e.message : String(e)}`)
  }
}
