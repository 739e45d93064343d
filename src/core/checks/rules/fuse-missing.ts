import { chooseFuse } from '../../calculations/fuseCalculation'
import { ampacityA } from '../../calculations/wireCalculation'
import { railLoads } from '../../power/railLoads'
import { engineering } from '../../units/format'
import { componentIdOf, freeNames, report, type Rule } from '../context'

const SOURCE =
  'A fuse protects the wire behind it: at least 1.25 times the load, at most what the wire carries (6 A/mm²).'

/** A source that can heat its wire until it burns. */
export const fuseMissing: Rule = {
  id: 'fuse-missing',
  severity: 'fix',
  when: 'A cell, a lead battery or a strong supply feeds wires without a fuse, or with one above what they carry.',
  source: SOURCE,
  check: (context) => {
    const { design, board, catalog } = context
    const loaded = railLoads(design, board, catalog)
    return context.parts.flatMap(({ id, part, kind }) =>
      kind.terminals.flatMap((t) => {
        if (t.role !== 'source' || kind.terminals.some((s) => s.role === 'supply')) return []
        const rail = `${id}.${t.id}`
        const wires = context.wiring.wires.filter((w) =>
          [w.from, w.to].some(
            (e) =>
              (e.kind === 'part' && e.partId === id && e.terminal === t.id) || (e.kind === 'rail' && e.rail === rail),
          ),
        )
        const gauge = Math.min(...wires.map((w) => design.wires[w.key]?.gaugeMm2 ?? 0.5))
        const battery = kind.cell !== undefined && kind.cell.innerOhm < 0.3
        const fuse = Object.values(design.added).find((c) => c.type === 'fuse' && c.rail === rail)
        const over = fuse?.type === 'fuse' && fuse.ratedA > ampacityA(gauge)
        const on = loaded.find((l) => l.rail.id === rail)
        const [loadA, startA] = [on?.peakA ?? 0, on?.startA ?? 0]
        // A quick fuse melts at a start of about twice its rating; a time-lag one waits for ten.
        const quick = fuse?.type === 'fuse' && !fuse.slow && startA > fuse.ratedA * 2
        if (fuse && !over && !quick) return []
        if (!fuse && !battery && t.limitA <= ampacityA(gauge)) return []
        const ratedA = chooseFuse(Math.max(loadA, startA / 10), gauge)
        const slow = ratedA !== null && startA > ratedA * 2
        const unfit =
          fuse?.type === 'fuse'
            ? `${fuse.names[0]} of ${part.label} lets ${engineering(fuse.ratedA, 'A')} through ${gauge} mm², which carries ${engineering(ampacityA(gauge), 'A')}.`
            : `${part.label} has no fuse: in a short circuit its wires burn before it gives up.`
        return [
          report(rail, {
            partId: id,
            sentence:
              quick && !over
                ? `${fuse.names[0]} of ${part.label} is a quick one of ${engineering(fuse.ratedA, 'A')}, and ${engineering(startA, 'A')} flow when the largest load starts: it blows for nothing.`
                : unfit,
            steps: [
              {
                gives: 'at least',
                formula: '1.25 · Σ I_peak',
                numbers: `1.25 · ${engineering(loadA, 'A')}`,
                result: engineering(loadA * 1.25, 'A'),
              },
              {
                gives: 'at most',
                formula: '6 A/mm² · A',
                numbers: `6 · ${gauge} mm²`,
                result: engineering(ampacityA(gauge), 'A'),
              },
            ],
            remedies:
              ratedA === null
                ? []
                : [
                    {
                      label: `Fuse ${engineering(ratedA, 'A')}${slow ? ', time-lag' : ''}`,
                      edits: [
                        ...Object.entries(design.added).flatMap(([cid, c]) =>
                          c === fuse ? [{ kind: 'remove-component' as const, componentId: cid }] : [],
                        ),
                        {
                          kind: 'add-component',
                          componentId: componentIdOf(rail, 'fuse'),
                          component: {
                            type: 'fuse',
                            rail,
                            names: fuse?.type === 'fuse' ? fuse.names : freeNames(design, 'F'),
                            ratedA,
                            slow,
                          },
                        },
                      ],
                    },
                  ],
            calculation: { id: 'fuse', target: { rail }, given: { loadA, gaugeMm2: gauge, value: ratedA ?? 1 } },
          }),
        ]
      }),
    )
  },
}
