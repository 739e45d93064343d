import type { Chip } from './chipClass'
import { numericHost } from '../publish/describe'
import type { ChipModules } from '../drivers/driverForm'
import { formFor, FORMS } from '../drivers/drivers'
import type { NodeFile, NodeFileSignal } from '../nodefile/nodeFile'

/** Source text of the runtime by path below its folder: `main.py`, `vn/node.py` … */
export type RuntimeFiles = Readonly<Record<string, string>>
/**
 * The runtime as it is read, and as boards carry it: `main.py` as text, modules precompiled by the same path with
 * `.mpy`.
 */
export interface Runtime {
  sources: RuntimeFiles
  compiled: Readonly<Record<string, Uint8Array>>
}

/** How each chip class times the edges of a radio code, and how it says one: what stands beside the processor, or by waiting. */
const OWN: Record<Chip, ChipModules> = {
  '32-class': { edges: 'edges_soft', trains: 'trains_rmt' },
  'c3-class': { edges: 'edges_soft', trains: 'trains_rmt' },
  's3-class': { edges: 'edges_soft', trains: 'trains_rmt' },
  'c6-class': { edges: 'edges_soft', trains: 'trains_rmt' },
  '8266-class': { edges: 'edges_hard', trains: 'trains_soft' },
  rp2040: { edges: 'edges_pio', trains: 'trains_soft' },
}

/** Modules of the runtime that only some node files need. */
const SOMETIMES: Record<string, (file: NodeFile, chip: Chip) => boolean> = {
  'vn/guards.py': (f) => f.guards !== undefined,
  'vn/rules.py': (f) => f.rules !== undefined,
  'vn/sleep.py': (f) => f.sleep !== undefined,
  'vn/warming.py': (f) => f.signals.some((s) => 'warmUpS' in s && (s.warmUpS ?? 0) > 0),
  'vn/curve.py': (f) => f.signals.some((s) => 'chain' in s && s.chain.curve !== undefined),
  'vn/events.py': (f) => f.signals.some((s) => s.access === 'event'),
  'vn/last.py': (f) => f.signals.some((s) => 'atStart' in s && s.atStart === 'last'),
  'vn/lookup.py': (f) => !numericHost(f.broker.host) || !numericHost(f.timeServer ?? '0.0.0.0'),
  'vn/air.py': (f) => f.air !== undefined,
  'vn/codes.py': (f) => f.air !== undefined,
  'vn/rx.py': (f) => f.signals.some((s) => s.driver === 'radio'),
  'vn/secure.py': (f) => f.broker.print !== undefined,
}

/** Modules that are loaded only for as long as they are used. */
const PASSING = ['vn/vault.py', 'vn/find.py', 'vn/lookup.py', 'vn/clock.py', 'vn/late.py', 'vn/close.py', 'vn/rx.py']

/** Modules of the drivers a file names, and what these need beside, which no module imports by name. */
function named(file: NodeFile, chip: Chip): string[] {
  return file.signals.flatMap((s) => [...besides(s, chip), `vn/drivers/${s.driver}.py`])
}

const besides = (signal: NodeFileSignal, chip: Chip): string[] =>
  (formFor(signal.driver).needs?.(signal, OWN[chip]) ?? []).map((name) => `vn/${name}.py`)

/** Modules that some driver needs only for some signals, though another module names them. */
const OPTIONAL = new Set(
  Object.values(FORMS)
    .flatMap((form) => ('optional' in form ? form.optional : []))
    .map((name) => `vn/${name}.py`),
)

/** Whether a module that is only on some boards is on this one. */
function unneeded(path: string, file: NodeFile, chip: Chip): boolean {
  if (OPTIONAL.has(path)) return !file.signals.some((s) => besides(s, chip).includes(path))
  return SOMETIMES[path]?.(file, chip) === false
}

/**
 * The files of the runtime this node file needs: what is always there, its drivers and chips, and what those import.
 */
export function neededModules(file: NodeFile, runtime: RuntimeFiles, chip: Chip): string[] {
  const needed = new Set<string>()
  const take = (path: string) => {
    const source = runtime[path]
    if (source === undefined || needed.has(path) || unneeded(path, file, chip)) return
    needed.add(path)
    for (const next of importsOf(source, false)) take(next)
  }
  const wanted = Object.keys(SOMETIMES).filter((path) => SOMETIMES[path]?.(file, chip))
  for (const path of ['main.py', ...named(file, chip), ...wanted]) take(path)
  return [...needed].sort()
}

/**
 * Modules in the order a board loads them for this file, each after what it imports. What is only loaded when it is
 * needed is left out.
 */
export function loadOrder(
  file: NodeFile,
  imports: (path: string) => readonly string[] | undefined,
  chip: Chip,
): string[] {
  const order: string[] = []
  const take = (path: string) => {
    const next = imports(path)
    if (next === undefined || order.includes(path)) return
    for (const n of next) take(n)
    if (!order.includes(path)) order.push(path)
  }
  take('vn/start.py')
  take('vn/node.py')
  for (const [path, wanted] of Object.entries(SOMETIMES)) if (!PASSING.includes(path) && wanted(file, chip)) take(path)
  for (const path of named(file, chip)) take(path)
  return order
}

/** What a module imports of the runtime as it is loaded. */
export function importsAtLoad(runtime: RuntimeFiles): (path: string) => string[] | undefined {
  return (path) => {
    const source = runtime[path]
    return source === undefined ? undefined : importsOf(source, true).filter((p) => p in runtime)
  }
}

/** Modules a source names: what it loads with itself, or also what it loads later, for good or for one use. */
function importsOf(source: string, atLoad: boolean): string[] {
  const imports = atLoad ? /^from (vn(?:\.\w+)*) import (.+)$/gm : /^\s*from (vn(?:\.\w+)*) import (.+)$/gm
  return [
    ...[...source.matchAll(imports)].flatMap(([, from = '', names = '']) => {
      const path = from.replaceAll('.', '/')
      return [`${path}.py`, ...names.split(',').map((n) => `${path}/${n.trim()}.py`)]
    }),
    ...(atLoad ? [] : [...source.matchAll(/\bonce\("(\w+)"\)/g)].map(([, name = '']) => `vn/${name}.py`)),
  ]
}
