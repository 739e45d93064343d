import { feeding } from '../remedies'
import { lampA } from '../../calculations/lampCalculation'
import { inputMaxV } from '../../catalog/board'
import { engineering, volts } from '../../units/format'
import { about, feedable, feedOf, pinAt, report, type Rule } from '../context'

const SOURCE =
  'Kirchhoff for both positions: lamp with its resistor from its supply to the line, the contact or the pin’s pull below.'
const SEEN_A = 0.0002

/** A lamp inside a switch: which position lights it, and what it does to the pin. */
export const lampInSwitch: Rule = {
  id: 'lamp-in-switch',
  severity: 'note',
  when: 'A lamp hangs between a switched line and a supply.',
  source: SOURCE,
  check: (context) =>
    context.lines.flatMap((line) => {
      const { lamp } = line.terminal
      const pin = pinAt(context, line)
      const rail = lamp ? feedOf(context, line.part, lamp.supply) : undefined
      if (!lamp || !pin || !rail) return []
      const closedA = lampA(rail.max, lamp.dropV, lamp.ohm)
      // Open: the lamp lifts the line until the chip's own protection conducts, and goes on lighting through it.
      const limitV = inputMaxV(context.board)
      const liftedV = Math.max(0, rail.max - lamp.dropV)
      const throughPinA = lampA(rail.max, lamp.dropV + limitV, lamp.ohm)
      const shines = throughPinA > SEEN_A
      const supply = line.kind.terminals.find((t) => t.role === 'supply' && t.id === lamp.supply)
      const other =
        supply?.role === 'supply'
          ? feedable(context, line.partId, supply).find((r) => r.max <= context.board.supplyV.max && r.id !== rail.id)
          : undefined
      return [
        report(line.key, {
          severity: shines ? 'stop' : 'note',
          ...about(context.design, line),
          sentence: shines
            ? `${line.part.label}: its lamp shines while the switch is open, with ${engineering(throughPinA, 'A')} through the pin’s protection.`
            : `${line.part.label}: its lamp shines while the switch is closed, with ${engineering(closedA, 'A')}${liftedV > 0 ? '; open, it only helps the pull-up' : ''}. To find it in the dark, swap its feed.`,
          steps: [
            {
              gives: 'closed',
              formula: 'I = (V_lamp − V_F) / R',
              numbers: `(${volts(rail.max)} − ${volts(lamp.dropV)}) / ${lamp.ohm} Ω`,
              result: engineering(closedA, 'A'),
            },
            {
              gives: 'open, at the pin',
              formula: 'V = V_lamp − V_F, at no current V_lamp',
              numbers: `${volts(rail.max)} − ${volts(lamp.dropV)}`,
              result: `${volts(liftedV)} to ${volts(rail.max)}`,
            },
            {
              gives: 'open, through the pin',
              formula: 'I = (V_lamp − V_F − V_pin,max) / R',
              numbers: `${volts(rail.max)} − ${volts(lamp.dropV)} − ${volts(limitV)}`,
              result: engineering(throughPinA, 'A'),
            },
          ],
          remedies:
            shines && other && supply
              ? [
                  feeding(
                    `Feed ${supply.label} from ${other.name}`,
                    { partId: line.partId, terminal: supply.id },
                    other.id,
                  ),
                ]
              : [],
        }),
      ]
    }),
}
