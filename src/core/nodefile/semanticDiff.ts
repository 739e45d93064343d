import { curveSchema, curveWords } from '../calibration/curve'
import { canonicalJson } from '../hash/canonicalJson'
import { CONDITIONING_KEYS, conditioningField } from '../model/conditioning'
import { levelsSchema, levelsWords } from '../catalog/levels'
import { durationWords } from '../units/format'
import { leftOut } from './conditionedFields'
import type { Guard, LocalRule, NodeFile, NodeFileSignal } from './nodeFile'

/** One thing that is otherwise in the second file. `of` is the signal it concerns, null for the node. */
export interface Difference {
  of: string | null
  words: string
}

/**
 * How a field is called, its unit, and what it is when the file leaves it out. Factor turns the file's number into that
 * unit.
 */
const FIELDS: Record<string, { name: string; unit?: string; factor?: number; usual?: unknown }> = {
  ...Object.fromEntries(
    CONDITIONING_KEYS.map((key) => {
      const { words: name, unit, factor, file } = conditioningField(key)
      return [file.path, { name, unit, factor, usual: leftOut(key) }]
    }),
  ),
  'chain.min': { name: 'valid from' },
  'chain.max': { name: 'valid to' },
  'chain.gain': { name: 'calibration ×', usual: 1 },
  'chain.offset': { name: 'calibration +', usual: 0 },
  'chain.curve': { name: 'calibration curve' },
  'publish.everyS': { name: 'at least every', unit: 's' },
  'publish.change': { name: 'at a change of', usual: 0 },
  'publish.decimals': { name: 'decimals', usual: 0 },
  'publish.factor': { name: 'published times', usual: 1 },
  activeLow: { name: 'on at a low pin', usual: false },
  pull: { name: 'pull in the chip', usual: 'none' },
  airC: { name: 'air', unit: '°C' },
  warmUpS: { name: 'warms up for', unit: 's', usual: 0 },
  fullV: { name: 'highest code', unit: 'V' },
  atZero: { name: 'at 0 V', usual: 0 },
  perVolt: { name: 'per volt', usual: 1 },
  hz: { name: 'frequency', unit: 'Hz' },
  'presses.repeatMs': { name: 'repeat', unit: 'ms', usual: 300 },
  address: { name: 'bus address' },
  baud: { name: 'speed', unit: 'baud' },
  lamps: { name: 'lamps' },
  perHz: { name: 'per pulse a second' },
}
const NODE_FIELDS: Record<string, { name: string; unit?: string; usual?: unknown }> = {
  node: { name: 'name in topics' },
  name: { name: 'name', usual: null },
  area: { name: 'place', usual: null },
  root: { name: 'first level of topics' },
  board: { name: 'board' },
  'broker.host': { name: 'broker' },
  'broker.port': { name: 'broker’s port' },
  'broker.keepAliveS': { name: 'keep-alive', unit: 's' },
  network: { name: 'network' },
  'address.ip': { name: 'fixed address', usual: null },
  'address.mask': { name: 'mask', usual: null },
  'address.gateway': { name: 'gateway', usual: null },
  'address.dns': { name: 'name server', usual: null },
  timeServer: { name: 'asks for the time', usual: 'the gateway' },
  quiet: { name: 'quiet on its console', usual: false },
  healthS: { name: 'health every', unit: 's' },
  'sleep.everyS': { name: 'wakes every', unit: 's', usual: null },
  'sleep.listenS': { name: 'listens for', unit: 's', usual: null },
}

type Flat = Record<string, unknown>
function flat(value: object, skip: readonly string[] = [], path = ''): Flat {
  return Object.entries(value).reduce<Flat>((out, [key, v]) => {
    const here = path ? `${path}.${key}` : key
    if (skip.includes(here)) return out
    const curve = key === 'curve' ? curveSchema.safeParse(v) : null
    if (curve?.success) return Object.assign(out, { [here]: curveWords(curve.data) })
    if (typeof v === 'object' && v !== null && !Array.isArray(v) && !levelsSchema.safeParse(v).success)
      return Object.assign(out, flat(v, skip, here))
    out[here] = v
    return out
  }, {})
}

