import fs from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import { parseArgs } from 'node:util'
import { builtInCatalog, type Catalog, withItems } from '../core/catalog/catalog'
import { standingAgainst, stopSentences } from '../core/checks/standing'
import { unreachable } from '../server/nodes/installBundle'
import type { Finding } from '../core/checks/finding'
import type { BrokerAddress } from '../core/publish/describe'
import { derive } from '../core/derive/derive'
import type { Design } from '../core/model/design'
import { readDesign } from '../core/model/readDesign'
import { nearestWord, problemWords, type ReadResult } from '../core/documents/readDocument'
import { compile } from '../core/nodefile/compile'
import { explainPin } from '../core/alternatives/explainPin'
import { lineName, planLines } from '../core/lines/lines'
import { planPins } from '../core/pins/planPins'
import { freeingEdits } from '../core/alternatives/remedies'
import { asyncApi, payloadSchemas } from '../core/publish/asyncApi'
import { describe } from '../core/publish/describe'
import { csvOfTable, entitySheet, sheetTable } from '../core/publish/entitySheet'
import { sheetFaults } from '../core/publish/sheetFaults'
import { DEFAULT_ROOT } from '../core/publish/topics'
import { scheduleCsv, scheduleOf } from '../core/wiring/schedule'
import { backup, restore } from './backup'
import { CableTrouble } from '../cable/port'
import { boot } from './boot'
import { complete, writeBundle } from './bundle'
import { install, write } from './cable'
import { dataFolder } from './dataFolder'
import { decode } from './decode'
import { energy } from './energy'
import { fitPairs } from './fit'
import { proposals } from './proposals'
import { proveBroker } from './prove'
import { threshold } from './threshold'
import { NO_SURROUNDINGS, type Surroundings, surroundings } from '../core/surroundings/surroundings'
import { readShop } from '../core/shop/readShop'

/** 0 fine, 1 a stop finding or no plan, 2 input that cannot be read. */
type Exit = 0 | 1 | 2
interface Told {
  exit: Exit
  json: unknown
  text: string
  csv?: string
}

/** A design with what it is looked at with. */
interface Given {
  design: Design
  catalog: Catalog
  /** What the shop says of it; null without a shop document. */
  around: Surroundings | null
}

const OPTIONS = {
  json: { type: 'boolean', default: false },
  csv: { type: 'boolean', default: false },
  shop: { type: 'string' },
  designs: { type: 'string' },
  broker: { type: 'string' },
  use: { type: 'string' },
  clear: { type: 'string' },
  'begin-anew': { type: 'boolean' },
  past: { type: 'string' },
  signed: { type: 'string' },
  power: { type: 'string' },
  supply: { type: 'string' },
  chip: { type: 'string' },
  board: { type: 'string' },
  keep: { type: 'boolean' },
  model: { type: 'string' },
  common: { type: 'string' },
  ohm25: { type: 'string' },
  beta: { type: 'string' },
  marks: { type: 'string' },
  family: { type: 'string' },
  word: { type: 'string' },
  on: { type: 'string' },
  missed: { type: 'string' },
  'false-minute': { type: 'string' },
  login: { type: 'string' },
  root: { type: 'string' },
  for: { type: 'string' },
  node: { type: 'string' },
  ca: { type: 'string' },
  commands: { type: 'boolean' },
  act: { type: 'boolean' },
  hands: { type: 'boolean' },
  before: { type: 'string' },
} as const

const broker = { host: '127.0.0.1', port: 1883, root: DEFAULT_ROOT }

const COMMANDS: Record<string, { does: string; run: (given: Given) => Told }> = {
  check: { does: 'all findings with their working', run: check },
  pins: { does: 'the best pin plan with reasons, or what conflicts', run: pins },
  wires: { does: 'the from–to list', run: wires },
  'node-file': { does: 'the file the board runs', run: nodeFile },
  td: { does: 'the Thing Description', run: td },
  asyncapi: { does: 'the same contract as an AsyncAPI 3.0 document', run: asyncapi },
  payloads: { does: 'JSON Schema of each payload, by topic', run: payloads },
  sheet: { does: 'what a controller will hold, to be copied by hand', run: sheet },
  energy: {
    does: 'how long its cell lasts, phase by phase, and what would change it',
    run: (given) => energy({ ...given, ...supplied() }),
  },
}

