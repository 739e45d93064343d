import { feeding } from '../remedies'
import { inputMaxV, ROUNDING_V } from '../../catalog/board'
import { volts } from '../../units/format'
import { feedable, feedOf, report, type Rule, signalOfPart } from '../context'

/** A module that pulls its bus to a supply above what the chip stands. */
export const busPullOver: Rule = {
  id: 'bus-pull-over',
  severity: 'stop',
  when: 'A module’s own pull-ups lead its bus lines to a supply above the board’s by more than 0.3 V.',
  source: 'Chip data sheet, absolute maximum ratings.',
  check: (context) =>
    context.parts.flatMap(({ id, part, kind }) => {
      const pull = kind.i2c?.pull
      const rail = pull ? feedOf(context, part, pull.to) : undefined
      const limitV = inputMaxV(context.board)
      if (!pull || !rail || rail.max <= limitV + ROUNDING_V) return []
      const supply = kind.terminals.find((t) => t.role === 'supply' && t.id === pull.to)
      const lower = supply?.role === 'supply' ? feedable(context, id, supply).find((r) => r.max <= limitV) : undefined
      return [
        report(id, {
          partId: id,
          signalId: signalOfPart(context.design, id),
          sentence: `${part.label} pulls SDA and SCL to ${rail.name}, up to ${volts(rail.max)}; the pins stand ${volts(limitV)}.`,
          steps: [
            {
              gives: 'over the limit by',
              formula: 'V_pull,max − (VDD + 0.3 V)',
              numbers: `${volts(rail.max)} − ${volts(limitV)}`,
              result: volts(rail.max - limitV),
            },
          ],
          source: context.board.input.source,
          remedies:
            lower && supply
              ? [feeding(`Feed ${supply.label} from ${lower.name}`, { partId: id, terminal: supply.id }, lower.id)]
              : [],
        }),
      ]
    }),
}