/**
 * What is otherwise in `after`, in words a maker uses: `median 3 → 5 on level`. Empty when both files make the board do
 * the same.
 */
export function semanticDiff(before: NodeFile, after: NodeFile): Difference[] {
  const out: Difference[] = []
  const skip = ['format', 'version', 'revision', 'id', 'signals', 'guards', 'rules']
  for (const [key, b, a] of unequal(flat(before, skip), flat(after, skip), NODE_FIELDS))
    out.push({ of: null, words: changed(NODE_FIELDS[key] ?? { name: key }, b, a) })
  const pairs = match(before.signals, after.signals)
  for (const [b, a] of pairs) {
    if (!b && a) out.push({ of: a.slug, words: `new: ${a.slug}, ${pinWords(a)}` })
    else if (b && !a) out.push({ of: b.slug, words: `gone: ${b.slug}` })
    else if (b && a) out.push(...signalDiff(b, a))
  }
  const order = (s: NodeFileSignal[]) => s.map((x) => x.slug).join()
  if (out.length === 0 && order(before.signals) !== order(after.signals))
    out.push({ of: null, words: 'signals in another order' })
  out.push(
    ...listed(before.guards ?? [], after.guards ?? [], guardWords, 'guard'),
    ...listed(before.rules ?? [], after.rules ?? [], ruleWords, 'rule'),
  )
  return out
}

function signalDiff(b: NodeFileSignal, a: NodeFileSignal): Difference[] {
  const out: Difference[] = []
  if (b.slug !== a.slug) out.push({ of: a.slug, words: `${b.slug} is called ${a.slug}` })
  if (b.driver !== a.driver)
    return [...out, { of: a.slug, words: `another part: ${pinWords(b)} → ${pinWords(a)} on ${a.slug}` }]
  for (const [key, x, y] of unequal(
    flat(b, ['slug', 'driver', 'access']),
    flat(a, ['slug', 'driver', 'access']),
    FIELDS,
  )) {
    const pin = /^pins\.(.+)$/.exec(key)?.[1]
    out.push({
      of: a.slug,
      words: `${changed(pin === undefined ? (FIELDS[key] ?? { name: key }) : { name: `pin of ${pin.toUpperCase()}` }, x, y)} on ${a.slug}`,
    })
  }
  return out
}

/**
 * Signals of the same name belong together; what is left over is matched by driver and pins: it has another name now.
 */
function match(before: NodeFileSignal[], after: NodeFileSignal[]): [NodeFileSignal | null, NodeFileSignal | null][] {
  const place = (s: NodeFileSignal) => `${s.driver} ${canonicalJson(s.driver === 'levels' ? s.of : s.pins)}`
  const gone = before.filter((b) => !after.some((a) => a.slug === b.slug))
  const pairs = after.map((a): [NodeFileSignal | null, NodeFileSignal | null] => {
    const same = before.find((b) => b.slug === a.slug)
    if (same) return [same, a]
    const at = gone.findIndex((b) => place(b) === place(a))
    return [at < 0 ? null : (gone.splice(at, 1)[0] ?? null), a]
  })
  return [...pairs, ...gone.map((b): [NodeFileSignal, null] => [b, null])]
}

function* unequal(
  before: Flat,
  after: Flat,
  fields: Record<string, { usual?: unknown }>,
): Generator<[string, unknown, unknown]> {
  for (const key of [...new Set([...Object.keys(before), ...Object.keys(after)])].sort()) {
    const usual = fields[key]?.usual
    const [b, a] = [before[key] ?? usual ?? null, after[key] ?? usual ?? null]
    if (canonicalJson(b) !== canonicalJson(a)) yield [key, b, a]
  }
}

interface Field {
  name: string
  unit?: string
  factor?: number
}

function valueWords({ unit, factor = 1 }: Field, v: unknown): string {
  if (v === null || v === undefined) return 'none'
  if (typeof v === 'number') return `${Number((v * factor).toPrecision(9))}${unit === undefined ? '' : ` ${unit}`}`
  if (typeof v === 'boolean') return v ? 'yes' : 'no'
  const levels = levelsSchema.safeParse(v)
  if (levels.success) return levelsWords(levels.data)
  return Array.isArray(v) ? v.join(', ') : String(v)
}

