import { inputMaxV } from '../../catalog/board'
import { addedOn } from '../../design/design'
import { engineering, volts } from '../../units/format'
import { isLoop } from './loop-states'
import { about, report, type Rule } from '../context'
import { scaleRemedy } from '../lineRemedies'

const SOURCE = 'Chip data sheet: span over which the converter is straight; Ohm’s law for the divider.'

/** A voltage to measure that leaves what the converter measures well. */
export const adcSpan: Rule = {
  id: 'adc-span',
  severity: 'fix',
  when: 'The span of an analog part, through its divider, leaves what the converter measures well.',
  source: SOURCE,
  check: ({ design, board, lines }) => lines.flatMap((line) => {
    const span = line.terminal.spanV
    if (line.terminal.needs !== 'analog' || !span || isLoop(line) || line.kind.channels.some((c) => c.driver === 'keys') || design.plan.pins[line.key] === undefined) return []
    const divider = addedOn(design, line.key, 'divider')?.value
    const share = divider ? divider.bottomOhm / (divider.topOhm + divider.bottomOhm) : 1
    const worst = divider ? (divider.bottomOhm * (1 + divider.tolerance)) / (divider.topOhm * (1 - divider.tolerance) + divider.bottomOhm * (1 + divider.tolerance)) : 1
    const { minV, maxV, bits, fullV } = board.analog
    const [lowV, highV] = [span.min * share, span.max * worst]
    const over = highV > maxV + 1e-9
    if (!over && lowV >= minV - 1e-9) return []
    // Above what the pin stands is another rule's business, unless no output is stated.
    const severity = highV > inputMaxV(board) ? 'stop' : 'fix'
    const channel = line.channels.find((c) => c.access === 'reading')
    const perVolt = channel?.access === 'reading' ? (channel.range.max - channel.range.min) / (span.max - span.min) : null
    const lost = over ? Math.min(1, (highV - maxV) / (highV - lowV)) : Math.min(1, (minV - lowV) / (highV - lowV))
    return [report('adc-span', line.key, {
      severity: over ? severity : 'note', ...about(design, line), source: SOURCE,
      sentence: over ? `${line.part.label} gives up to ${volts(highV)} at the pin; the converter measures up to ${volts(maxV)}: the upper ${(lost * 100).toFixed(0)} % are lost.` : `${line.part.label} gives ${volts(lowV)} at its lowest; the converter measures well from ${volts(minV)}.`,
      steps: [
        { gives: 'span at the pin', formula: 'V · R2 / (R1 + R2)', numbers: `${volts(span.min)} … ${volts(span.max)} · ${share.toFixed(3)}`, result: `${volts(lowV)} … ${volts(highV)}` },
        { gives: 'one step of the converter', formula: 'V_full / 2ⁿ / share', numbers: `${fullV} V / ${2 ** bits} / ${share.toFixed(3)}`, result: perVolt === null ? engineering(fullV / 2 ** bits / share, 'V') : engineering((fullV / 2 ** bits / share) * perVolt, channel?.unit ?? '') },
      ],
      remedies: over ? scaleRemedy(design, board, line, span.max) : [],
    })]
  }),
}
