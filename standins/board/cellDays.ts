import fs from 'node:fs'
import path from 'node:path'
import { builtInCatalog as catalog } from '../../src/core/catalog/catalog'
import { cycleOf, type Cycle } from '../../src/core/energy/cycle'
import { likelyOf } from '../../src/core/energy/life'
import type { SupplyPoint } from '../../src/core/energy/inService'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import type { Design } from '../../src/core/model/design'
import { compile } from '../../src/core/nodefile/compile'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'
import { drawnCell, StandInCell } from '../world/cell'
import { SimulatedBoard } from './board'
import { ModelledBroker } from './modelledBroker'

export interface CellDays {
  cycle: Cycle
  /** What the node told of its cell. */
  points: SupplyPoint[]
  /** What really flowed, on average, A: the forecast does not see it. */
  trueA: number
  /** When the node really stops if it goes on so: at the share at which a board of these numbers does, s. */
  trueEndS: number
  wakings: number
}

/**
 * A sleeping node on a cell that empties by what its board does: asleep and awake for as long as the runtime is, each
 * start for as long as a board of its class takes, all drawn once from the ranges the design states. `left` is the share
 * of charge at the beginning.
 */
export async function daysOnCell(
  design: Design,
  {
    days,
    flashDir,
    deviceDir,
    random,
    left,
  }: { days: number; flashDir: string; deviceDir: string; random: () => number; left: number },
): Promise<CellDays> {
  const board = catalog.boards[design.board.id]
  const cycle = board && cycleOf(design, board, catalog)
  const made = compile(design, NO_SURROUNDINGS, catalog, { host: '192.0.2.1', port: 1883, root: 'vn' }, 1)
  if (!cycle || !made.ok) throw new Error(made.ok ? 'no cell feeds it' : made.reasons.join())
  const { file, td } = made.compiled
  const secret = {
    broker: { name: 'n', password: 'p' },
    networks: { [design.network.ref]: [{ name: 'a', password: 'b' }] },
    key: '00'.repeat(48),
    n: 0,
  }
  fs.writeFileSync(path.join(flashDir, 'node.json'), JSON.stringify(file))
  fs.writeFileSync(path.join(flashDir, 'td.json'), canonicalJson(td))
  fs.writeFileSync(path.join(flashDir, 'secret.json'), JSON.stringify(secret))
  let nowMs = 1_700_000_000_000
  const began = nowMs
  const broker = new ModelledBroker(() => nowMs)
  const cell = new StandInCell(drawnCell(cycle, random, left))
  const simulated = await SimulatedBoard.start({
    flashDir,
    deviceDir,
    shimDir: 'standins/board/shims',
    random,
    log: () => undefined,
    now: () => nowMs,
    link: broker,
    ticksMs: 1000,
    cell,
  })
  simulated.comings.alone = false
  const points: SupplyPoint[] = []
  const topic = `vn/${file.node}/${file.supply}`
  for (let steps = 0; nowMs - began < days * 86_400_000; steps++) {
    simulated.step()
    broker.tick()
    for (const { ms, topic: on, payload } of broker.taken)
      if (on === topic && payload !== 'null') points.push({ atS: ms / 1000, volts: Number(payload) })
    broker.taken.length = 0
    nowMs += simulated.asleep ? Math.min(5000, Math.max(50, simulated.asleepForMs)) : 50
    // The stand-in's own promises want their turn now and then.
    if (steps % 2000 === 0) await new Promise((r) => setImmediate(r))
  }
  simulated.stop()
  const stopShare = cycle.stopShare(likelyOf(cycle))
  const seconds = (nowMs - began) / 1000
  const trueA = (cell.spentAh * 3600) / seconds
  return {
    cycle,
    points,
    trueA,
    trueEndS: nowMs / 1000 + ((cell.state.leftAh - stopShare * cell.state.capacityAh) / trueA) * 3600,
    wakings: simulated.starts.filter((s) => s === 'woke').length,
  }
}
