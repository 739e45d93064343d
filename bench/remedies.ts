import { THEME_COUNT, walkRemedies } from '../tests/support/remedyWalk'

type Row = [string, string, string]

/** Every kind of remedy is to be taken this often. */
const OFTEN = 100
const TOGETHER = 50
const PORTION = 60

/**
 * Every single remedy of `count` random nodes, half of them with something foreign or isolated, and fifty seeded pairs
 * and triples of each; then more nodes of the sort that brought the rare kinds about, single remedies only, until every
 * kind has been taken a hundred times. Judged by a walk over the finished wires. `VIVID_REMEDIES` sets another count.
 */
export function remedies(count = Number(process.env.VIVID_REMEDIES ?? 2000)): Row[] {
  const began = performance.now()
  const seeds = (from: number, step: number, n: number) => Array.from({ length: n }, (_, i) => from + i * step)
  const tally = walkRemedies(seeds(0, 1, count), TOGETHER)
  const rare = () => [...tally.kinds].filter(([, n]) => n < OFTEN)
  // A seed's remainder says which small trouble its node was given.
  let next = Math.ceil(count / THEME_COUNT) * THEME_COUNT
  for (let round = 0; rare().length > 0 && round < 40; round++) {
    const sorts = new Set(rare().map(([kind]) => (tally.firstSeed.get(kind) ?? 0) % THEME_COUNT))
    for (const sort of sorts) walkRemedies(seeds(next + sort, THEME_COUNT, PORTION), 0, tally)
    next += PORTION * THEME_COUNT
  }
  for (const fault of tally.faults.slice(0, 20)) console.error(fault)
  for (const [kind, n] of [...tally.kinds].sort((a, b) => a[1] - b[1]))
    console.error(`${String(n).padStart(6)} ${kind}`)
  const minutes = ((performance.now() - began) / 60_000).toFixed(1)
  const missed = rare().map(([kind, n]) => `${kind} (${n})`)
  return [
    [
      `remedies of ${tally.designs} nodes, ${tally.foreign} with something foreign`,
      `${tally.applied} taken, ${tally.refused} refused whole, ${minutes} min`,
      '',
    ],
    ['isolations bridged in silence, stops silenced, readings false', String(tally.faults.length), '0'],
    [`of ${tally.kinds.size} kinds of remedy taken fewer than a hundred times`, missed.join('; ') || 'none', 'none'],
  ]
}
