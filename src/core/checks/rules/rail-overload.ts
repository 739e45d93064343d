import { byOne, feeding, replacing } from '../remedies'
import { type LoadedRail, railLoads } from '../../power/railLoads'
import { railSuits } from '../../power/rails'
import { engineering, farads } from '../../units/format'
import { nearestIn } from '../../units/eSeries'
import { type CheckContext, componentIdOf, feedable, freeNames, report, type Rule } from '../context'
import type { Design } from '../../model/design'
import type { Remedy } from '../finding'

const SOURCE = 'Sum of the peaks that can come together, the radio’s always, against what feeds the rail.'

/** More on a rail than feeds it. */
export const railOverload: Rule = {
  id: 'rail-overload',
  severity: 'stop',
  when: 'The peaks of everything on a rail, passed on through regulators and converters, or one of them starting while the rest works, exceed what feeds it.',
  source: SOURCE,
  check: (context) => {
    const all = railLoads(context.design, context.board, context.catalog)
    return all.flatMap((loaded) => {
      const { rail, loads, peakA } = loaded
      // The logic rail feeds the chip first: what parts may take beside it is the rail's own limit.
      const limitA = rail.id === '3V3' ? context.board.currents.radioPeakA + rail.limitA : rail.limitA
      if (loads.length === 0 || rail.through !== null || Math.max(peakA, loaded.startA) <= limitA * 0.9) return []
      // The radio's peak lasts a millisecond: a capacitor can bridge it, but nothing else.
      const burstA = Math.max(0, context.board.currents.radioPeakA - context.board.currents.activeA) * loaded.radioShare
      // What parts alone take too much of the logic rail is no matter of bursts.
      const outsideA = loads.reduce((s, l) => s + (l.partId === null ? 0 : l.peakA), 0)
      const steadyA = rail.id === '3V3' && outsideA > rail.limitA ? peakA : peakA - burstA
      const farad = nearestIn('E12', Math.max(1e-5, ((peakA - limitA) * BURST_S) / SAG_V), 'up')
      const bulk = Object.entries(context.design.added).find(([, c]) => c.type === 'bulk' && c.rail === rail.id)
      const bridged = bulk?.[1].type === 'bulk' && bulk[1].farad >= farad * 0.999
      const over = peakA > limitA && !(bridged && steadyA <= limitA)
      const starting =
        !over && loaded.startA > peakA + 1e-9 && loaded.startA - (bridged ? burstA : 0) > limitA
          ? [...loads].sort((a, b) => b.startA - b.peakA - (a.startA - a.peakA))[0]
          : undefined
      // A board alone near the edge of what USB gives is how such boards are.
      if (!over && !starting && loads.every((l) => l.partId === null)) return []
      const overSeverity = steadyA > limitA ? 'stop' : 'fix'
      return [
        report(rail.id, {
          severity: starting ? 'fix' : !over ? 'note' : overSeverity,
          sentence: starting
            ? `${starting.label} starts with ${engineering(starting.startA, 'A')}: ${rail.name} then has to give ${engineering(loaded.startA, 'A')}, and ${rail.source} gives ${engineering(limitA, 'A')}.`
            : `${rail.name} may have to give ${engineering(Math.max(peakA, over ? 0 : loaded.startA), 'A')}${over && steadyA <= limitA ? ' for the moment of a radio burst' : ''}; ${rail.source} gives ${engineering(limitA, 'A')}${bridged && peakA > limitA ? `, and ${bulk?.[1].names[0]} bridges the radio’s bursts` : ''}.`,
          steps: [
            ...loads.map((l) => ({
              gives: l.label,
              formula: 'peak',
              numbers: `at rest ${engineering(l.idleA, 'A')}`,
              result: engineering(l.peakA, 'A'),
            })),
            {
              gives: 'together',
              formula: 'Σ I_peak',
              numbers: `${loads.length} loads`,
              result: engineering(peakA, 'A'),
            },
            ...(burstA > 0
              ? [
                  {
                    gives: 'without the radio’s burst',
                    formula: 'Σ I_peak − I_burst',
                    numbers: `${engineering(peakA, 'A')} − ${engineering(burstA, 'A')}`,
                    result: engineering(steadyA, 'A'),
                  },
                ]
              : []),
            ...(over && steadyA <= limitA
              ? [
                  {
                    gives: 'capacitor that bridges a burst',
                    formula: 'C = I · Δt / ΔV',
                    numbers: `${engineering(peakA - limitA, 'A')} · 3 ms / 0.3 V`,
                    result: farads(farad),
                  },
                ]
              : []),
          ],
          remedies: starting
            ? [...largerSupply(context, loaded), ...elsewhere(context, loaded, all, loaded.startA - limitA)]
            : !over
              ? []
              : [
                  ...(steadyA <= limitA && farad <= 0.0047
                    ? [
                        replacing(
                          `Capacitor ${farads(farad)} at ${rail.name}`,
                          bulk?.[0],
                          bulk?.[0] ?? componentIdOf(rail.id.toLowerCase(), 'bulk'),
                          {
                            type: 'bulk',
                            rail: rail.id,
                            names: bulk?.[1].type === 'bulk' ? bulk[1].names : freeNames(context.design, 'C'),
                            farad,
                          },
                        ),
                      ]
                    : []),
                  ...largerSupply(context, loaded),
                  ...elsewhere(context, loaded, all, peakA - limitA),
                ],
        }),
      ]
    })
  },
}

