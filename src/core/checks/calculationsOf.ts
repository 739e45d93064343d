import { isKey } from '../catalog/drivers'
import { cycleOf } from '../energy/cycle'
import { likelyOf, meanA } from '../energy/life'
import type { CheckContext } from './context'
import { addedOn } from '../model/design'
import { busLine } from './rules/bus-edges'
import { ladderRequirement } from '../wiring/ladder'
import { carriedBy } from './foreign'
import { pinA } from './rules/pin-current'
import { inputMaxV } from '../catalog/board'
import { lineName, type PlanLine } from '../lines/lines'
import { type LoadedRail, railLoads } from '../power/railLoads'
import { STRONGEST_PULL } from '../calculations/couplerCalculation'
import { RISE_S } from '../calculations/busPullCalculation'
import type { OpenCalculation } from '../calculations/writeBack'
import { supplyCurrents } from '../catalog/part'

/** A sum that a part or a line of the design calls for, filled in from it. */
export interface NamedSum extends OpenCalculation {
  subject: string
}

type Find = (context: CheckContext, line: PlanLine) => NamedSum | null

/** A sum about a line, filled in. */
const ofLine = (line: PlanLine, id: NamedSum['id'], given: NamedSum['given']): NamedSum => ({
  id,
  subject: lineName(line),
  target: { line: line.key },
  given,
})

/** What drives a line gives when high, least and most, V; where nothing is known, what its reading spans. */
function highSpan({ rails }: CheckContext, { part, terminal }: PlanLine): { minV: number; maxV: number } {
  const { output } = terminal
  if (output?.kind === 'fixed') return { minV: output.highMinV, maxV: output.highMaxV }
  const rail = output?.kind === 'push-pull' ? rails.find((r) => r.id === part.feeds[output.from]) : undefined
  const maxV = rail?.max ?? terminal.spanV?.max ?? 5.25
  return { minV: rail && output?.kind === 'push-pull' ? rail.min * output.highMinRatio : maxV, maxV }
}

const divider: Find = (context, line) => {
  const { design, board } = context
  const added = addedOn(design, line.key, 'divider')?.value
  if (!added) return null
  return ofLine(line, 'divider', {
    ...highSpan(context, line),
    limitV: inputMaxV(board),
    readsHighV: line.terminal.needs === 'analog' ? 0 : board.input.highRatio * board.supplyV.max,
    topOhm: added.topOhm,
    value: added.bottomOhm,
    tolerance: added.tolerance,
    capacitanceF: board.input.capacitanceF,
  })
}

/** The transistor that is there, or the one a coil at the bare pin asks for. */
const transistor: Find = (context, line) => {
  const { design, board, catalog } = context
  const of = (loadA: number, value: number) =>
    ofLine(line, 'transistor', { highV: board.supplyV.min, loadA, gain: 15, limitA: board.drive.perPinA, value })
  const driver = addedOn(design, line.key, 'driver')?.value
  if (driver?.device === 'npn') {
    const own = catalog.parts[line.part.kind]?.terminals.find((t) => t.role === 'line' && t.id === line.terminal.id)
    return of((own?.role === 'line' ? own.input?.maxA : undefined) ?? 0.01, driver.seriesOhm)
  }
  const atPinA = pinA(context, line)
  return !driver && line.terminal.coil && atPinA > 0 ? of(atPinA, 470) : null
}

const lamp: Find = ({ design, board }, line) => {
  const { bareLamp } = line.terminal
  if (!bareLamp) return null
  return ofLine(line, 'series', {
    supplyV: board.supplyV.max,
    forwardV: bareLamp.forwardV,
    wantsA: bareLamp.wantsA,
    limitA: board.drive.perPinA,
    value: addedOn(design, line.key, 'series')?.value.ohm ?? 180,
  })
}

const busPull: Find = (context, line) => {
  if (line.bus?.kind !== 'i2c') return null
  const { modulesOhm, capacitanceF } = busLine(context, line)
  return ofLine(line, 'bus-pull', {
    supplyV: context.board.supplyV.max,
    capacitanceF,
    riseS: RISE_S.standard,
    modulesOhm: Math.min(1e9, modulesOhm),
    value: line.pulls[0]?.ohm ?? 4700,
  })
}

/** Resistance of the pull a contact works against, Ω; null where nothing is pulled. */
const pullOhm = ({ board }: CheckContext, { bus, terminal, pulls }: PlanLine): number | null =>
  bus?.kind !== 'i2c' && terminal.pull && terminal.needs !== 'analog' ? (pulls[0]?.ohm ?? board.pulls.upOhm) : null

const pull: Find = (context, line) => {
  const { board } = context
  const ohm = pullOhm(context, line)
  if (ohm === null) return null
  const sum = ofLine(line, 'pull', {
    supplyV: board.supplyV.min,
    highV: board.input.highRatio * board.supplyV.min,
    leakA: line.terminal.leakA ?? 1e-6,
    wettingA: 0.0003,
    value: ohm,
  })
  return { ...sum, target: { ...sum.target, level: line.terminal.pull === 'up' ? 'high' : 'low' } }
}

const filter: Find = (context, line) => {
  const ohm = pullOhm(context, line)
  if (ohm === null) return null
  const value = addedOn(context.design, line.key, 'capacitor')?.value.farad ?? 1e-7
  return ofLine(line, 'filter', { ohm, wantsS: 0.005, value })
}

