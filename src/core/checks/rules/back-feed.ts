import { replacing } from '../remedies'
import { addedOn } from '../../model/design'
import { engineering } from '../../units/format'
import { about, componentIdOf, feedOf, freeNames, report, type Rule } from '../context'

const SOURCE =
  'A pin stands 0.3 V above the supply it has at that moment: without power that is 0.3 V. More flows through its protection into the whole board.'
const SERIES_OHM = 4700
/** Current through a pin's protection that does no harm and powers nothing, A. */
const HARMLESS_A = 0.001

/** A part that stays powered beside a board that is not, or the other way round. */
export const backFeed: Rule = {
  id: 'back-feed',
  severity: 'fix',
  when: 'A part with a supply of its own drives a pin, or a pin drives it: while one of them is without power the other feeds it through that line.',
  source: SOURCE,
  check: (context) =>
    context.lines.flatMap((line) => {
      const { design, board } = context
      const { output, input, label } = line.terminal
      if (line.bus || line.inverted || design.plan.pins[line.key] === undefined || line.terminal.needs === 'analog')
        return []
      const supplies = line.kind.terminals.flatMap((t) =>
        t.role === 'supply' ? (feedOf(context, line.part, t.id) ?? []) : [],
      )
      const own = supplies.find((r) => r.partId !== null && r.id !== design.boardFeed)
      if (!own || addedOn(design, line.key, 'optocoupler') || addedOn(design, line.key, 'driver')) return []
      const drives = line.terminal.board === 'drives'
      const ofSupplyV = output?.kind === 'push-pull' ? own.max * output.highMaxRatio : null
      const givesV = output?.kind === 'fixed' ? output.highMaxV : ofSupplyV
      const highV = drives ? board.supplyV.max : givesV
      if (highV === null || (drives && (input?.maxA ?? 0) > HARMLESS_A)) return []
      const series =
        (addedOn(design, line.key, 'series')?.value.ohm ?? 0) +
        (addedOn(design, line.key, 'divider')?.value.topOhm ?? 0)
      const flowsA = (highV - 0.6) / Math.max(series, 25)
      if (flowsA <= HARMLESS_A || highV > 6) return []
      const old = addedOn(design, line.key, 'series')
      return [
        report(line.key, {
          ...about(design, line),
          sentence: drives
            ? `${line.part.label} hangs on ${own.name}: while that is off the board feeds it through ${label}, with up to ${engineering(flowsA, 'A')}.`
            : `${line.part.label} hangs on ${own.name}: while the board is off it feeds it through ${label}, with up to ${engineering(flowsA, 'A')}.`,
          steps: [
            {
              gives: 'through the protection',
              formula: 'I = (V_high − 0.6 V) / R_s',
              numbers: `(${highV.toFixed(2)} V − 0.6 V) / ${Math.max(series, 25)} Ω`,
              result: engineering(flowsA, 'A'),
            },
          ],
          remedies: [
            replacing(
              `Add ${engineering(SERIES_OHM, 'Ω')} in series`,
              old?.id,
              old?.id ?? componentIdOf(line.key, 'series'),
              {
                type: 'series',
                line: line.key,
                names: old?.value.names ?? freeNames(design, 'R'),
                ohm: SERIES_OHM,
                tolerance: 0.05,
              },
            ),
          ],
        }),
      ]
    }),
}
