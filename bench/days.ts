import path from 'node:path'
import { Worker } from 'node:worker_threads'
import { DAY_MS, type DaysResult, type DaysRun, type Trouble } from '../standins/board/days'
import { tempFolder } from '../tests/support/product'

const DAYS = 40
const MINUTE = 60_000

/** Something every day: the network, the broker, a hang, the power, in turn, at another hour each time. */
const daily: Trouble[] = Array.from({ length: DAYS - 1 }, (_, d): Trouble => {
  const atMs = (d + 0.2 + ((d * 37) % 60) / 100) * DAY_MS
  const kinds = ['network', 'hang', 'broker', 'network', 'power'] as const
  const kind = kinds[d % kinds.length] ?? 'network'
  return kind === 'network' || kind === 'broker'
    ? { kind, atMs, forMs: (1 + ((d * 13) % 40)) * MINUTE }
    : { kind, atMs }
})
/** Five, seven, nine and thirteen days in peace, and then a loss. */
const stretches: Trouble[] = [5, 12, 21, 34].map((day) => ({
  kind: 'network' as const,
  atMs: day * DAY_MS,
  forMs: 4 * MINUTE,
}))

/**
 * Forty days of two demo nodes on a clock that jumps: how soon each is back after what happens to it, and whether an
 * output was ever on too long.
 */
export async function days(rows: [string, string, string][]): Promise<void> {
  const run = (
    of: Omit<DaysRun, 'random' | 'flashDir' | 'deviceDir' | 'sourceDir' | 'untilMs' | 'jumpMs'> & { seed: number },
  ) =>
    new Promise<DaysResult & { error?: string }>((resolve, reject) => {
      const worker = new Worker(path.resolve('build/days-trial.mjs'), {
        workerData: {
          ...of,
          flashDir: tempFolder(),
          deviceDir: 'build/device',
          sourceDir: 'device',
          untilMs: DAYS * DAY_MS,
          jumpMs: 5000,
        },
        stderr: true,
      })
      worker.once('message', resolve).once('error', reject)
    })
  // Their counters begin half a minute before half their round, and before the whole.
  const began = Date.now()
  const [a, b] = await Promise.all([
    run({ demo: 'slip-tank', ticksMs: 2 ** 29 - 30_000, troubles: daily, seed: 7 }),
    run({ demo: 'kiln-vent', ticksMs: 2 ** 30 - 30_000, troubles: stretches, seed: 11 }),
  ])
  for (const [name, r] of [
    ['slip-tank, disturbed daily', a],
    ['kiln-vent, 5, 7, 9 and 13 days in peace and then a loss', b],
  ] as const) {
    if (r.error) throw new Error(r.error)
    const worst = Math.max(...r.back.map((x) => x.ms ?? Infinity))
    rows.push([
      `${DAYS} days of ${name}: back after at most`,
      `${(worst / 1000).toFixed(1)} s, ${r.back.length} times`,
      '≤ 300 s',
    ])
    rows.push([
      '  longest time an output was on, of what is allowed',
      `${(r.longestOnMs / 1000).toFixed(1)} of ${r.allowedMs / 1000} s, ${r.ons} times`,
      '≤ allowed',
    ])
    rows.push([
      '  starts; messages; steps',
      `${Object.entries(r.starts)
        .map(([k, n]) => `${k} ${n}`)
        .join(', ')}; ${r.messages}; ${r.steps}`,
      '',
    ])
  }
  rows.push(['  both took', `${((Date.now() - began) / 1000).toFixed(0)} s`, '≤ 1 800 s'])
}