const ladder: Find = ({ board }, line) => {
  const keys = line.kind.channels.filter((c) => isKey(c.driver)).length
  if (line.terminal.needs !== 'analog' || keys === 0) return null
  const { pullOhm, bits, maxV, fullV, ripple, loadOhm } = ladderRequirement(board, keys)
  const given = { keys, pullOhm, tolerance: 0.01, bits, maxV, fullV, ripple, loadOhm: Math.min(1e9, loadOhm) }
  return { ...ofLine(line, 'ladder', given), target: {} }
}

const coupler: Find = ({ design, board }, line) => {
  const added = addedOn(design, line.key, 'optocoupler')?.value
  const range = carriedBy(line)
  if (!added || !range) return null
  return ofLine(line, 'coupler', {
    minV: range.minV,
    maxV: range.maxV,
    supplyV: board.supplyV.max,
    pullOhm: line.pulls[0]?.ohm ?? board.pulls.upOhm * STRONGEST_PULL,
    tolerance: added.tolerance,
    value: added.seriesOhm,
  })
}

type InParts = CheckContext['parts'][number]

/** The wires of a supply terminal with a load worth a thought. */
function supplyWires({ design, rails, wiring }: CheckContext, { id, part, kind }: InParts): NamedSum[] {
  return kind.terminals.flatMap((t) => {
    if (t.role !== 'supply') return []
    const loadA = supplyCurrents(t, part.settings, kind).peakA
    const rail = rails.find((r) => r.id === part.feeds[t.id])
    if (loadA <= 0.05 || !rail?.isolated || rail.min < 1) return []
    const returns = kind.terminals.filter((g) => g.role === 'ground').map((g) => g.id)
    const ends = new Set([t.id, ...returns])
    const wires = wiring.wires
      .filter((w) => w.carries !== 'signal')
      .filter((w) => [w.from, w.to].some((e) => e.kind === 'part' && e.partId === id && ends.has(e.terminal)))
      .map((w) => w.key)
    const value = design.wires[wires[0] ?? '']?.gaugeMm2 ?? 0.5
    const given = { supplyV: rail.min, needsV: t.minV, lengthM: part.cableM, loadA, value }
    return [{ id: 'wire', subject: `${part.label} ${t.label}`, target: { wires }, given }]
  })
}

/** Fuse and cell of what gives power. */
function sources(context: CheckContext, loads: readonly LoadedRail[], { id, part, kind }: InParts): NamedSum[] {
  const { design, board } = context
  return kind.terminals.flatMap((t): NamedSum[] => {
    if (t.role !== 'source') return []
    const rail = `${id}.${t.id}`
    const on = loads.find((l) => l.rail.id === rail)
    const loadA = on?.peakA ?? 0
    const added = Object.values(design.added).find((c) => c.type === 'fuse' && c.rail === rail)
    const value = added?.type === 'fuse' ? added.ratedA : 1
    const fuse: NamedSum = {
      id: 'fuse',
      subject: part.label,
      target: { rail },
      given: { loadA, gaugeMm2: 0.5, value },
    }
    const passesOn = kind.terminals.some((s) => s.role === 'supply')
    // How long a cell lasts that feeds nothing is no question.
    if (!kind.cell || !on || on.loads.length === 0) return passesOn ? [] : [fuse]
    const cell: NamedSum = {
      id: 'cell',
      subject: part.label,
      target: {},
      given: {
        emptyV: t.minV,
        innerOhm: kind.cell.innerOhm,
        peakA: loadA,
        needsV: board.supplyV.min + board.regulator.dropoutV,
        capacityAh: kind.cell.capacityAh,
        meanA: meanFrom(context, id, on),
      },
    }
    return passesOn ? [cell] : [fuse, cell]
  })
}

/** Mean current of what hangs on a source, A: over a whole turn of sleeping and waking where the node sleeps on it. */
function meanFrom(context: CheckContext, partId: string, on: LoadedRail): number {
  const cycle = cycleOf(context.design, context.board, context.catalog)
  const mean = cycle?.cell.partId === partId ? meanA(cycle, likelyOf(cycle)) : on.idleA
  return Math.max(1e-6, mean)
}

function regulator({ board, rails }: CheckContext, loads: readonly LoadedRail[]): NamedSum[] {
  if (board.regulator.kind !== 'linear') return []
  const given = {
    inV: rails.find((r) => r.id === board.supply.rail)?.max ?? 5,
    outV: board.logicV,
    dropoutV: board.regulator.dropoutV,
    loadA: loads.find((l) => l.rail.id === '3V3')?.idleA ?? 0.1,
    riseKPerW: board.regulator.riseKPerW,
  }
  return [{ id: 'regulator', subject: 'board', target: {}, given }]
}

const OF_LINES: readonly Find[] = [divider, transistor, lamp, busPull, pull, filter, ladder]

/** Every sum the design calls for, beside those its findings open. */
export function calculationsOf(context: CheckContext): NamedSum[] {
  const { design, board, catalog, lines, parts } = context
  const loads = railLoads(design, board, catalog)
  const about = (finds: readonly Find[]) =>
    lines.flatMap((line) => finds.map((find) => find(context, line)).filter((sum) => sum !== null))
  return [
    ...about(OF_LINES),
    ...parts.flatMap((p) => [...supplyWires(context, p), ...sources(context, loads, p)]),
    ...regulator(context, loads),
    ...about([coupler]),
  ]
}
