import { replacing } from '../remedies'
import type { AddedComponent, Design } from '../../model/design'
import { chooseFuse } from '../../calculations/fuseCalculation'
import { ampacityA } from '../../calculations/wireCalculation'
import { type LoadedRail, railLoads } from '../../power/railLoads'
import { engineering } from '../../units/format'
import { type CheckContext, type Reported, type Rule, componentIdOf, freeNames, report } from '../context'

const SOURCE =
  'A fuse protects the wire behind it: at least 1.25 times the load, at most what the wire carries (6 A/mm²).'

/** A source that can heat its wire until it burns. */
export const fuseMissing: Rule = {
  id: 'fuse-missing',
  severity: 'fix',
  when: 'A cell, a lead battery or a strong supply feeds wires without a fuse, or with one above what they carry.',
  source: SOURCE,
  check: (context) => {
    const loaded = railLoads(context.design, context.board, context.catalog)
    return context.parts.flatMap(({ id, part, kind }) => {
      if (kind.terminals.some((s) => s.role === 'supply')) return []
      return kind.terminals.flatMap((t) => {
        const on = loaded.find((l) => l.rail.id === `${id}.${t.id}`)
        return t.role === 'source' ? (judge(context, { id, part, kind }, t, on) ?? []) : []
      })
    })
  },
}

/** Thinnest of the wires that leave a source, mm². */
function thinnest({ design, wiring }: CheckContext, partId: string, terminal: string): number {
  const wires = wiring.wires.filter((w) =>
    [w.from, w.to].some(
      (e) =>
        (e.kind === 'part' && e.partId === partId && e.terminal === terminal) ||
        (e.kind === 'rail' && e.rail === `${partId}.${terminal}`),
    ),
  )
  return Math.min(...wires.map((w) => design.wires[w.key]?.gaugeMm2 ?? 0.5))
}

function judge(
  context: CheckContext,
  { id, part, kind }: CheckContext['parts'][number],
  source: { id: string; limitA: number },
  on: LoadedRail | undefined,
): Reported | null {
  const { design } = context
  const rail = `${id}.${source.id}`
  const gauge = thinnest(context, id, source.id)
  const battery = kind.cell !== undefined && kind.cell.innerOhm < 0.3
  const [fuseId, fuse] = fuseOf(design, rail)
  const over = fuse !== null && fuse.ratedA > ampacityA(gauge)
  const [loadA, startA] = [on?.peakA ?? 0, on?.startA ?? 0]
  // A quick fuse melts at a start of about twice its rating; a time-lag one waits for ten.
  const quick = fuse !== null && !fuse.slow && startA > fuse.ratedA * 2
  if (fuse ? !over && !quick : !battery && source.limitA <= ampacityA(gauge)) return null
  const ratedA = chooseFuse(Math.max(loadA, startA / 10), gauge)
  return report(rail, {
    partId: id,
    sentence: sentence(part.label, fuse, over, gauge, startA),
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
        : [fitting(fuseId, { rail, ratedA, slow: startA > ratedA * 2, names: fuse?.names ?? freeNames(design, 'F') })],
    calculation: { id: 'fuse', target: { rail }, given: { loadA, gaugeMm2: gauge, value: ratedA ?? 1 } },
  })
}

type Fuse = Extract<AddedComponent, { type: 'fuse' }>

function fuseOf(design: Design, rail: string): [string, Fuse] | [undefined, null] {
  for (const [id, c] of Object.entries(design.added)) if (c.type === 'fuse' && c.rail === rail) return [id, c]
  return [undefined, null]
}

function sentence(label: string, fuse: Fuse | null, over: boolean, gauge: number, startA: number): string {
  if (!fuse) return `${label} has no fuse: in a short circuit its wires burn before it gives up.`
  const rated = engineering(fuse.ratedA, 'A')
  return over
    ? `${fuse.names[0]} of ${label} lets ${rated} through ${gauge} mm², which carries ${engineering(ampacityA(gauge), 'A')}.`
    : `${fuse.names[0]} of ${label} is a quick one of ${rated}, and ${engineering(startA, 'A')} flow when the largest load starts: it blows for nothing.`
}

const fitting = (old: string | undefined, fuse: Omit<Fuse, 'type'>) =>
  replacing(
    `Fuse ${engineering(fuse.ratedA, 'A')}${fuse.slow ? ', time-lag' : ''}`,
    old,
    componentIdOf(fuse.rail, 'fuse'),
    { type: 'fuse', ...fuse },
  )
