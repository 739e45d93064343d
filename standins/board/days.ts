import type { NodeFile } from '../../src/core/nodefile/nodeFile'
import fs from 'node:fs'
import path from 'node:path'
import { isSmall } from '../../src/core/bundle/chipClass'
import { builtInCatalog as catalog } from '../../src/core/catalog/catalog'
import { type Design, designSchema } from '../../src/core/model/design'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import { compile } from '../../src/core/nodefile/compile'
import { SimulatedBoard } from './board'
import { ModelledBroker } from './modelledBroker'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

const S = 1000
export const DAY_MS = 86_400 * S

/** What happens to a node, and when it is over. A hang and a loss of power end by themselves. */
export type Trouble =
  { kind: 'network' | 'broker'; atMs: number; forMs: number } | { kind: 'hang' | 'power'; atMs: number }

export interface DaysRun {
  demo: string
  deviceDir: string
  sourceDir?: string
  flashDir: string
  ticksMs: number
  untilMs: number
  troubles: readonly Trouble[]
  /** Longest jump of the clock while nothing is going on, ms: shorter than the watchdog waits. */
  jumpMs: number
  random: () => number
}

export interface DaysResult {
  /** From the end of each trouble to the node's next “online”, ms; null when it never came. */
  back: { kind: Trouble['kind']; atDay: number; ms: number | null }[]
  /** Longest time an output was on, ms, and how long its design allows. */
  longestOnMs: number
  allowedMs: number
  ons: number
  starts: Record<string, number>
  messages: number
  steps: number
}

interface Waiting {
  since: number
  kind: Trouble['kind']
  atDay: number
}

/** How long the node took to come back; null while it may still come, with no time when it has not in a week. */
function cameBack({ since, kind, atDay }: Waiting, broker: ModelledBroker, nowMs: number) {
  const came = broker.arrivals.findLast((at) => at > since)
  if (came === undefined && nowMs - since <= 7 * DAY_MS) return null
  return { kind, atDay, ms: came === undefined ? null : came - since }
}

/** Begins a trouble; what ends it. */
function begins(kind: Trouble['kind'], board: SimulatedBoard, broker: ModelledBroker): () => void {
  switch (kind) {
    case 'network':
      board.airUp = false
      return () => {
        board.airUp = true
      }
    case 'broker':
      broker.setUp(false)
      return () => broker.setUp(true)
    case 'hang':
      board.hangs = true
      return () => undefined
    case 'power':
      board.power('power')
      return () => undefined
  }
}

/** The node's flash, with a file that tells its values seldom. */
function writeSlow(design: Design, flashDir: string): NodeFile {
  const made = compile(
    { ...design, network: { ...design.network, keepAliveS: 120 } },
    NO_SURROUNDINGS,
    catalog,
    { host: '192.0.2.1', port: 1883, root: 'vn' },
    1,
  )
  if (!made.ok) throw new Error(made.reasons.join())
  const { file, td } = made.compiled
  const signals = file.signals.map((s) =>
    'publish' in s ? { ...s, publish: { ...s.publish, everyS: Math.max(60, s.publish.everyS) } } : s,
  )
  const slow = { ...file, healthS: 600, signals } as NodeFile
  const secret = {
    broker: { name: 'n', password: 'p' },
    networks: { [design.network.ref]: [{ name: 'a', password: 'b' }] },
    key: '00'.repeat(48),
    n: 0,
  }
  fs.writeFileSync(path.join(flashDir, 'node.json'), JSON.stringify(slow))
  fs.writeFileSync(path.join(flashDir, 'td.json'), canonicalJson(td))
  fs.writeFileSync(path.join(flashDir, 'secret.json'), JSON.stringify(secret))
  return slow
}

/**
 * Days of a node on a clock that jumps to the next thing to do: connections to a modelled broker, commands a few times
 * a day, troubles as told.
 */
