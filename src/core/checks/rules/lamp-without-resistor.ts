import { adding } from '../remedies'
import { addedOn } from '../../model/design'
import { nearestIn } from '../../units/eSeries'
import { ohms, volts } from '../../units/format'
import { about, componentIdOf, freeNames, report, type Rule } from '../context'

/** A light-emitting diode straight at a pin. */
export const lampWithoutResistor: Rule = {
  id: 'lamp-without-resistor',
  severity: 'stop',
  when: 'A light-emitting diode without a resistor of its own hangs at a pin directly.',
  source:
    'A diode’s current is set by what stands in series with it: without that the pin or the lamp sets it by failing.',
  check: ({ design, board, lines }) =>
    lines.flatMap((line) => {
      const lamp = line.terminal.bareLamp
      if (!lamp || addedOn(design, line.key, 'series')) return []
      const wantsA = Math.min(lamp.wantsA, board.drive.perPinA / 2)
      const ohm = nearestIn('E24', (board.supplyV.max - lamp.forwardV) / wantsA, 'up')
      return [
        report(line.key, {
          ...about(design, line),
          sentence: `${line.part.label} has no resistor: nothing limits its current.`,
          steps: [
            {
              gives: 'resistor',
              formula: 'R = (VDD_max − V_F) / I',
              numbers: `(${volts(board.supplyV.max)} − ${volts(lamp.forwardV)}) / ${wantsA * 1000} mA`,
              result: ohms(ohm),
            },
          ],
          source: 'Ohm’s law with the forward voltage of the lamp’s data sheet.',
          remedies: [
            adding(`Add ${ohms(ohm)} in series`, componentIdOf(line.key, 'series'), {
              type: 'series',
              line: line.key,
              names: freeNames(design, 'R'),
              ohm,
              tolerance: 0.05,
            }),
          ],
          calculation: {
            id: 'series',
            target: { line: line.key },
            given: {
              supplyV: board.supplyV.max,
              forwardV: lamp.forwardV,
              wantsA,
              limitA: board.drive.perPinA,
              value: ohm,
            },
          },
        }),
      ]
    }),
}