const changed = (field: Field, b: unknown, a: unknown): string =>
  `${field.name} ${valueWords(field, b)} → ${valueWords(field, a)}`

/** A field by itself: what is so or is not needs no yes. */
function fieldSaid(field: Field, v: unknown): string {
  if (typeof v === 'boolean') return v ? field.name : `not ${field.name}`
  return `${field.name} ${valueWords(field, v)}`
}

/**
 * What a file has the board do, in the words of `semanticDiff`: the node's own first, then signal by signal.
 * `boardName` is how people call the board of this id.
 */
export function fileWords(file: NodeFile, boardName: (id: string) => string = (id) => id): Difference[] {
  const { board, network, broker, sleep, guards = [], rules = [] } = file
  const own = [
    `on the ${boardName(board)}, to ${broker.host}:${broker.port} through ${network}`,
    sleep ? `wakes every ${sleep.everyS} s and listens ${sleep.listenS} s` : 'never sleeps',
    ...guards.map((g) => `guard: ${guardWords(g)}`),
    ...rules.map((r) => `by itself: ${ruleWords(r)}`),
  ]
  const ofSignal = (s: NodeFileSignal): Difference[] => {
    const fields = Object.entries(flat(s, ['slug', 'driver', 'access', 'pins'])).flatMap(([key, v]) => {
      const field = FIELDS[key]
      return field ? [fieldSaid(field, v)] : []
    })
    return [pinWords(s), ...(fields.length > 0 ? [fields.join(', ')] : [])].map((words) => ({ of: s.slug, words }))
  }
  return [...own.map((words) => ({ of: null, words })), ...file.signals.flatMap(ofSignal)]
}

function listed<T>(before: T[], after: T[], words: (x: T) => string, what: string): Difference[] {
  const [b, a] = [before.map(canonicalJson), after.map(canonicalJson)]
  return [
    ...after.filter((_, i) => !b.includes(a[i] ?? '')).map((x) => ({ of: null, words: `new ${what}: ${words(x)}` })),
    ...before.filter((_, i) => !a.includes(b[i] ?? '')).map((x) => ({ of: null, words: `${what} gone: ${words(x)}` })),
  ]
}

function pinWords(s: NodeFileSignal): string {
  if (s.driver === 'levels') return `made of ${s.of}`
  const pins = Object.values(s.pins)
  return `${s.driver} on ${pins.length === 1 ? 'pin' : 'pins'} ${pins.join(', ')}`
}

export function guardWords(g: Guard): string {
  return g.kind === 'needs'
    ? `${g.output} only while ${g.input} is ${g.is ? 'on' : 'off'}`
    : `never together: ${g.of.join(', ')}`
}

/** A unit levels are said in, and the factor that leads there from the file's. */
interface Shown {
  factor: number
  unit: string
}
const AS_IS: Shown = { factor: 1, unit: '' }

export function triggerText(when: LocalRule['when'], { factor, unit } = AS_IS): string {
  if (when === null) return 'unknown'
  if (typeof when === 'boolean') return when ? 'on' : 'off'
  if (typeof when === 'string') return when
  if ('is' in when) return when.is
  if ('says' in when) return when.says
  const level = Number((('above' in when ? when.above : when.below) * factor).toPrecision(9))
  const inUnit = unit === '' ? '' : ` ${unit}`
  const band = when.band ? ` (band ${Number((when.band * factor).toPrecision(9))}${inUnit})` : ''
  return `${'above' in when ? 'above' : 'below'} ${level}${inUnit}${band}`
}

const WORKS_WORDS = { always: '', alone: ', while there is no broker', detached: ', detached' }

function doesWords(does: LocalRule['do']): string {
  if (does === 'toggle') return 'toggles'
  if (typeof does === 'number') return `${does} %`
  return does ? 'on' : 'off'
}

export function ruleWords(r: LocalRule, shown?: Shown): string {
  const lasting = r.when !== 'gone' && r.forS ? ` for ${durationWords(r.forS)}` : ''
  return `${r.from} ${triggerText(r.when, shown)}${lasting} → ${r.to} ${doesWords(r.do)}${WORKS_WORDS[r.works ?? 'always']}`
}
