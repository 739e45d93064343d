import { addedOn } from '../../design/design'
import { about, componentIdOf, feedOf, freeNames, report, type Rule } from '../context'

/** Loads of a stage that are coils. */
const COIL_LOADS: readonly (string | number)[] = ['fan up to 24 V', 'pump']
const SOURCE = 'V = L · di/dt: a coil that is switched off drives its voltage up until something conducts.'

/** A coil whose current has nowhere to go when it is switched off. */
export const coilWithoutPath: Rule = {
  id: 'coil-without-path',
  severity: 'stop',
  when: 'A line switches a coil, a motor or a valve, and there is no diode across it.',
  source: SOURCE,
  check: (context) => context.lines.flatMap((line) => {
    const { design } = context
    const { coil } = line.terminal
    const load = line.kind.contacts ? undefined : line.part.settings.load
    const isCoil = coil ? !coil.diode : load !== undefined && line.terminal.needs === 'pwm' && COIL_LOADS.includes(load)
    if (!isCoil || addedOn(design, line.key, 'diode')) return []
    const supply = feedOf(context, line.part, line.terminal.input?.from)
    return [report('coil-without-path', line.key, {
      severity: 'stop', ...about(design, line),
      sentence: `${line.part.label} switches a coil with no diode across it: the transistor dies when it is switched off.`,
      steps: [{ gives: 'the diode stands', formula: 'V_R ≥ 2 · V, I_F ≥ I_coil', numbers: supply ? `2 · ${supply.max} V` : 'twice the supply of the load', result: 'rectifier diode, 1 A, cathode to plus' }],
      source: SOURCE,
      remedies: [{ label: 'Diode across the coil', edits: [{ kind: 'add-component', componentId: componentIdOf(line.key, 'diode'), component: { type: 'diode', line: line.key, names: freeNames(design, 'D') } }] }],
    })]
  }),
}
