import { addedOn } from '../../design/design'
import { nearestIn } from '../../units/eSeries'
import { engineering, ohms, volts } from '../../units/format'
import { about, componentIdOf, freeNames, pinAt, report, type Rule } from '../context'
import type { EditBody } from '../../design/edit'

const LONG_M = 2
const SOURCE = 'Practice for wires longer than 2 m or outdoors: 100 Ω to 1 kΩ in series, a clamp, and a pull of 2.2 to 4.7 kΩ.'
const SERIES_OHM = 470

/** A long or outdoor wire straight at an input. */
export const longWire: Rule = {
  id: 'long-wire',
  severity: 'fix',
  when: 'A wire longer than 2 m, or outdoors, ends at an input without protection.',
  source: SOURCE,
  check: (context) => context.lines.flatMap((line) => {
    const { design, board } = context
    const pin = pinAt(context, line)
    const { cableM, outdoor } = line.part
    if (!pin || (cableM <= LONG_M && !outdoor) || line.terminal.board === 'drives' || line.bus || line.terminal.needs === 'analog' || addedOn(design, line.key, 'optocoupler')) return []
    const missing = { series: !addedOn(design, line.key, 'series') && !addedOn(design, line.key, 'divider'), clamp: !addedOn(design, line.key, 'clamp'), pull: line.terminal.pull !== undefined && !line.pulls.some((p) => p.ohm <= 4700) }
    if (!missing.series && !missing.clamp && !missing.pull) return []
    const edits: EditBody[] = []
    const names = freeNames(design, 'R', 'D', 'R')
    const old = addedOn(design, line.key, 'pull')
    if (missing.series) edits.push({ kind: 'add-component', componentId: componentIdOf(line.key, 'series'), component: { type: 'series', line: line.key, names: [names[0]], ohm: SERIES_OHM, tolerance: 0.05 } })
    if (missing.clamp) edits.push({ kind: 'add-component', componentId: componentIdOf(line.key, 'clamp'), component: { type: 'clamp', line: line.key, names: [names[1]] } })
    if (missing.pull && old) edits.push({ kind: 'remove-component', componentId: old.id })
    if (missing.pull) edits.push({ kind: 'add-component', componentId: old?.id ?? componentIdOf(line.key, 'pull'), component: { type: 'pull', line: line.key, names: old?.value.names ?? [names[2]], level: line.terminal.pull === 'down' ? 'low' : 'high', ohm: 3300, tolerance: 0.05 } })
    const low = (board.supplyV.max * SERIES_OHM) / (SERIES_OHM + 3300)
    return [report('long-wire', line.key, {
      severity: outdoor ? 'fix' : 'note', ...about(design, line), source: SOURCE,
      sentence: `${line.part.label} comes in over ${cableM} m${outdoor ? ' from outside' : ''}: ${[...(missing.series ? ['a series resistor'] : []), ...(missing.clamp ? ['a clamp'] : []), ...(missing.pull ? ['a stronger pull'] : [])].join(', ')} at the board.`,
      steps: [
        { gives: 'still read as low', formula: 'V = VDD · R_s / (R_s + R_pull)', numbers: `${volts(board.supplyV.max)} · ${ohms(SERIES_OHM)} / (${ohms(SERIES_OHM)} + ${ohms(nearestIn('E24', 3300))})`, result: `${volts(low)} of ${volts(board.input.lowRatio * board.supplyV.min)}` },
        { gives: 'current at the pin from a spike of 30 V', formula: '(30 V − V_clamp) / R_s', numbers: `30 V, ${ohms(SERIES_OHM)}`, result: engineering((30 - 3.6) / SERIES_OHM, 'A') },
      ],
      remedies: [{ label: `Add ${[...(missing.series ? [ohms(SERIES_OHM)] : []), ...(missing.clamp ? ['clamp'] : []), ...(missing.pull ? ['3.3 kΩ pull'] : [])].join(', ')}`, edits }],
    })]
  }),
}
