import { adding } from '../remedies'
import { pullServes } from '../../pins/judgePin'
import { engineering, ohms } from '../../units/format'
import { about, componentIdOf, freeNames, pinAt, report, type Rule } from '../context'

/** Above this a state holds nothing, ohm. */
const OPEN_OHM = 1e6
const SOURCE = 'An input without a resistor to either side follows hum, neighbours and damp.'

/** An input nothing holds in some state of its part. */
export const floatingInput: Rule = {
  id: 'floating-input',
  severity: 'fix',
  when: 'In some state of the part nothing holds the input, and neither chip nor design has a pull on it.',
  source: SOURCE,
  check: (context) =>
    context.lines.flatMap((line) => {
      const { design, board } = context
      const pin = pinAt(context, line)
      if (
        !pin ||
        line.terminal.board === 'drives' ||
        line.terminal.outsidePull ||
        line.bus ||
        line.pulls.length > 0 ||
        line.terminal.needs === 'analog'
      )
        return []
      const open = line.terminal.states.find((s) => s.level === 'open' && s.ohm >= OPEN_OHM)
      const wanted = line.terminal.pull ?? 'up'
      if (!open || (line.terminal.pull && pullServes(pin, wanted))) return []
      const far = line.part.cableM > 2 || line.part.outdoor
      const ohm = far ? 3300 : 10_000
      return [
        report(line.key, {
          ...about(design, line),
          sentence: `Nothing holds ${line.part.label} ${line.terminal.label} when it is “${open.name}”, and ${pin.label} has no pull inside.`,
          steps: [
            {
              gives: 'resistor',
              formula: far ? 'outdoors or longer than 2 m: 2.2 to 4.7 kΩ' : '10 kΩ on short wires',
              numbers: `${line.part.cableM} m`,
              result: ohms(ohm),
            },
            {
              gives: 'current when closed',
              formula: 'I = VDD / R',
              numbers: `${board.logicV} V / ${ohms(ohm)}`,
              result: engineering(board.logicV / ohm, 'A'),
            },
          ],
          remedies: [
            adding(`Add ${ohms(ohm)} to ${wanted === 'up' ? '3.3 V' : 'ground'}`, componentIdOf(line.key, 'pull'), {
              type: 'pull',
              line: line.key,
              names: freeNames(design, 'R'),
              level: wanted === 'up' ? 'high' : 'low',
              ohm,
              tolerance: 0.05,
            }),
          ],
          calculation: {
            id: 'pull',
            target: { line: line.key, level: wanted === 'up' ? 'high' : 'low' },
            given: {
              supplyV: board.supplyV.min,
              highV: board.input.highRatio * board.supplyV.min,
              leakA: line.terminal.leakA ?? 1e-6,
              wettingA: board.logicV / ohm,
              value: ohm,
            },
          },
        }),
      ]
    }),
}
