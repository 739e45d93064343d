import { switchOf } from '../power/switchedRail'
import { type Board, FEED_DIODE_V } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { supplyCurrents } from '../catalog/part'
import { type Design, inOrder } from '../model/design'
import { channelOf } from '../publish/channelOf'
import { cellOf, type FeedingCell, packVoltage } from './cellOf'
import { BACK_S, CONVERSION_S, JOIN_S, LOGIN_S, PEER_S } from './conversion'
import { exactly, scaled, type Spread, spread } from './spread'
import { shareLeft } from './chemistries'
import { MONTH_H } from '../units/hours'

export type Unit = 'A' | 's' | 'V' | 'Ah' | 'Ω' | ''

/** One number the life hangs on, with where it comes from. */
export interface Input {
  id: string
  words: string
  unit: Unit
  value: Spread
  source: string
  /** What a meter showed in its place. */
  measured: { date: string; by: string } | null
}

export interface Phase {
  id: 'asleep' | 'start' | 'join' | 'measure' | 'listen' | 'back' | 'awake'
  words: string
  /** Seconds of the cycle and current at the cell, A, for the inputs at `x`. */
  s: (x: ArrayLike<number>) => number
  a: (x: ArrayLike<number>) => number
}

export interface Cycle {
  inputs: Input[]
  /** From one waking to the next, s, never less than it is awake; for a node that never sleeps one second. */
  periodS: (x: ArrayLike<number>) => number
  sleeps: boolean
  phases: Phase[]
  cell: FeedingCell
  /** Charge that is there before the node stops, Ah, and what the cell loses by itself, A. */
  usableAh: (x: ArrayLike<number>) => number
  /** Share of its charge at which the node stops under a burst of the radio. */
  stopShare: (x: ArrayLike<number>) => number
  selfA: (x: ArrayLike<number>) => number
}

/** What is looked at beside the design itself. */
export interface Conditions {
  tempC: number
  link: 'wifi' | 'peer'
}
export const INDOORS: Conditions = { tempC: 20, link: 'wifi' }
/** A winter's night outside. */
export const WINTER: Conditions = { tempC: -5, link: 'wifi' }

/** A list of inputs that is filled while the model is put together. */
class Inputs {
  readonly list: Input[] = []
  constructor(private readonly measured: Design['measured']) {}

  take(id: string, words: string, unit: Unit, value: Spread, source: string): (x: ArrayLike<number>) => number {
    const own = this.measured[id]
    const at = this.list.length
    this.list.push({
      id,
      words,
      unit,
      value: own ? exactly(own.value) : value,
      source: own ? `measured ${own.date}, ${own.by}` : source,
      measured: own ? { date: own.date, by: own.by } : null,
    })
    return (x) => x[at] ?? 0
  }
}