function check({ design, catalog, around }: Given): Told {
  const { findings } = derive(design, catalog, new Set(), around)
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

function pins({ design, catalog }: Given): Told {
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

function wires({ design, catalog }: Given): Told {
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

/** Voltages of a cell in service, where a file of them is named. */
const supplied = () => (options.supply === undefined ? {} : { supply: readText(options.supply) })

/** Where boards find the broker, as it was said; a reason where no board could. */
function reachedBroker(): { at: BrokerAddress } | { reason: string } {
  const [host = broker.host, port = broker.port] = options.broker?.split(':') ?? []
  const far = unreachable(host)
  return far
    ? { reason: `${far} Say where it is: --broker HOST or --broker HOST:PORT` }
    : { at: { ...broker, host, port: Number(port) } }
}

function nodeFile({ design, catalog, around }: Given): Told {
  const reached = reachedBroker()
  if ('reason' in reached) return { exit: 1, json: reached, text: reached.reason }
  const result = compile(design, around ?? NO_SURROUNDINGS, catalog, reached.at, 1)
  if (!result.ok) return { exit: 1, json: result, text: result.reasons.join('\n') }
  return { exit: 0, json: result.compiled.file, text: JSON.stringify(result.compiled.file, null, 2) }
}

function td({ design, catalog, around }: Given): Told {
  const described = describe(design, around ?? NO_SURROUNDINGS, catalog, broker)
  return { exit: 0, json: described, text: JSON.stringify(described, null, 2) }
}

function asyncapi({ design, catalog, around }: Given): Told {
  const document = asyncApi(design, around ?? NO_SURROUNDINGS, catalog, brokerSaid())
  return { exit: 0, json: document, text: JSON.stringify(document, null, 2) }
}

function payloads({ design, catalog }: Given): Told {
  const schemas = payloadSchemas(design, catalog, broker.root)
  return { exit: 0, json: schemas, text: JSON.stringify(schemas, null, 2) }
}

function sheet({ design, catalog, around }: Given): Told {
  const place = around?.place ?? null
  const rows = entitySheet([{ id: design.id, design, place }], catalog, broker.root)
  const table = sheetTable(rows)
  const faults = sheetFaults(rows).map((f) => f.words)
  const widths = (table[0] ?? []).map((_, i) => Math.max(...table.map((r) => (r[i] ?? '').length)))
  const lines = table.map((r) =>
    r
      .map((cell, i) => cell.padEnd(widths[i] ?? 0))
      .join('  ')
      .trimEnd(),
  )
  return { exit: 0, json: { rows: table, faults }, csv: csvOfTable(table), text: [...lines, ...faults].join('\n') }
}

/** Where the broker is, as it was said; the own one without. */
function brokerSaid(): BrokerAddress {
  const [host = broker.host, port = broker.port] = options.broker?.replace(/^mqtts?:\/\//, '').split(':') ?? []
  return { ...broker, host, port: Number(port) }
}

/** Stops that hold a bundle up until somebody goes on by name, and cautions that first want one under them. */
function heldUp({ design, catalog, around }: Given): Told | null {
  const { findings } = derive(design, catalog, new Set(), around)
  const signed = new Set(options.signed ? findings.filter((f) => f.caution).map((f) => f.key) : [])
  const { stops, barred } = standingAgainst(design, catalog, findings, signed)
  const said = (list: readonly Finding[]) =>
    list.map((f) => `  ${f.sentence}${f.caution ? `\n    ${f.caution.title}. ${f.caution.text}` : ''}`).join('\n')
  if (barred.length > 0)
    return {
      exit: 1,
      json: { barred },
      text: `What hangs on the mains, moves, heats or floods is not bundled before somebody has read this and put a name to it:\n${said(barred)}\nRead it, then go on with --signed NAME.`,
    }
  if (stops.length === 0 || options.past) return null
  return {
    exit: 1,
    json: { stops },
    text: `Standing against this design:\n${said(stops)}\nWhoever goes on all the same says who: --past NAME.`,
  }
}

function bundle({ design, catalog, around }: Given): Told {
  const reached = reachedBroker()
  if ('reason' in reached) return { exit: 1, json: { reasons: [reached.reason] }, text: reached.reason }
  const held = heldUp({ design, catalog, around })
  if (held) return held
  const project = path.join(path.dirname(fileURLToPath(import.meta.url)), '..')
  const stops = stopSentences(
    standingAgainst(design, catalog, derive(design, catalog, new Set(), around).findings, new Set()).stops,
  )
  const by = options.past ?? options.signed
  const past = by && stops.length > 0 ? { by, stops } : undefined
  const made = writeBundle({ design, around: around ?? NO_SURROUNDINGS, catalog }, reached.at, {
    project,
    out: rest[0],
    past,
  })
  return 'reasons' in made
    ? { exit: 1, json: made, text: made.reasons.join('\n') }
    : { exit: 0, json: made, text: `${made.path}: ${made.files.length} files, no passwords` }
}

interface Other {
  usage: string
  does: string
  /** What has to be there beside its name. */
  least: number
  run: (given: string[]) => string | undefined | Promise<string | undefined>
}
const nothing = () => undefined
/** What works on something else than a design. */
const OTHERS: Record<string, Other> = {
  propose: {
    usage: 'propose "WISH" [--power usb|5v|12v|24v-ac|cell] [FILE.json] [--json]',
    does: 'whole nodes for a wish in your own words; the first one as a design into FILE.json',
    least: 1,
    run: ([wish = '', out]) => proposals(wish, out, options),
  },
  complete: {
    usage: 'complete BUNDLE.zip SECRET.json [FILE.zip]',
    does: 'passwords into a bundle, from its filled-in secret.example.json',
    least: 2,
    run: ([zip = '', secret = '', out]) =>
      `${complete(zip, secret, out)} has the passwords inside in clear: delete it once the board is written.`,
  },
  install: {
    usage: 'install BUNDLE.zip PORT',
    does: 'a node’s files onto the board at this serial port',
    least: 2,
    run: ([zip = '', port = '']) => install(zip, port).then(nothing),
  },
  write: {
    usage: 'write IMAGE PORT [--board BOARD] [--keep]',
    does: 'the interpreter’s image onto the board at this serial port; erases first unless --keep',
    least: 2,
    run: ([image = '', port = '']) => write(image, port, options).then(nothing),
  },
  boot: {
    usage: 'boot TEXT [--chip CLASS] [--json]',
    does: 'what a board’s start-up text says is wrong, line by line; - reads what is piped in',
    least: 1,
    run: ([text = '']) => boot(text === '-' ? fs.readFileSync(0, 'latin1') : readText(text), options),
  },
  fit: {
    usage: 'fit PAIRS.csv [--model M] [--common U] [--ohm25 R --beta B] [--json]',
    does: 'what pairs of reading and reference give: coefficients, errors, bands; columns raw, reference, uncertainty',
    least: 1,
    run: ([pairs = '']) =>
      fitPairs(readText(pairs), {
        ...options,
        common: numberOf('common'),
        ohm25: numberOf('ohm25'),
        beta: numberOf('beta'),
      }),
  },
  decode: {
    usage: 'decode FRAMES.jsonl [--family FILE] [--json]',
    does: 'what raw frames from the air say, by a family of senders or by the one that is found in them',
    least: 1,
    run: ([frames = '']) =>
      decode(readText(frames), options.family === undefined ? null : readText(options.family), options),
  },
  threshold: {
    usage:
      'threshold TRACE.csv [--marks MARKS.csv] [--word W] [--on above|below] [--missed P] [--false-minute P] [--json]',
    does: 'the threshold that would have cost least over a trace; columns s, value and from, to, word',
    least: 1,
    run: ([trace = '']) =>
      threshold(readText(trace), options.marks === undefined ? null : readText(options.marks), {
        ...options,
        missed: numberOf('missed'),
        falseMinute: numberOf('false-minute'),
      }),
  },
  prove: {
    usage:
      'prove --broker URL [--login NAME] [--root vn] [--node SLUG] [--for S] [--commands] [--act] [--hands] [--before REPORT.json] [--ca FILE] [--json|--csv]',
    does: 'the contract test against a live broker; password in VIVID_BROKER_PASSWORD; --hands asks you to cut and restart',
    least: 0,
    run: async () => {
      const told = await proveBroker({ ...options, for: numberOf('for') })
      process.exitCode = told.exit
      return told.text
    },
  },
  backup: {
    usage: 'backup FILE',
    does: 'one file with everything, also while the product runs (PORT, default 3000)',
    least: 1,
    run: ([to = '']) => backup(to).then(nothing),
  },
  restore: {
    usage: 'restore FILE DIR',
    does: 'a new data folder from such a file',
    least: 2,
    run: ([from = '', to = '']) => restore(from, to).then(nothing),
  },
  data: {
    usage: 'data DIR [--use NAME | --clear NAME | --begin-anew]',
    does: 'what a data folder holds, and bringing a copy back',
    least: 1,
    run: ([dir = '']) => dataFolder(dir, process.argv.slice(4)),
  },
}

const BUNDLE = 'bundle DESIGN.json --broker HOST[:PORT] [--signed NAME] [--past NAME] [FILE.zip]'
const USAGE = [
  'bin/vivid COMMAND DESIGN.json [--json] [--shop SHOP.json] [--designs DIR]   (wires and sheet also --csv, energy --supply VOLTS.csv)',
  ...Object.entries(COMMANDS).map(([name, c]) => `  ${name.padEnd(10)} ${c.does}`),
  `bin/vivid ${BUNDLE}`,
  '                         what goes onto the board, without passwords',
  ...Object.values(OTHERS).map((c) => `bin/vivid ${c.usage}\n                         ${c.does}`),
].join('\n')

function fail(message: string): never {
  console.error(message)
  process.exit(2)
}

const { values: options, positionals } = parsed()
const [name, file, ...rest] = positionals
const other = name === undefined ? undefined : OTHERS[name]
const given = positionals.slice(1)
if (other && given.length >= other.least)
  try {
    const said = await other.run(given)
    if (said !== undefined) console.log(said)
  } catch (e) {
    const next = e instanceof CableTrouble ? e.next.map((what, i) => `\n  ${i + 1}. ${what}`) : []
    fail(`${e instanceof Error ? e.message : String(e)}${next.join('')}`)
  }
else if (other) fail(`Something is missing: bin/vivid ${other.usage}`)
else runOnDesign(name ?? '', file)

function runOnDesign(command: string, at: string | undefined): void {
  const run = command === 'bundle' ? bundle : COMMANDS[command]?.run
  if (!run) return unknown(command, at)
  if (at === undefined) return fail(`Which design? bin/vivid ${command} DESIGN.json`)
  const text = readText(at)
  const read = readDesign(text, builtInCatalog)
  if (!read.ok) {
    if (options.json) console.log(JSON.stringify({ file: at, problems: read.problems }, null, 2))
    return fail(read.problems.map((p) => problemWords(at, p)).join('\n'))
  }
  for (const words of read.said ?? []) console.error(`${at}: ${words}`)
  const design = read.value
  const shop = options.shop === undefined ? null : readWhole(options.shop, readShop)
  const others = options.designs === undefined ? [] : besideOthers(design, options.designs)
  const nodes = [...others.filter((o) => o.id !== design.id), design].map(({ id, slug }) => ({ id, slug }))
  const around = shop && surroundings(design, shop, nodes)
  if (!around) console.error(`${at}: ${leftOut(design)}`)
  const told = run({ design, catalog: withItems(builtInCatalog, design.items), around })
  if (options.csv && told.csv === undefined) return fail(`“${command}” has no CSV; “wires” and “sheet” have.`)
  const plain = options.csv ? told.csv : told.text
  console.log(options.json ? JSON.stringify(told.json, null, 2) : plain)
  process.exitCode = told.exit
}

/** A file and no command, or a word that is none. */
function unknown(command: string, at: string | undefined): never {
  if (at === undefined && fs.existsSync(command)) fail(`Do what with it? bin/vivid check ${command}\n${USAGE}`)
  const near = nearestWord(command, [...Object.keys(COMMANDS), 'bundle', ...Object.keys(OTHERS)])
  return fail(`${command && `There is no command “${command}”${near ? `; did you mean “${near}”?` : '.'}\n`}${USAGE}`)
}

/** What a design by itself does not say, and where it is. */
function leftOut(design: Design): string {
  return `looked at without its shop: the name of its place${design.place === null ? '' : ` (${design.place})`} and its network (${design.network.ref}) are left out; --shop SHOP.json gives them`
}

/** The other designs of a shop: their short names are taken. */
function besideOthers(design: Design, folder: string): Design[] {
  const files = fs.readdirSync(folder).filter((f) => f.endsWith('.json'))
  return files.map((f) => {
    const other = readWhole(path.join(folder, f), (text) => readDesign(text, builtInCatalog))
    if (other.id !== design.id && other.slug === design.slug)
      fail(`${path.join(folder, f)}: “${other.slug}” is the short name of ${other.name} too: one of them needs another`)
    return other
  })
}

function readWhole<T>(at: string, read: (text: string) => ReadResult<T>): T {
  const result = read(readText(at))
  return result.ok ? result.value : fail(result.problems.map((p) => problemWords(at, p)).join('\n'))
}

/** What was asked for; an option that is not known ends with what there is. */
function parsed() {
  try {
    return parseArgs({ options: OPTIONS, allowPositionals: true })
  } catch (e) {
    return fail(`${e instanceof Error ? e.message : String(e)}\n${USAGE}`)
  }
}

/** A number above zero that was said with an option; undefined where it was not. */
function numberOf(name: 'for' | 'common' | 'ohm25' | 'beta' | 'missed' | 'false-minute'): number | undefined {
  const said = options[name]
  if (said === undefined) return undefined
  const n = Number(said)
  return Number.isFinite(n) && n > 0 ? n : fail(`--${name} takes a number above zero, not “${said}”.`)
}

function readText(path: string): string {
  try {
    return fs.readFileSync(path, 'utf8')
  } catch (e) {
    return fail(`${path}: cannot be read: ${e instanceof Error ? e.message : String(e)}`)
  }
}
