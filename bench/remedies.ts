import { walkRemedies } from '../tests/support/remedyWalk'

type Row = [string, string, string]

/** Every kind of remedy is to be taken this often. */
const OFTEN = 100
const TOGETHER = 50

/**
 * Every single remedy of `count` random nodes, half of them with something foreign or isolated, and fifty seeded pairs and triples of each;
 * then more nodes, single remedies only, until every kind has been taken a hundred times. Judged by a walk over the finished wires.
 */
export function remedies(count = 2000): Row[] {
  const began = performance.now()
  const tally = walkRemedies(
    Array.from({ length: count }, (_, i) => i),
    TOGETHER,
  )
  const rare = () => [...tally.kinds].filter(([, n]) => n < OFTEN)
  let seed = count
  for (; rare().length > 0 && seed < count * 4; seed += 100)
    walkRemedies(
      Array.from({ length: 100 }, (_, i) => seed + i),
      0,
      tally,
    )
  for (const fault of tally.faults.slice(0, 20)) console.error(fault)
  for (const [kind, n] of [...tally.kinds].sort((a, b) => a[1] - b[1]))
    console.error(`${String(n).padStart(6)} ${kind}`)
  return [
    [
      `remedies of ${tally.designs} nodes, ${tally.foreign} with something foreign`,
      `${tally.applied} taken, ${tally.refused} refused whole, ${((performance.now() - began) / 60_000).toFixed(1)} min`,
      '',
    ],
    ['isolations bridged in silence, stops silenced, readings false', String(tally.faults.length), '0'],
    [
      'kinds of remedy, and those taken fewer than a hundred times',
      `${tally.kinds.size}, ${
        rare()
          .map(([k, n]) => `${k} (${n})`)
          .join('; ') || 'none'
      }`,
      'none',
    ],
  ]
}