/** The cycle of a node that lives on a cell, as a function of its inputs; null where no cell feeds it. */
export function cycleOf(
  design: Design,
  board: Board,
  catalog: Catalog,
  conditions: Conditions = INDOORS,
): Cycle | null {
  const cell = cellOf(design, catalog)
  if (!cell) return null
  const inputs = new Inputs(design.measured)
  const parts = partCurrents(design, catalog, cell)
  const { waking, currents } = board
  const turned = conversionOf(inputs, cell, board)
  const turns = (x: ArrayLike<number>, a: number) => turned.idleA + turned.at(x, a, packVoltage(cell))
  const restA = inputs.take(
    'partsRestA',
    'parts at rest',
    'A',
    scaled(spread(0.7, 1, 1.4), parts.restA),
    'part data: current at rest',
  )
  const switchedA = inputs.take(
    'switchedA',
    'parts whose rail is off asleep, at rest',
    'A',
    scaled(spread(0.7, 1, 1.4), parts.switchedA),
    'part data: current at rest, while the node is awake alone',
  )
  const radioA = inputs.take(
    'radioA',
    'board with its radio on',
    'A',
    scaled(spread(0.8, 1, 1.4), currents.activeA),
    'board data: mean while it sends and hears; bursts are higher',
  )
  if (!design.sleep) {
    return {
      inputs: inputs.list,
      periodS: () => 1,
      sleeps: false,
      cell,
      phases: [
        {
          id: 'awake',
          words: 'awake all the time',
          s: () => 1,
          a: (x) => turns(x, radioA(x) + restA(x) + switchedA(x)),
        },
      ],
      ...charge(inputs, { cell, board, design, turned }, conditions),
    }
  }
  const { everyS, listenS } = design.sleep
  const asleepA = inputs.take('asleepA', 'board asleep', 'A', currents.sleepA, 'board data: as sold, lamps and all')
  const interpreterS = inputs.take('interpreterS', 'interpreter starts', 's', waking.interpreterS, waking.source)
  const filesS = inputs.take('filesS', 'the node’s files load', 's', waking.filesS, waking.source)
  const cpuA = inputs.take('cpuA', 'board without radio', 'A', waking.cpuA, waking.source)
  const onAir = airTime(inputs, design, conditions)
  const warmS = Math.max(0, ...parts.warmS)
  const convertS = inputs.take(
    'convertS',
    'slowest part measures',
    's',
    parts.convertS,
    'part data and the runtime: parts are waited for side by side',
  )
  const measureA = inputs.take(
    'measureA',
    'parts while they measure',
    'A',
    scaled(spread(0.6, 0.85, 1), parts.workA),
    'part data: highest current while it works',
  )
  const listenA = inputs.take(
    'listenA',
    'board while it listens',
    'A',
    spread(0.02, currents.activeA * 0.6, currents.activeA),
    'the radio rests between beacons where chip and access point agree on it',
  )
  const backS = inputs.take('backS', 'goodbye and radio off', 's', BACK_S, 'runtime: last message, then sleep')
  const startS = (x: ArrayLike<number>) => interpreterS(x) + filesS(x)
  const partsS = (x: ArrayLike<number>) => warmS + convertS(x)
  const waits = conditions.link === 'wifi' ? listenS : 0
  const measuresS = (x: ArrayLike<number>) => Math.max(0, partsS(x) - onAir(x))
  const awakeS = (x: ArrayLike<number>) => startS(x) + onAir(x) + measuresS(x) + waits + backS(x)
  // While the board joins, its parts measure: their own current is counted to measuring, over the time they take.
  const phases: Phase[] = [
    {
      id: 'asleep',
      words: 'asleep',
      s: (x) => Math.max(0, everyS - awakeS(x)),
      a: (x) => turns(x, asleepA(x) + restA(x)),
    },
    { id: 'start', words: 'start', s: startS, a: (x) => turns(x, cpuA(x) + restA(x)) },
    {
      id: 'join',
      words: conditions.link === 'wifi' ? 'join and log in' : 'frame to the gateway',
      s: onAir,
      a: (x) => turns(x, radioA(x) + restA(x) + switchedA(x)),
    },
    {
      id: 'measure',
      words: 'measure',
      s: partsS,
      // Over their own time parts add their current; the board is counted only where it waits for them alone.
      a: (x) => {
        const s = partsS(x)
        const alone = s <= 0 ? 0 : measuresS(x) / s
        const a = measureA(x) + (listenA(x) + restA(x) + switchedA(x)) * alone
        return turned.at(x, a, packVoltage(cell)) + turned.idleA * alone
      },
    },
    { id: 'listen', words: 'listen', s: () => waits, a: (x) => turns(x, listenA(x) + restA(x) + switchedA(x)) },
    { id: 'back', words: 'back to sleep', s: backS, a: (x) => turns(x, radioA(x) + restA(x) + switchedA(x)) },
  ]
  return {
    inputs: inputs.list,
    periodS: (x) => Math.max(everyS, awakeS(x)),
    sleeps: true,
    cell,
    phases,
    ...charge(inputs, { cell, board, design, turned }, conditions),
  }
}

