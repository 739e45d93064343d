import { engineering, farads, ohms } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

export const filterCalculation: Calculation = {
  id: 'filter',
  title: 'Filter of a contact or a converter',
  chooses: 'capacitor',
  source: 'Charge of a capacitor through a resistor: to 3/4 of the supply in 1.39 · R · C.',
  fields: [
    field('ohm', 'source or pull', 'Ω', 1, 1e7),
    field('wantsS', 'time wanted', 's', 1e-7, 10),
    field('value', 'capacitor', 'F', 1e-12, 0.01),
  ],
  solve: ({ ohm = 10_000, wantsS = 0.005, value = 1e-7 }) => {
    const t = 1.386 * ohm * value
    return {
      steps: [
        step('until it reads high', 't = 1.39 · R · C', `1.39 · ${ohms(ohm)} · ${farads(value)}`, engineering(t, 's')),
        step(
          'lets pass below',
          'f = 1 / (2π · R · C)',
          `1 / (2π · ${ohms(ohm)} · ${farads(value)})`,
          engineering(1 / (2 * Math.PI * ohm * value), 'Hz'),
        ),
      ],
      ok: t >= wantsS * 0.5 && t <= wantsS * 2,
      words: `${engineering(t, 's')}; wanted ${engineering(wantsS, 's')}.`,
      ideal: wantsS / (1.386 * ohm),
    }
  },
}
