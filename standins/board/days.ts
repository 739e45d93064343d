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
  const made = compile(
    { ...design, network: { ...design.network, keepAliveS: 120 } },
    NO_SURROUNDINGS,
    catalog,
    { host: '192.0.2.1', port: 1883, root: 'vn' },
    1,
  )
  if (!made.ok) throw new Error(made.reasons.join())
  const slow = {
    ...made.compiled.file,
    healthS: 600,
    signals: made.compiled.file.signals.map((s) =>
      'publish' in s ? { ...s, publish: { ...s.publish, everyS: Math.max(60, s.publish.everyS) } } : s,
    ),
  }
  fs.writeFileSync(path.join(flashDir, 'node.json'), JSON.stringify(slow))
  fs.writeFileSync(path.join(flashDir, 'td.json'), canonicalJson(made.compiled.td))
  fs.writeFileSync(
    path.join(flashDir, 'secret.json'),
    JSON.stringify({
      broker: { name: 'n', password: 'p' },
      networks: { [design.network.ref]: [{ name: 'a', password: 'b' }] },
      key: '00'.repeat(48),
      n: 0,
    }),
  )
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
  let ending: { at: number; end: () => void; kind: Trouble['kind']; atDay: number } | null = null
  let waiting: { since: number; kind: Trouble['kind']; atDay: number } | null = null
  let onSince: number | null = null
  let nextCommand = began + 3600 * S
  while (nowMs - began < untilMs) {
    const trouble = todo[0]
    if (trouble && !ending && !waiting && nowMs - began >= trouble.atMs) {
      todo.shift()
      const atDay = Math.round((trouble.atMs / DAY_MS) * 10) / 10
      const begin = {
        network: () => {
          board.airUp = false
        },
        broker: () => broker.setUp(false),
        hang: () => {
          board.hangs = true
        },
        power: () => board.power('power'),
      }
      const end = {
        network: () => {
          board.airUp = true
        },
        broker: () => broker.setUp(true),
        hang: () => undefined,
        power: () => undefined,
      }
      begin[trouble.kind]()
      ending = {
        at: nowMs + ('forMs' in trouble ? trouble.forMs : 0),
        end: end[trouble.kind],
        kind: trouble.kind,
        atDay,
      }
    }
    if (ending && nowMs >= ending.at) {
      ending.end()
      waiting = { since: nowMs, kind: ending.kind, atDay: ending.atDay }
      ending = null
    }
    board.step()
    broker.tick()
    result.steps += 1
    if (waiting) {
      const came = broker.arrivals.findLast((at) => at > (waiting?.since ?? 0))
      if (came !== undefined || nowMs - waiting.since > 7 * DAY_MS) {
        result.back.push({
          kind: waiting.kind,
          atDay: waiting.atDay,
          ms: came === undefined ? null : came - waiting.since,
        })
        waiting = null
      }
    }
    const on = board.relayOn()
    if (on && onSince === null) {
      onSince = nowMs
      result.ons += 1
    }
    if (onSince !== null) result.longestOnMs = Math.max(result.longestOnMs, nowMs - onSince)
    if (!on) onSince = null
    if (output && nowMs >= nextCommand && broker.connected) {
      broker.tell(`${base}/${output.slug}/set`, 'true')
      nextCommand = nowMs + (4 + 8 * random()) * 3600 * S
    }
    result.messages += broker.taken.length
    broker.taken.length = 0
    broker.arrivals.splice(0, Math.max(0, broker.arrivals.length - 4))
    // While something is on, or under way, time goes in small steps.
    const nextTrouble = ending?.at ?? (todo[0] ? began + todo[0].atMs : Infinity)
    const busy = !broker.connected || board.hangs
    const onLeft: number = onSince === null ? Infinity : Math.max(200, allowedMs - (nowMs - onSince) - 3000)
    nowMs += Math.max(50, Math.min(busy ? 500 : jump, onLeft, nextTrouble - nowMs, Math.max(50, nextCommand - nowMs)))
    // The stand-in's own promises want their turn now and then.
    if (result.steps % 2000 === 0) await new Promise((r) => setImmediate(r))
  }
  for (const cause of board.starts) result.starts[cause] = (result.starts[cause] ?? 0) + 1
  board.stop()
  return result
}
