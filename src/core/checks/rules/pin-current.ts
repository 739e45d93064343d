import { adding } from '../remedies'
import { baseOhm } from '../../calculations/transistorCalculation'
import { addedOn } from '../../model/design'
import type { PlanLine } from '../../lines/lines'
import { nearestIn } from '../../units/eSeries'
import { engineering } from '../../units/format'
import { about, type CheckContext, componentIdOf, freeNames, report, type Rule } from '../context'
import type { Remedy } from '../finding'

/** Current a pin has to give or take for a line, A; 0 where it drives nothing that matters. */
export function pinA({ board, design }: CheckContext, line: PlanLine): number {
  const { bareLamp, input } = line.terminal
  if (line.terminal.board === 'reads') return 0
  const series = addedOn(design, line.key, 'series')?.value
  if (bareLamp) return series ? (board.supplyV.max - bareLamp.forwardV) / (series.ohm * (1 - series.tolerance)) : 0
  return input?.maxA ?? 0
}

/** A pin that would have to give more than it can. */
export const pinCurrent: Rule = {
  id: 'pin-current',
  severity: 'stop',
  when: 'A part asks for more current than a pin gives.',
  source: 'Chip data sheet: recommended current of one pin.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const { design, board } = context
      const a = pinA(context, line)
      if (a <= board.drive.perPinA || design.plan.pins[line.key] === undefined) return []
      const seriesOhm = nearestIn('E24', baseOhm(board.supplyV.min, a, 15), 'down')
      const isFet = (board.supplyV.max - 0.7) / seriesOhm > board.drive.perPinA / 2
      const remedies: Remedy[] =
        line.terminal.board === 'drives' && !line.bus
          ? [
              adding(
                isFet ? 'FET in between' : `Transistor behind ${engineering(seriesOhm, 'Ω')}`,
                componentIdOf(line.key, 'driver'),
                {
                  type: 'driver',
                  line: line.key,
                  names: freeNames(design, 'Q', 'R', 'R'),
                  device: isFet ? 'fet' : 'npn',
                  seriesOhm: isFet ? 100 : seriesOhm,
                  holdOhm: 10_000,
                  tolerance: 0.05,
                },
              ),
            ]
          : []
      return [
        report(line.key, {
          ...about(design, line),
          remedies,
          sentence: `${line.part.label} ${line.terminal.label} takes ${engineering(a, 'A')}; a pin gives ${engineering(board.drive.perPinA, 'A')}.`,
          steps: [
            {
              gives: 'times over',
              formula: 'I / I_pin',
              numbers: `${engineering(a, 'A')} / ${engineering(board.drive.perPinA, 'A')}`,
              result: (a / board.drive.perPinA).toFixed(1),
            },
          ],
          calculation: {
            id: 'transistor',
            target: { line: line.key },
            given: { highV: board.supplyV.min, loadA: a, gain: 15, limitA: board.drive.perPinA, value: seriesOhm },
          },
        }),
      ]
    }),
}
