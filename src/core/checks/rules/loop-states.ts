import { replacing } from '../remedies'
import { addedOn } from '../../model/design'
import { nearestIn } from '../../units/eSeries'
import { ohms, volts } from '../../units/format'
import { isLoop } from '../../wiring/analogPath'
import { about, componentIdOf, report, type Rule } from '../context'

/** States this far apart are told surely, as a share of the converter's span. */
const APART = 0.12
const SOURCE =
  'Divider of the pull-up and the loop’s resistance in each of its states, both at 5 % of tolerance, with the board’s own load.'

/** An old loop that keeps its end resistor: are its states far enough apart. */
export const loopStates: Rule = {
  id: 'loop-states',
  severity: 'fix',
  when: 'An analog loop with an end resistor is read by its voltage.',
  source: SOURCE,
  check: ({ design, board, lines }) =>
    lines.flatMap((line) => {
      const states = line.terminal.states
      if (!isLoop(line) || design.plan.pins[line.key] === undefined) return []
      const pull = addedOn(design, line.key, 'pull')?.value
      if (!pull) return []
      const { loadOhm, maxV } = board.analog
      const series = addedOn(design, line.key, 'series')?.value.ohm ?? 0
      const level = (ohm: number, up: number) => {
        const r = loadOhm === null ? ohm : 1 / (1 / ohm + 1 / loadOhm)
        return Math.min(maxV, (board.logicV * r) / (r + up))
      }
      const spans = states
        .map((s) => ({
          name: s.name,
          low: level(s.ohm * 0.95 + series, pull.ohm * (1 + pull.tolerance)),
          high: level(s.ohm * 1.05 + series, pull.ohm * (1 - pull.tolerance)),
        }))
        .sort((a, b) => a.low - b.low)
      const gap = Math.min(...spans.slice(1).map((s, i) => s.low - (spans[i]?.high ?? 0)))
      const ok = gap >= APART * maxV
      const endOhm = states.find((s) => s.level === 'low' && s.ohm > 100)?.ohm ?? 5600
      const wanted = nearestIn('E24', endOhm)
      return [
        report(line.key, {
          severity: ok ? 'note' : 'fix',
          ...about(design, line),
          sentence: ok
            ? `${line.part.label}: ${spans.map((s) => `${s.name} ${volts((s.low + s.high) / 2)}`).join(', ')}; at least ${volts(gap)} apart.`
            : `${line.part.label}: its states are only ${volts(gap)} apart with ${ohms(pull.ohm)}; they need ${volts(APART * maxV)}.`,
          steps: spans.map((s) => ({
            gives: s.name,
            formula: 'V = VDD · R / (R + R_pull)',
            numbers: `R_pull ${ohms(pull.ohm)}`,
            result: `${volts(s.low)} … ${volts(s.high)}`,
          })),
          remedies:
            ok || wanted === pull.ohm
              ? []
              : [
                  replacing(
                    `Change ${pull.names[0]} to ${ohms(wanted)}`,
                    addedOn(design, line.key, 'pull')?.id ?? '',
                    componentIdOf(line.key, 'pull'),
                    { ...pull, names: pull.names, ohm: wanted },
                  ),
                ],
        }),
      ]
    }),
}
