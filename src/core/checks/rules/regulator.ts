import type { Remedy } from '../finding'
import { adding, byOne } from '../remedies'
import { MOST_RISE_K, regulatorRiseK } from '../../calculations/regulatorCalculation'
import { railLoads } from '../../power/railLoads'
import { feedDiode } from '../../power/rails'
import { engineering, volts } from '../../units/format'
import { type CheckContext, componentIdOf, freeNames, report, type Rule } from '../context'

const SOURCE = 'P = (V_in − V_out)·I, ΔT = P·θ_JA; drop-out of the board’s regulator as commonly fitted.'

function given({ design, board, catalog }: CheckContext) {
  const loads = railLoads(design, board, catalog)
  const supply = loads.find((l) => l.rail.id === board.supply.rail)
  const logic = loads.find((l) => l.rail.id === '3V3')
  // Peaks last milliseconds; what warms is the mean: the chip at work, and everything else at rest or half of its peak.
  const meanA = (logic?.loads ?? []).reduce(
    (s, l) => s + (l.partId === null ? l.idleA : Math.max(l.idleA, l.peakA / 2)),
    0,
  )
  return { inMinV: supply?.rail.min ?? 5, inMaxV: supply?.rail.max ?? 5, meanA, name: supply?.rail.source ?? '' }
}

/** A linear regulator that gets too hot. */
export const regulatorHeat: Rule = {
  id: 'regulator-heat',
  severity: 'fix',
  when: 'The board’s linear regulator turns so much into heat that it warms by more than 60 K.',
  source: SOURCE,
  check: (context) => {
    const { regulator, logicV } = context.board
    if (regulator.kind !== 'linear') return []
    const { inMaxV, meanA } = given(context)
    const rise = regulatorRiseK(inMaxV, logicV, meanA, regulator.riseKPerW)
    if (rise <= MOST_RISE_K) return []
    const spare = context.rails.find((r) => r.partId !== null && !r.ac && r.max <= 3.45 && r.min >= 3.1)
    return [
      report('board', {
        sentence: `The board’s regulator warms by ${rise.toFixed(0)} K at ${volts(inMaxV)} in and ${engineering(meanA, 'A')} out${spare ? '' : ': feed heavy parts elsewhere, or the board from less'}.`,
        steps: [
          {
            gives: 'heat',
            formula: 'P = (V_in − V_out) · I',
            numbers: `(${volts(inMaxV)} − ${volts(logicV)}) · ${engineering(meanA, 'A')}`,
            result: engineering((inMaxV - logicV) * meanA, 'W'),
          },
          {
            gives: 'warming',
            formula: 'ΔT = P · θ_JA',
            numbers: `${regulator.riseKPerW} K/W`,
            result: `${rise.toFixed(0)} K`,
          },
        ],
        calculation: {
          id: 'regulator',
          target: {},
          given: {
            inV: inMaxV,
            outV: logicV,
            dropoutV: regulator.dropoutV,
            loadA: meanA,
            riseKPerW: regulator.riseKPerW,
          },
        },
      }),
    ]
  },
}

/** A supply that falls so low that the regulator cannot hold its output. */
export const regulatorHeadroom: Rule = {
  id: 'regulator-headroom',
  severity: 'fix',
  when: 'What feeds the board can fall below its logic voltage plus the drop-out of its regulator.',
  source: SOURCE,
  check: (context) => {
    const { regulator, supplyV } = context.board
    const { inMinV, name } = given(context)
    if (regulator.kind === 'switching' || inMinV - regulator.dropoutV >= supplyV.min - 1e-9) return []
    const boost = context.parts.find((p) => p.kind.id === 'boost-5v')
    const vin = context.catalog.parts['boost-5v']?.terminals.find((t) => t.role === 'supply')
    const feed = context.rails.find((r) => r.id === context.design.boardFeed)
    const fits = feed && vin?.role === 'supply' && feed.min >= vin.minV && feed.max <= vin.maxV
    const [id = 'boost'] = ['boost', 'boost2', 'boost3'].filter((x) => !(x in context.design.parts))
    const addBoost: Remedy[] = fits
      ? [
          {
            label: 'Step-up converter to 5 V',
            edits: [
              { kind: 'add-part', partId: id, part: 'boost-5v', label: 'Step-up', signals: [] },
              { kind: 'feed', partId: id, terminal: vin.id, rail: feed.id },
              { kind: 'feed-board', rail: `${id}.out` },
            ],
          },
        ]
      : []
    return [
      report('board', {
        sentence: `${name} falls to ${volts(inMinV)}; with ${volts(regulator.dropoutV)} of drop-out the board keeps ${volts(inMinV - regulator.dropoutV)} and needs ${volts(supplyV.min)}.`,
        steps: [
          {
            gives: 'left',
            formula: 'V_in,min − V_dropout',
            numbers: `${volts(inMinV)} − ${volts(regulator.dropoutV)}`,
            result: volts(inMinV - regulator.dropoutV),
          },
        ],
        remedies:
          boost && !context.design.boardFeed?.startsWith(`${boost.id}.`)
            ? [byOne(`Feed the board from ${boost.part.label}`, { kind: 'feed-board', rail: `${boost.id}.out` })]
            : addBoost,
        calculation: {
          id: 'regulator',
          target: {},
          given: {
            inV: inMinV,
            outV: supplyV.min,
            dropoutV: regulator.dropoutV,
            loadA: context.board.currents.radioPeakA,
            riseKPerW: regulator.riseKPerW,
          },
        },
      }),
    ]
  },
}

/** Two supplies at one input at once. */
export const twoSupplies: Rule = {
  id: 'two-supplies',
  severity: 'fix',
  when: 'The board is fed from outside and has a USB socket: both at once may meet.',
  source: 'The board’s circuit: only a diode or a switch keeps USB and an outside supply apart.',
  check: ({ design, board }) => {
    const { boardFeed } = design
    if (boardFeed === null || board.usb === 'none' || feedDiode(design)) return []
    const apart = board.supply.behind === 'nothing' && board.regulator.diode
    const whyTwo =
      board.supply.behind === 'nothing'
        ? 'This board has no diode between USB and its supply terminal: fit one into the feed, or take the outside supply off before a USB cable goes in.'
        : `This board is fed at ${board.supply.rail} behind a diode of its own: without it USB and the outside supply feed one another.`
    return [
      report('board', {
        severity: apart ? 'note' : 'fix',
        sentence: apart
          ? 'USB and the outside supply are kept apart by a diode on this board; check that yours has it.'
          : whyTwo,
        remedies: apart
          ? []
          : [
              adding('Schottky diode in the feed', componentIdOf(boardFeed, 'feed-diode'), {
                type: 'feed-diode',
                rail: boardFeed,
                names: freeNames(design, 'D'),
              }),
            ],
      }),
    ]
  },
}
