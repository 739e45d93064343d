import { adding } from '../remedies'
import { lineName } from '../../lines/lines'
import { ohms } from '../../units/format'
import { componentIdOf, freeNames, report, type Rule, signalOfLine } from '../context'

/** A line whose part asks for a resistor outside the chip, and there is none. */
export const outsidePullMissing: Rule = {
  id: 'outside-pull-missing',
  severity: 'fix',
  when: 'A part needs a pull resistor outside the chip and the design has none on that line.',
  source: 'Data sheet of the part.',
  check: ({ design, board, lines }) =>
    lines.flatMap((line) => {
      const pull = line.terminal.outsidePull
      const pin = design.plan.pins[line.key]
      if (!pull || pin === undefined) return []
      if (Object.values(design.added).some((c) => c.type === 'pull' && c.line === line.key)) return []
      const [name] = freeNames(design, 'R')
      return [
        report(line.key, {
          bench: 'wires',
          signalId: signalOfLine(design, line),
          partId: line.partId,
          sentence: `${lineName(line)} needs ${ohms(pull.ohm)} to ${pull.level === 'high' ? '3.3 V' : 'ground'}.`,
          steps: [
            {
              gives: 'recovery of the line over 1 m of cable',
              formula: 't = 2.2 · R · C',
              numbers: `R ${ohms(pull.ohm)} (inside the chip ${ohms(board.pulls.upOhm)}), C 110 pF`,
              result: `${(2.2 * pull.ohm * 110e-12 * 1e6).toFixed(1)} µs, not ${(2.2 * board.pulls.upOhm * 110e-12 * 1e6).toFixed(0)} µs`,
            },
          ],
          source: pull.reason,
          remedies: [
            adding(`Add ${ohms(pull.ohm)}`, componentIdOf(line.key, 'pull'), {
              type: 'pull',
              line: line.key,
              names: [name],
              level: pull.level,
              ohm: pull.ohm,
              tolerance: 0.05,
            }),
          ],
        }),
      ]
    }),
}
