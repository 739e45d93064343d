import { ampacityA, GAUGES, wireDropV } from '../../calculations/wireCalculation'
import { engineering, volts } from '../../units/format'
import { supplyCurrents } from '../../catalog/part'
import { feedOf, report, type Rule, signalOfPart } from '../context'

const SOURCE = 'ΔV = 2 · L · ρ · I / A with copper at 40 °C; 6 A/mm² for short extra-low voltage wiring.'

/** A supply wire that eats the voltage, or carries more than it should. */
export const wireDrop: Rule = {
  id: 'wire-drop',
  severity: 'fix',
  when: 'A part at its peak gets less than it needs over its cable, or its wire carries more than it should.',
  source: SOURCE,
  check: (context) =>
    context.parts.flatMap(({ id, part, kind }) =>
      kind.terminals.flatMap((t) => {
        if (t.role !== 'supply') return []
        const rail = feedOf(context, part, t.id)
        if (!rail) return []
        const { peakA } = supplyCurrents(t, part.settings, kind)
        const mine = context.wiring.wires.filter(
          (w) =>
            w.carries !== 'signal' &&
            w.from.kind !== 'leg' &&
            [w.from, w.to].some(
              (e) =>
                e.kind === 'part' &&
                e.partId === id &&
                (e.terminal === t.id || kind.terminals.some((g) => g.role === 'ground' && g.id === e.terminal)),
            ),
        )
        const gauge = Math.min(...mine.map((w) => context.design.wires[w.key]?.gaugeMm2 ?? 0.5))
        const dropV = wireDropV(part.cableM, peakA, gauge)
        const leftV = rail.min - dropV
        // Below two hundredths of the supply, joints and contacts lose as much.
        const starved = leftV < t.minV && rail.min >= t.minV && dropV > 0.02 * rail.min
        const hot = peakA > ampacityA(gauge)
        if (!starved && !hot) return []
        const better = GAUGES.find(
          (g) => rail.min - wireDropV(part.cableM, peakA, g) >= t.minV && peakA <= ampacityA(g),
        )
        const wires = mine.map((w) => w.key)
        return [
          report(`${id}.${t.id}`, {
            partId: id,
            signalId: signalOfPart(context.design, id),
            sentence: starved
              ? `${part.label} gets ${volts(leftV)} at its peak over ${part.cableM} m of ${gauge} mm²; it needs ${volts(t.minV)}.`
              : `${part.label} takes ${engineering(peakA, 'A')} over ${gauge} mm², which should carry ${engineering(ampacityA(gauge), 'A')}.`,
            steps: [
              {
                gives: 'lost on the way there and back',
                formula: 'ΔV = 2 · L · ρ · I / A',
                numbers: `2 · ${part.cableM} m · 0.0189 · ${engineering(peakA, 'A')} / ${gauge} mm²`,
                result: engineering(dropV, 'V'),
              },
            ],
            remedies:
              better === undefined
                ? []
                : [
                    {
                      label: `Take ${better} mm²`,
                      edits: wires.map((wire) => ({ kind: 'set-wire' as const, wire, set: { gaugeMm2: better } })),
                    },
                  ],
            calculation: {
              id: 'wire',
              target: { wires },
              given: { supplyV: rail.min, needsV: t.minV, lengthM: part.cableM, loadA: peakA, value: gauge },
            },
          }),
        ]
      }),
    ),
}
