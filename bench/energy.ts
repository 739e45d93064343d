import fs from 'node:fs'
import { cycleOf } from '../src/core/energy/cycle'
import { DRAWS, drawLife } from '../src/core/energy/draws'
import { phaseCharges, swings, threePoint } from '../src/core/energy/life'
import { propose } from '../src/core/proposals/propose'
import { readDesign } from '../src/core/model/readDesign'
import { catalog } from '../tests/support/designs'

type Row = [string, string, string]

/** Life at three points with every edit, by draws beside the page, and whole nodes for a wish. */
export function energy(): Row[] {
  const read = readDesign(fs.readFileSync('demo/designs/damp-cupboard.json', 'utf8'), catalog)
  const board = read.ok ? catalog.boards[read.value.board.id] : undefined
  if (!read.ok || !board) throw new Error('the demo’s sleeper is not there')
  const times = Array.from({ length: 200 }, () => {
    const began = performance.now()
    const cycle = cycleOf(read.value, board, catalog)
    if (cycle) for (const of of [threePoint, phaseCharges, swings]) of(cycle)
    return performance.now() - began
  }).sort((a, b) => a - b)
  const cycle = cycleOf(read.value, board, catalog)
  if (!cycle) throw new Error('no cell')
  const began = performance.now()
  drawLife(cycle)
  const drawn = performance.now() - began
  // The same number of random numbers alone: what draws cannot be faster than here.
  const bare = performance.now()
  let sum = 0
  for (let n = DRAWS * cycle.inputs.length; n > 0; n--) sum += Math.random()
  const floor = performance.now() - bare
  const wish = performance.now()
  propose({ text: 'Hand-held with 21 keys, short and long, on a cell', power: null, alone: true }, catalog)
  return [
    ['life at three points, phases and swings', `${(times[100] ?? NaN).toFixed(2)} ms`, '≤ 5 ms'],
    [
      `${DRAWS} draws of ${cycle.inputs.length} inputs`,
      `${drawn.toFixed(0)} ms, ${(drawn / floor).toFixed(1)} × its random numbers alone${sum > 0 ? '' : ' '}`,
      '≤ 300 ms',
    ],
    [
      'whole nodes for a wish with 21 keys',
      `${((performance.now() - wish) / 1000).toFixed(1)} s, in a worker`,
      'progress and a stop',
    ],
  ]
}
