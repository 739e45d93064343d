import { chooseFuse } from '../../arithmetic/fuseSum'
import { ampacityA } from '../../arithmetic/wireSum'
import { railLoads } from '../../power/railLoads'
import { engineering } from '../../units/format'
import { componentIdOf, freeNames, report, type Rule } from '../context'

const SOURCE = 'A fuse protects the wire behind it: at least 1.25 times the load, at most what the wire carries (6 A/mm²).'

/** A source that can heat its wire until it burns. */
export const fuseMissing: Rule = {
  id: 'fuse-missing',
  severity: 'fix',
  when: 'A cell, a lead battery or a strong supply feeds wires without a fuse, or with one above what they carry.',
  source: SOURCE,
  check: (context) => {
    const { design, board, catalog } = context
    const loaded = railLoads(design, board, catalog)
    return context.parts.flatMap(({ id, part, kind }) => kind.terminals.flatMap((t) => {
      if (t.role !== 'source' || kind.terminals.some((s) => s.role === 'supply')) return []
      const rail = `${id}.${t.id}`
      const wires = context.wiring.wires.filter((w) => [w.from, w.to].some((e) => (e.kind === 'part' && e.partId === id && e.terminal === t.id) || (e.kind === 'rail' && e.rail === rail)))
      const gauge = Math.min(...wires.map((w) => design.wires[w.key]?.gaugeMm2 ?? 0.5))
      const battery = kind.cautions.some((c) => c.id === 'lithium' || c.id === 'lead')
      const fuse = Object.values(design.added).find((c) => c.type === 'fuse' && c.rail === rail)
      const over = fuse?.type === 'fuse' && fuse.ratedA > ampacityA(gauge)
      if (fuse && !over) return []
      if (!fuse && !battery && t.limitA <= ampacityA(gauge)) return []
      const loadA = loaded.find((l) => l.rail.id === rail)?.peakA ?? 0
      const ratedA = chooseFuse(loadA, gauge)
      return [report('fuse-missing', rail, {
        severity: 'fix', partId: id, source: SOURCE,
        sentence: fuse?.type === 'fuse' ? `${fuse.names[0]} of ${part.label} lets ${engineering(fuse.ratedA, 'A')} through ${gauge} mm², which carries ${engineering(ampacityA(gauge), 'A')}.` : `${part.label} has no fuse: in a short circuit its wires burn before it gives up.`,
        steps: [{ gives: 'at least', formula: '1.25 · Σ I_peak', numbers: `1.25 · ${engineering(loadA, 'A')}`, result: engineering(loadA * 1.25, 'A') }, { gives: 'at most', formula: '6 A/mm² · A', numbers: `6 · ${gauge} mm²`, result: engineering(ampacityA(gauge), 'A') }],
        remedies: ratedA === null ? [] : [{ label: `Fuse ${engineering(ratedA, 'A')}`, edits: [...Object.entries(design.added).flatMap(([cid, c]) => (c === fuse ? [{ kind: 'remove-component' as const, componentId: cid }] : [])), { kind: 'add-component', componentId: componentIdOf(rail, 'fuse'), component: { type: 'fuse', rail, names: fuse?.type === 'fuse' ? fuse.names : freeNames(design, 'F'), ratedA } }] }],
        sum: { id: 'fuse', target: { rail }, given: { loadA, gaugeMm2: gauge, value: ratedA ?? 1 } },
      })]
    }))
  },
}
