import { lineName } from '../../lines/lines'
import { about, report, type Rule } from '../context'

/** A pulse-width output faster than its chip makes it. */
export const pwmTooFast: Rule = {
  id: 'pwm-too-fast',
  severity: 'stop',
  when: 'A pulse-width output asks for a higher frequency than the chip makes.',
  source: 'Chip data sheet and its interpreter’s documentation.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const hz = line.terminal.pwmHz
      const { maxHz } = context.board.peripherals.pwm
      if (line.terminal.needs !== 'pwm' || hz === undefined || hz <= maxHz) return []
      return [
        report(line.key, {
          bench: 'pins',
          ...about(context.design, line),
          sentence: `${lineName(line)} wants ${hz} Hz, and this chip makes ${maxHz} Hz at most: another board.`,
        }),
      ]
    }),
}