/** Time on the air, s. */
function airTime(inputs: Inputs, design: Design, { link }: Conditions): (x: ArrayLike<number>) => number {
  if (link === 'peer') {
    const frame = inputs.take('frameS', 'frame and answer', 's', PEER_S, 'known peer on a known channel')
    return frame
  }
  const address = design.network.address === 'fixed' ? 'fixed' : 'lease'
  const joinS = inputs.take(
    'joinS',
    address === 'fixed' ? 'join with a fixed address' : 'join with a lease',
    's',
    JOIN_S[address],
    address === 'fixed' ? 'address and channel are known' : 'the access point is looked for and asked for an address',
  )
  const loginS = inputs.take('loginS', 'log in at the broker and send', 's', LOGIN_S, 'a few messages each way')
  return (x) => joinS(x) + loginS(x)
}

/** How current at the board's supply becomes current at the cell. */
interface Conversion {
  /** What a converter takes for itself, A. */
  idleA: number
  /** For `a` at the board with the cell at `v`: as it is behind a linear regulator, else by power. */
  at: (x: ArrayLike<number>, a: number, v: number) => number
}

function conversionOf(inputs: Inputs, cell: FeedingCell, board: Board): Conversion {
  const { converter } = cell
  const steps = (converter ? 1 : 0) + (board.regulator.kind === 'switching' ? 1 : 0)
  if (steps === 0) return { idleA: 0, at: (_, a) => a }
  const efficiency = inputs.take(
    'efficiency',
    'converter’s efficiency',
    '',
    spread(0.78, 0.85, 0.92),
    'converter data; worse at small loads',
  )
  // A linear board behind a boost takes its current at the boost's output; a switching one its power at the cell.
  const outV = board.regulator.kind === 'switching' ? board.logicV : (converter?.outV ?? board.logicV)
  return {
    idleA: converter?.restA ?? 0,
    at: (x, a, v) => (a * outV) / (efficiency(x) ** steps * v),
  }
}

/** True for a rail that the cell feeds: one of the board, or one that begins at the cell or behind it. */
function fedByCell(design: Design, catalog: Catalog, cellId: string, rail: string, depth = 0): boolean {
  const [partId = '', terminal] = rail.split('.')
  if (terminal === undefined || partId === cellId) return true
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  // Behind a contact it is what its common is joined to, behind a source what feeds the part.
  const behind = kind?.terminals.find((t) => t.id === terminal)?.role === 'contact'
  return (
    depth < 6 &&
    (kind?.terminals ?? []).some((t) => {
      const from = part?.feeds[t.id]
      const leads = behind ? t.role === 'contact' && t.does?.kind === 'common' : t.role === 'supply'
      return leads && from !== undefined && fedByCell(design, catalog, cellId, from, depth + 1)
    })
  )
}

/**
 * Currents of the parts that the cell feeds, A: of all at rest, and of those that measure what they take beyond it; how
 * long these need, and what they wait for after power, s. What is switched or lit is not on while it measures.
 */
function partCurrents(design: Design, catalog: Catalog, cell: FeedingCell) {
  let restA = 0
  let switchedA = 0
  let workA = 0
  const warmS: number[] = []
  for (const { value: part } of inOrder(design.parts)) {
    const kind = catalog.parts[part.kind]
    if (!kind || (kind.terminals.some((t) => t.role === 'source') && !kind.charger && !kind.railSwitch)) continue
    const measures = kind.channels.some((c) => c.access === 'reading' || c.access === 'state')
    for (const t of kind.terminals) {
      const rail = t.role === 'supply' ? part.feeds[t.id] : undefined
      if (t.role !== 'supply' || rail === undefined || !fedByCell(design, catalog, cell.partId, rail)) continue
      const { idleA, peakA } = supplyCurrents(t, part.settings, kind)
      if (design.sleep && switchOf(design, catalog, rail) !== null) switchedA += idleA
      else restA += idleA
      if (measures) workA += peakA - idleA
    }
    if (kind.warmUp) warmS.push(kind.warmUp.s)
  }
  const times = inOrder(design.signals).flatMap(({ value }) => {
    const channel = channelOf(design, catalog, value)
    const time = channel && CONVERSION_S[channel.driver]
    return time ? [time] : []
  })
  const most = (of: (s: Spread) => number) => Math.max(0, ...times.map(of))
  return {
    restA,
    switchedA,
    workA,
    warmS,
    convertS: spread(
      most((s) => s.low),
      most((s) => s.likely),
      most((s) => s.high),
    ),
  }
}

