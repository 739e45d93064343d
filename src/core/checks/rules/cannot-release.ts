import { adding, feeding } from '../remedies'
import { volts } from '../../units/format'
import { about, componentIdOf, feedable, feedOf, freeNames, report, type Rule } from '../context'
import type { Remedy } from '../finding'

/** Across the lamp of an input coupler less than this lets no current flow that matters, V. */
const LAMP_DARK_V = 0.9

/** An active-low input that hangs on more than the board's own supply: a high pin does not let it go. */
export const cannotRelease: Rule = {
  id: 'cannot-release',
  severity: 'stop',
  when: 'An active-low input is pulled to a supply so far above the board’s that a high pin still lets current flow.',
  source: 'Kirchhoff: what is left across the input’s lamp and resistor when the pin is high.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const { design, board } = context
      const { input, rest, label } = line.terminal
      const rail = feedOf(context, line.part, input?.from)
      if (!input || rest?.level !== 'high' || !rail || design.plan.pins[line.key] === undefined) return []
      const leftV = rail.max - board.supplyV.min
      const darkBelowV = input.highMinV === undefined ? LAMP_DARK_V : Math.max(0, rail.max - input.highMinV)
      if (leftV <= darkBelowV) return []
      const lower = line.kind.terminals.find((t) => t.role === 'supply' && t.id === input.from)
      const own =
        lower?.role === 'supply'
          ? feedable(context, line.partId, lower).find((r) => r.max - board.supplyV.min <= darkBelowV)
          : undefined
      const remedies: Remedy[] = [
        ...(own && lower
          ? [feeding(`Feed ${lower.label} from ${own.name}`, { partId: line.partId, terminal: lower.id }, own.id)]
          : []),
        adding('Transistor in between', componentIdOf(line.key, 'driver'), {
          type: 'driver',
          line: line.key,
          names: freeNames(design, 'Q', 'R', 'R'),
          device: 'npn',
          seriesOhm: 4700,
          holdOhm: 10_000,
          tolerance: 0.05,
        }),
      ]
      return [
        report(line.key, {
          ...about(design, line),
          remedies,
          sentence: `${line.part.label} hangs on ${rail.name}: with the pin high ${volts(leftV)} stay across ${label}, and it may never switch off.`,
          steps: [
            {
              gives: 'left across the input',
              formula: 'V = V_supply,max − VDD_min',
              numbers: `${volts(rail.max)} − ${volts(board.supplyV.min)}`,
              result: volts(leftV),
            },
            {
              gives: 'surely off below',
              formula: input.highMinV === undefined ? 'lamp of the input coupler' : 'V_supply,max − V_IH',
              numbers:
                input.highMinV === undefined
                  ? 'no current below about 0.9 V'
                  : `${volts(rail.max)} − ${volts(input.highMinV)}`,
              result: volts(darkBelowV),
            },
          ],
          source:
            'Part data sheet for its input; an open-drain output would not help, since the pin does not stand the module’s supply.',
        }),
      ]
    }),
}
