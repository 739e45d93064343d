import { addedOn } from '../../design/design'
import { farads, ohms } from '../../units/format'
import { parallel } from '../../arithmetic/busPullSum'
import { about, componentIdOf, freeNames, report, type Rule } from '../context'

const MOST_OHM = 10_000
const SOURCE = 'Chip data sheet: the converter charges a small capacitor through the source in each sample.'

/** A source too weak for the converter, or loaded by the board's own divider. */
export const adcSource: Rule = {
  id: 'adc-source',
  severity: 'note',
  when: 'The resistance of an analog source is above 10 kΩ without a capacitor, or the board’s own divider loads it.',
  source: SOURCE,
  check: ({ design, board, lines }) => lines.flatMap((line) => {
    if (line.terminal.needs !== 'analog' || design.plan.pins[line.key] === undefined) return []
    const divider = addedOn(design, line.key, 'divider')?.value
    const from = line.terminal.sourceOhm ?? 0
    const ohm = divider ? parallel([from + divider.topOhm, divider.bottomOhm]) : from
    const isKeys = line.kind.channels.some((c) => c.driver === 'keys')
    const load = board.analog.loadOhm
    const off = load === null || isKeys ? 0 : ohm / (ohm + load)
    const weak = ohm > MOST_OHM && !addedOn(design, line.key, 'capacitor')
    if (!weak && off <= 0.01) return []
    return [report('adc-source', line.key, {
      severity: weak ? 'fix' : 'note', ...about(design, line), source: SOURCE,
      sentence: weak ? `${line.part.label} reaches the converter through ${ohms(ohm)}: without a capacitor readings come out low and lean on one another.` : `The board’s own ${ohms(load ?? 0)} load ${line.part.label}: it reads ${(off * 100).toFixed(1)} % low until it is calibrated.`,
      steps: [
        { gives: 'source', formula: divider ? '(R_s + R1) ‖ R2' : 'R_s', numbers: divider ? `(${ohms(from)} + ${ohms(divider.topOhm)}) ‖ ${ohms(divider.bottomOhm)}` : 'part data sheet', result: ohms(ohm) },
        ...(load === null ? [] : [{ gives: 'reads low by', formula: 'R_s / (R_s + R_load)', numbers: `${ohms(ohm)} / (${ohms(ohm)} + ${ohms(load)})`, result: `${(off * 100).toFixed(2)} %` }]),
      ],
      remedies: weak ? [{ label: `Add ${farads(1e-7)} at the pin`, edits: [{ kind: 'add-component', componentId: componentIdOf(line.key, 'capacitor'), component: { type: 'capacitor', line: line.key, names: freeNames(design, 'C'), farad: 1e-7 } }] }] : [],
      ...(weak ? { sum: { id: 'filter' as const, target: { line: line.key }, given: { ohm, wantsS: 0.001, value: 1e-7 } } } : {}),
    })]
  }),
}
