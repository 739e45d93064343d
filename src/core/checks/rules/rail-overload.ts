import type { WorkingStep } from '../../working/working'
import { byOne, feeding, replacing } from '../remedies'
import { type LoadedRail, railLoads } from '../../power/railLoads'
import { railSuits } from '../../power/rails'
import { engineering, farads } from '../../units/format'
import { nearestIn } from '../../units/eSeries'
import { type CheckContext, type Reported, type Rule, componentIdOf, feedable, freeNames, report } from '../context'
import type { AddedComponent, Design } from '../../model/design'
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
      const burden = burdenOf(context, loaded)
      return burden ? [judged(context, all, burden)] : []
    })
  },
}

interface Burden extends LoadedRail {
  limitA: number
  /** The radio's part of the peak, and what is left without it, A. */
  burstA: number
  steadyA: number
  /** The capacitor that would bridge a burst, the one that is there, and whether that is enough. */
  farad: number
  bulk: { id: string; value: Bulk } | null
  bridged: boolean
  over: boolean
  /** What takes too much when it starts while the rest works. */
  starting: LoadedRail['loads'][number] | null
}
type Bulk = Extract<AddedComponent, { type: 'bulk' }>

function bulkAt(design: Design, rail: string): Burden['bulk'] {
  for (const [id, c] of Object.entries(design.added)) if (c.type === 'bulk' && c.rail === rail) return { id, value: c }
  return null
}

/** What a rail has to give against what it can; null where there is room. */
function burdenOf({ board, design }: CheckContext, loaded: LoadedRail): Burden | null {
  const { rail, loads, peakA, startA } = loaded
  const { radioPeakA, activeA } = board.currents
  // The logic rail feeds the chip first: what parts may take beside it is the rail's own limit.
  const limitA = rail.id === '3V3' ? radioPeakA + rail.limitA : rail.limitA
  if (loads.length === 0 || rail.through !== null || Math.max(peakA, startA) <= limitA * 0.9) return null
  // The radio's peak lasts a millisecond: a capacitor can bridge it, but nothing else.
  const burstA = Math.max(0, radioPeakA - activeA) * loaded.radioShare
  // What parts alone take too much of the logic rail is no matter of bursts.
  const outsideA = loads.reduce((s, l) => s + (l.partId === null ? 0 : l.peakA), 0)
  const steadyA = rail.id === '3V3' && outsideA > rail.limitA ? peakA : peakA - burstA
  const farad = nearestIn('E12', Math.max(1e-5, ((peakA - limitA) * BURST_S) / SAG_V), 'up')
  const bulk = bulkAt(design, rail.id)
  const bridged = bulk !== null && bulk.value.farad >= farad * 0.999
  const over = peakA > limitA && !(bridged && steadyA <= limitA)
  const tooMuch = startA > peakA + 1e-9 && startA - (bridged ? burstA : 0) > limitA
  const [largest = null] = [...loads].sort((a, b) => b.startA - b.peakA - (a.startA - a.peakA))
  const starting = !over && tooMuch ? largest : null
  // A board alone near the edge of what USB gives is how such boards are.
  if (!over && !starting && loads.every((l) => l.partId === null)) return null
  return { ...loaded, limitA, burstA, steadyA, farad, bulk, bridged, over, starting }
}

function judged(context: CheckContext, all: readonly LoadedRail[], b: Burden): Reported {
  return report(b.rail.id, {
    severity: severityOf(b),
    sentence: sentence(b),
    steps: steps(b),
    remedies: remedies(context, all, b),
  })
}

function severityOf({ starting, over, steadyA, limitA }: Burden): 'stop' | 'fix' | 'note' {
  if (starting) return 'fix'
  if (!over) return 'note'
  return steadyA > limitA ? 'stop' : 'fix'
}

function sentence({ rail, starting, startA, peakA, steadyA, limitA, over, bridged, bulk }: Burden): string {
  const gives = `${rail.source} gives ${engineering(limitA, 'A')}`
  if (starting)
    return `${starting.label} starts with ${engineering(starting.startA, 'A')}: ${rail.name} then has to give ${engineering(startA, 'A')}, and ${gives}.`
  const when = over && steadyA <= limitA ? ' for the moment of a radio burst' : ''
  const helped = bridged && peakA > limitA ? `, and ${bulk?.value.names[0] ?? ''} bridges the radio’s bursts` : ''
  return `${rail.name} may have to give ${engineering(Math.max(peakA, over ? 0 : startA), 'A')}${when}; ${gives}${helped}.`
}