/** How much of the cell is there before the board stops, and what it loses by itself. */
function charge(
  inputs: Inputs,
  { cell, board, design, turned }: { cell: FeedingCell; board: Board; design: Design; turned: Conversion },
  { tempC }: Conditions,
): Pick<Cycle, 'usableAh' | 'stopShare' | 'selfA'> {
  const { facts, series, parallel } = cell
  const capacity = inputs.take(
    'capacityAh',
    'what the cell holds',
    'Ah',
    scaled(spread(0.88, 0.97, 1.02), cell.capacityAh),
    'rated charge; age and load take some of it',
  )
  const self = inputs.take('selfShare', 'own discharge a month', '', facts.selfPerMonth, facts.source)
  const warmth = Math.min(1, Math.max(0, (tempC + 5) / 25))
  const cold = inputs.take(
    'coldShare',
    `what the temperature of ${tempC} °C leaves`,
    '',
    spread(
      ...((['low', 'likely', 'high'] as const).map((k) => facts.cold[k] + (1 - facts.cold[k]) * warmth) as [
        number,
        number,
        number,
      ]),
    ),
    facts.source,
  )
  const peakA = inputs.take(
    'peakA',
    'burst of the radio',
    'A',
    scaled(spread(0.6, 0.8, 1), board.currents.radioPeakA),
    'board data: highest, for milliseconds; the board’s capacitors carry a part of it',
  )
  const innerOhm = inputs.take(
    'innerOhm',
    'inner resistance of the cell',
    'Ω',
    scaled(spread(1, 1.3, 2.5), cell.cell.innerOhm / parallel),
    'cell data for a new one; age and cold raise it',
  )
  const stopsV = stopVoltage(inputs, cell, board, design)
  const stopShare = (x: ArrayLike<number>) => {
    // Near its end a cell behind a converter gives most: the same power at its lowest voltage.
    const stop = stopsV(x, peakA(x))
    const atCell = stop + innerOhm(x) * turned.at(x, peakA(x), stop)
    return shareLeft(facts.curve, atCell / series)
  }
  return {
    usableAh: (x) => capacity(x) * cold(x) * (1 - stopShare(x)),
    stopShare,
    selfA: (x) => (self(x) * capacity(x)) / MONTH_H,
  }
}

/** Voltage in front of the board, or of the converter, at which it stops under a burst, V. */
function stopVoltage(inputs: Inputs, cell: FeedingCell, board: Board, design: Design) {
  const { converter } = cell
  if (converter) return () => converter.inMinV
  if (board.regulator.kind === 'switching') return () => board.supply.minV
  const brownoutV = inputs.take(
    'brownoutV',
    'supply at which the chip starts anew',
    'V',
    board.waking.brownoutV,
    board.waking.source,
  )
  const diode = Object.values(design.added).some((c) => c.type === 'feed-diode') || board.regulator.diode
  const diodeV = inputs.take(
    'diodeV',
    diode ? 'diode in the feed' : 'no diode in the feed',
    'V',
    diode ? spread(FEED_DIODE_V.low, 0.3, FEED_DIODE_V.high) : exactly(0),
    'a Schottky diode, warm at little current and cold at its peak',
  )
  const { dropoutV, limitA } = board.regulator
  return (x: ArrayLike<number>, peak: number) => brownoutV(x) + dropoutV * Math.min(1, peak / limitA) + diodeV(x)
}