export async function liveDays({
  demo,
  deviceDir,
  sourceDir,
  flashDir,
  ticksMs,
  untilMs,
  troubles,
  jumpMs,
  random,
}: DaysRun): Promise<DaysResult> {
  const design: Design = designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${demo}.json`, 'utf8')))
  const slow = writeSlow(design, flashDir)
  let nowMs = 1_700_000_000_000
  const began = nowMs
  const broker = new ModelledBroker(() => nowMs)
  const board = await SimulatedBoard.start({
    flashDir,
    deviceDir,
    sourceDir,
    shimDir: 'standins/board/shims',
    random,
    log: () => undefined,
    now: () => nowMs,
    link: broker,
    ticksMs,
  })
  board.comings.alone = false
  // The smallest chip's watchdog waits 3.2 s.
  const jump = isSmall(board.chip) ? Math.min(jumpMs, 2500) : jumpMs
  const output = slow.signals.find((s) => s.driver === 'relay')
  const allowedMs = ((output?.driver === 'relay' && output.longestOnS) || 3600) * S
  const base = `vn/${slow.node}`
  const result: DaysResult = { back: [], longestOnMs: 0, allowedMs, ons: 0, starts: {}, messages: 0, steps: 0 }
  const todo = [...troubles].sort((a, b) => a.atMs - b.atMs)
  const s: {
    ending: { at: number; end: () => void; kind: Trouble['kind']; atDay: number } | null
    waiting: Waiting | null
    onSince: number | null
    nextCommand: number
  } = { ending: null, waiting: null, onSince: null, nextCommand: began + 3600 * S }
  const beginTrouble = (trouble: Trouble | undefined) => {
    if (!trouble || s.ending || s.waiting || nowMs - began < trouble.atMs) return
    todo.shift()
    const atDay = Math.round((trouble.atMs / DAY_MS) * 10) / 10
    const end = begins(trouble.kind, board, broker)
    s.ending = { at: nowMs + ('forMs' in trouble ? trouble.forMs : 0), end, kind: trouble.kind, atDay }
  }
  const endTrouble = () => {
    if (!s.ending || nowMs < s.ending.at) return
    s.ending.end()
    s.waiting = { since: nowMs, kind: s.ending.kind, atDay: s.ending.atDay }
    s.ending = null
  }
  const seeReturn = () => {
    const back = s.waiting && cameBack(s.waiting, broker, nowMs)
    if (!back) return
    result.back.push(back)
    s.waiting = null
  }
  const seeOutput = () => {
    const on = board.relayOn()
    if (on && s.onSince === null) result.ons += 1
    if (on) s.onSince ??= nowMs
    if (s.onSince !== null) result.longestOnMs = Math.max(result.longestOnMs, nowMs - s.onSince)
    if (!on) s.onSince = null
    if (!output || nowMs < s.nextCommand || !broker.connected) return
    broker.tell(`${base}/${output.slug}/set`, 'true')
    s.nextCommand = nowMs + (4 + 8 * random()) * 3600 * S
  }
  /** While something is on, or under way, time goes in small steps. */
  const goOn = () => {
    const nextTrouble = s.ending?.at ?? began + (todo[0]?.atMs ?? Infinity)
    const step = broker.connected && !board.hangs ? jump : 500
    const onLeft = s.onSince === null ? Infinity : Math.max(200, allowedMs - (nowMs - s.onSince) - 3000)
    nowMs += Math.max(50, Math.min(step, onLeft, nextTrouble - nowMs, Math.max(50, s.nextCommand - nowMs)))
  }
  while (nowMs - began < untilMs) {
    beginTrouble(todo[0])
    endTrouble()
    board.step()
    broker.tick()
    result.steps += 1
    seeReturn()
    seeOutput()
    result.messages += broker.taken.length
    broker.taken.length = 0
    broker.arrivals.splice(0, Math.max(0, broker.arrivals.length - 4))
    goOn()
    // The stand-in's own promises want their turn now and then.
    if (result.steps % 2000 === 0) await new Promise((r) => setImmediate(r))
  }
  for (const cause of board.starts) result.starts[cause] = (result.starts[cause] ?? 0) + 1
  board.stop()
  return result
}
