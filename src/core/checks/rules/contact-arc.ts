import { replacing } from '../remedies'
import { switchesOf } from '../../power/switching'
import { engineering } from '../../units/format'
import { componentIdOf, freeNames, report, type Rule, signalOfPart } from '../context'
import { diodeFor, isCoil } from './coil-without-path'

/**
 * A coil or a motor on a contact with nothing to take its current: the contact burns and the spark disturbs the chip.
 */
export const contactArc: Rule = {
  id: 'contact-arc',
  severity: 'fix',
  when: 'A contact switches a coil or a motor of the design, and nothing lies across that.',
  source:
    'Relay data sheets: on direct current a diode across the load, on alternating current a resistor with a capacitor or a varistor, never a diode.',
  check: ({ design, catalog }) =>
    switchesOf(design, catalog)
      .filter((s) => s.way === 'closes' || s.way === 'opens')
      .flatMap((s) =>
        s.loads.filter(isCoil).flatMap((load) => {
          if (load.partId === null) return []
          const there = Object.entries(design.added).find(([, c]) => c.type === 'quench' && c.part === load.partId)
          const quench = there?.[1].type === 'quench' ? there[1] : null
          const wrong =
            quench && (load.ac ? quench.device === 'diode' : quench.device === 'diode' && quench.ratedA < load.runA)
          if (quench && !wrong) return []
          const device = load.ac ? ('rc' as const) : ('diode' as const)
          const ratedA = diodeFor(load.runA)
          return [
            report(load.partId, {
              severity: wrong && load.ac ? 'stop' : 'fix',
              bench: 'wires',
              partId: load.partId,
              signalId: signalOfPart(design, s.partId),
              sentence: wrong
                ? `${quench.names[0]} across ${load.label} ${load.ac ? 'is a diode on alternating current: it shorts every second half-wave' : `carries ${engineering(quench.ratedA, 'A')}, the load ${engineering(load.runA, 'A')}`}.`
                : `${load.label} hangs on a contact of ${s.part.label} with nothing across it: the spark burns the contact and restarts the board.`,
              remedies: [
                replacing(
                  load.ac
                    ? 'Resistor and capacitor across the load'
                    : `Diode, ${engineering(ratedA, 'A')}, across the load`,
                  there?.[0],
                  there?.[0] ?? componentIdOf(load.partId, 'quench'),
                  {
                    type: 'quench',
                    part: load.partId,
                    names: quench?.names ?? freeNames(design, 'D'),
                    device,
                    ratedA,
                  },
                ),
              ],
            }),
          ]
        }),
      ),
}