function steps({ loads, peakA, burstA, steadyA, over, limitA, farad }: Burden): WorkingStep[] {
  const out = loads.map((l) => ({
    gives: l.label,
    formula: 'peak',
    numbers: `at rest ${engineering(l.idleA, 'A')}`,
    result: engineering(l.peakA, 'A'),
  }))
  out.push({
    gives: 'together',
    formula: 'Σ I_peak',
    numbers: `${loads.length} loads`,
    result: engineering(peakA, 'A'),
  })
  if (burstA > 0)
    out.push({
      gives: 'without the radio’s burst',
      formula: 'Σ I_peak − I_burst',
      numbers: `${engineering(peakA, 'A')} − ${engineering(burstA, 'A')}`,
      result: engineering(steadyA, 'A'),
    })
  if (over && steadyA <= limitA)
    out.push({
      gives: 'capacitor that bridges a burst',
      formula: 'C = I · Δt / ΔV',
      numbers: `${engineering(peakA - limitA, 'A')} · 3 ms / 0.3 V`,
      result: farads(farad),
    })
  return out
}

function remedies(context: CheckContext, all: readonly LoadedRail[], b: Burden): Remedy[] {
  if (b.starting) return [...largerSupply(context, b), ...elsewhere(context, b, all, b.startA - b.limitA)]
  if (!b.over) return []
  const { rail, bulk, farad } = b
  const bridge = replacing(
    `Capacitor ${farads(farad)} at ${rail.name}`,
    bulk?.id,
    bulk?.id ?? componentIdOf(rail.id.toLowerCase(), 'bulk'),
    { type: 'bulk', rail: rail.id, names: bulk?.value.names ?? freeNames(context.design, 'C'), farad },
  )
  return [
    ...(b.steadyA <= b.limitA && farad <= LARGEST_F ? [bridge] : []),
    ...largerSupply(context, b),
    ...elsewhere(context, b, all, b.peakA - b.limitA),
  ]
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
/** Share of what is too much that moving a load has to take away. */
const TELLS = 0.1
const SAG_V = 0.3

/** A larger capacitor than this is none for beside a board, F. */
const LARGEST_F = 0.0047

/** The largest part moved to a rail it stands that still has room. */
function elsewhere(
  context: CheckContext,
  { rail, loads }: LoadedRail,
  all: readonly LoadedRail[],
  excessA: number,
): Remedy[] {
  const { design, catalog } = context
  const [largest] = loads.filter((l) => l.partId !== null).sort((a, b) => b.peakA - a.peakA)
  const partId = largest?.partId ?? ''
  const part = design.parts[partId]
  const kind = part && catalog.parts[part.kind]
  if (!largest || !part || !kind) return []
  const out: Remedy[] = []
  for (const t of kind.terminals) {
    if (t.role !== 'supply' || part.feeds[t.id] !== rail.id) continue
    const others = feedable(context, partId, t)
      .map((r) => all.find((o) => o.rail.id === r.id))
      .filter((o) => o !== undefined)
      .filter((o) => o.rail.id !== rail.id && o.startA + largest.startA <= o.rail.limitA)
      .filter((o) => !comesFrom(design, o.rail.id, rail.id))
      // From a supply back to the board only what is enough by itself.
      .filter((o) => rail.partId === null || o.rail.partId !== null || largest.peakA >= excessA)
    for (const o of others)
      out.push(feeding(`Feed ${part.label} from ${o.rail.name}`, { partId, terminal: t.id }, o.rail.id))
    // Taking away next to nothing of what is too much is no remedy.
    const tells = largest.startA >= TELLS * excessA
    if (out.length === 0 && tells) out.push(...ownSupply(context, partId, t, largest.startA))
  }
  return out.slice(0, 2)
}

/** A 5 V supply for this part alone, where it stands that and the supply stands it. */
function ownSupply(
  { design, catalog }: CheckContext,
  partId: string,
  t: { id: string; minV: number; maxV: number },
  startA: number,
): Remedy[] {
  const own = `own${partId}`.slice(0, 24)
  const supply = catalog.parts['supply-5v']?.terminals.find((x) => x.role === 'source')
  if (supply?.role !== 'source' || own in design.parts || startA > supply.limitA) return []
  if (railSuits({ min: supply.minV, max: supply.maxV }, t) !== 'well') return []
  return [
    {
      label: `Own 5 V supply for ${design.parts[partId]?.label ?? ''}`,
      edits: [
        { kind: 'add-part', partId: own, part: 'supply-5v', label: '5 V supply', signals: [] },
        { kind: 'feed', partId, terminal: t.id, rail: `${own}.out` },
      ],
    },
  ]
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