/** Sizes supplies are sold in, A. */
const SUPPLIES_A = [1, 2, 3, 5, 8.5, 10, 12.5, 15, 20, 25, 30]

/** The same supply in a size that gives all of it. */
function largerSupply({ design, catalog }: CheckContext, { rail, startA }: LoadedRail): Remedy[] {
  const part = design.parts[rail.partId ?? '']
  const source = catalog.parts[part?.kind ?? '']?.terminals.find(
    (t) => t.role === 'source' && rail.id.endsWith(`.${t.id}`),
  )
  const size = SUPPLIES_A.find((a) => a >= startA * 1.1)
  if (!part || rail.partId === null || source?.role !== 'source' || source.limitBy === undefined || size === undefined)
    return []
  return [
    byOne(`${part.label} of ${size} A`, {
      kind: 'set-part',
      partId: rail.partId,
      setting: source.limitBy,
      value: size,
    }),
  ]
}

const BURST_S = 0.003
const SAG_V = 0.3

/** The largest part moved to a rail it stands that still has room. */
function elsewhere(
  context: CheckContext,
  { rail, loads }: LoadedRail,
  all: readonly LoadedRail[],
  excessA: number,
): Remedy[] {
  const { design, catalog } = context
  const largest = [...loads].filter((l) => l.partId !== null).sort((a, b) => b.peakA - a.peakA)[0]
  const part = largest?.partId ? design.parts[largest.partId] : undefined
  const kind = part && catalog.parts[part.kind]
  if (!largest?.partId || !part || !kind) return []
  const out: Remedy[] = []
  for (const t of kind.terminals) {
    if (t.role !== 'supply' || part.feeds[t.id] !== rail.id) continue
    for (const rails of feedable(context, largest.partId, t)) {
      const other = all.find((o) => o.rail.id === rails.id)
      if (
        !other ||
        other.rail.id === rail.id ||
        other.startA + largest.startA > other.rail.limitA ||
        comesFrom(design, other.rail.id, rail.id)
      )
        continue
      if (rail.partId !== null && other.rail.partId === null && largest.peakA < excessA) continue
      out.push(
        feeding(
          `Feed ${part.label} from ${other.rail.name}`,
          { partId: largest.partId, terminal: t.id },
          other.rail.id,
        ),
      )
    }
    const own = `own${largest.partId}`.slice(0, 24)
    const supply = catalog.parts['supply-5v']?.terminals.find((x) => x.role === 'source')
    if (
      out.length > 0 ||
      supply?.role !== 'source' ||
      own in design.parts ||
      largest.startA > supply.limitA ||
      railSuits({ min: supply.minV, max: supply.maxV }, t) !== 'well'
    )
      continue
    out.push({
      label: `Own 5 V supply for ${part.label}`,
      edits: [
        { kind: 'add-part', partId: own, part: 'supply-5v', label: '5 V supply', signals: [] },
        { kind: 'feed', partId: largest.partId, terminal: t.id, rail: `${own}.out` },
      ],
    })
  }
  return out.filter((r) => r.edits.length > 0).slice(0, 2)
}

/**
 * True where a rail gets its current from another, through converters or the board: moving a load from one to the other
 * changes nothing.
 */
function comesFrom(design: Design, rail: string, from: string, depth = 0): boolean {
  if (rail === from) return true
  if (depth > 8) return false
  const dot = rail.indexOf('.')
  // The board's own rails come from what feeds the board.
  const fallback = rail === 'VSYS' ? ['5V'] : []
  const parents =
    dot < 0
      ? [...(rail === '3V3' ? ['VSYS', '5V'] : fallback), ...(design.boardFeed === null ? [] : [design.boardFeed])]
      : Object.values(design.parts[rail.slice(0, dot)]?.feeds ?? {})
  return parents.some((p) => p !== rail && comesFrom(design, p, from, depth + 1))
}
