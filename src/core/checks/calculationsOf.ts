import { isKey } from '../catalog/drivers'
import type { CheckContext } from './context'
import { addedOn } from '../model/design'
import { busLine } from './rules/bus-edges'
import { ladderRequirement } from '../wiring/ladder'
import { carriedBy } from './foreign'
import { pinA } from './rules/pin-current'
import { inputMaxV } from '../catalog/board'
import { lineName } from '../lines/lines'
import { railLoads } from '../power/railLoads'
import { STRONGEST_PULL } from '../calculations/couplerCalculation'
import { RISE_S } from '../calculations/busPullCalculation'
import type { OpenCalculation } from '../calculations/writeBack'
import { supplyCurrents } from '../catalog/part'

/** A sum that a part or a line of the design calls for, filled in from it. */
export interface NamedSum extends OpenCalculation {
  subject: string
}

/** Every sum the design calls for, beside those its findings open. */
export function calculationsOf(context: CheckContext): NamedSum[] {
  const { design, board, catalog, lines, parts, rails, wiring } = context
  const out: NamedSum[] = []
  const loads = railLoads(design, board, catalog)
  for (const line of lines) {
    const subject = lineName(line)
    const target = { line: line.key }
    const { terminal } = line
    const divider = addedOn(design, line.key, 'divider')?.value
    if (divider) {
      const rail =
        terminal.output?.kind === 'push-pull'
          ? rails.find(
              (r) => r.id === line.part.feeds[terminal.output?.kind === 'push-pull' ? terminal.output.from : ''],
            )
          : undefined
      const maxV =
        terminal.output?.kind === 'fixed' ? terminal.output.highMaxV : (rail?.max ?? terminal.spanV?.max ?? 5.25)
      const ofRailV = rail && terminal.output?.kind === 'push-pull' ? rail.min * terminal.output.highMinRatio : maxV
      const minV = terminal.output?.kind === 'fixed' ? terminal.output.highMinV : ofRailV
      out.push({
        id: 'divider',
        subject,
        target,
        given: {
          maxV,
          minV,
          limitV: inputMaxV(board),
          readsHighV: terminal.needs === 'analog' ? 0 : board.input.highRatio * board.supplyV.max,
          topOhm: divider.topOhm,
          value: divider.bottomOhm,
          tolerance: divider.tolerance,
          capacitanceF: board.input.capacitanceF,
        },
      })
    }
    const driver = addedOn(design, line.key, 'driver')?.value
    if (driver?.device === 'npn') {
      const own = catalog.parts[line.part.kind]?.terminals.find((t) => t.role === 'line' && t.id === terminal.id)
      out.push({
        id: 'transistor',
        subject,
        target,
        given: {
          highV: board.supplyV.min,
          loadA: (own?.role === 'line' ? own.input?.maxA : undefined) ?? 0.01,
          gain: 15,
          limitA: board.drive.perPinA,
          value: driver.seriesOhm,
        },
      })
    }
    if (terminal.bareLamp)
      out.push({
        id: 'series',
        subject,
        target,
        given: {
          supplyV: board.supplyV.max,
          forwardV: terminal.bareLamp.forwardV,
          wantsA: terminal.bareLamp.wantsA,
          limitA: board.drive.perPinA,
          value: addedOn(design, line.key, 'series')?.value.ohm ?? 180,
        },
      })
    if (line.bus?.kind === 'i2c') {
      const { modulesOhm, capacitanceF } = busLine(context, line)
      out.push({
        id: 'bus-pull',
        subject,
        target,
        given: {
          supplyV: board.supplyV.max,
          capacitanceF,
          riseS: RISE_S.standard,
          modulesOhm: Math.min(1e9, modulesOhm),
          value: line.pulls[0]?.ohm ?? 4700,
        },
      })
    } else if (terminal.pull && terminal.needs !== 'analog') {
      const ohm = line.pulls[0]?.ohm ?? board.pulls.upOhm
      out.push({
        id: 'pull',
        subject,
        target: { ...target, level: terminal.pull === 'up' ? 'high' : 'low' },
        given: {
          supplyV: board.supplyV.min,
          highV: board.input.highRatio * board.supplyV.min,
          leakA: terminal.leakA ?? 1e-6,
          wettingA: 0.0003,
          value: ohm,
        },
      })
      out.push({
        id: 'filter',
        subject,
        target,
        given: { ohm, wantsS: 0.005, value: addedOn(design, line.key, 'capacitor')?.value.farad ?? 1e-7 },
      })
    }
    const keys = line.kind.channels.filter((c) => isKey(c.driver)).length
    if (terminal.needs === 'analog' && keys > 0) {
      const w = ladderRequirement(board, keys)
      out.push({
        id: 'ladder',
        subject,
        target: {},
        given: {
          keys,
          pullOhm: w.pullOhm,
          tolerance: 0.01,
          bits: w.bits,
          maxV: w.maxV,
          fullV: w.fullV,
          ripple: w.ripple,
          loadOhm: Math.min(1e9, w.loadOhm),
        },
      })
    }
    if (pinA(context, line) > 0 && !driver && line.terminal.coil)
      out.push({
        id: 'transistor',
        subject,
        target,
        given: {
          highV: board.supplyV.min,
          loadA: pinA(context, line),
          gain: 15,
          limitA: board.drive.perPinA,
          value: 470,
        },
      })
  }
  for (const { id, part, kind } of parts) {
    for (const t of kind.terminals) {
      if (t.role === 'supply' && supplyCurrents(t, part.settings, kind).peakA > 0.05) {
        const rail = rails.find((r) => r.id === part.feeds[t.id])
        const wires = wiring.wires
          .filter(
            (w) =>
              w.carries !== 'signal' &&
              [w.from, w.to].some(
                (e) =>
                  e.kind === 'part' &&
                  e.partId === id &&
                  (e.terminal === t.id || kind.terminals.some((g) => g.role === 'ground' && g.id === e.terminal)),
              ),
          )
          .map((w) => w.key)
        if (rail?.isolated && rail.min >= 1)
          out.push({
            id: 'wire',
            subject: `${part.label} ${t.label}`,
            target: { wires },
            given: {
              supplyV: rail.min,
              needsV: t.minV,
              lengthM: part.cableM,
              loadA: supplyCurrents(t, part.settings, kind).peakA,
              value: design.wires[wires[0] ?? '']?.gaugeMm2 ?? 0.5,
            },
          })
      }
      if (t.role === 'source') {
        const rail = `${id}.${t.id}`
        const loadA = loads.find((l) => l.rail.id === rail)?.peakA ?? 0
        const fuse = Object.values(design.added).find((c) => c.type === 'fuse' && c.rail === rail)
        if (!kind.terminals.some((s) => s.role === 'supply'))
          out.push({
            id: 'fuse',
            subject: part.label,
            target: { rail },
            given: { loadA, gaugeMm2: 0.5, value: fuse?.type === 'fuse' ? fuse.ratedA : 1 },
          })
        if (kind.cell)
          out.push({
            id: 'cell',
            subject: part.label,
            target: {},
            given: {
              emptyV: t.minV,
              innerOhm: kind.cell.innerOhm,
              peakA: loadA,
              needsV: board.supplyV.min + board.regulator.dropoutV,
              capacityAh: kind.cell.capacityAh,
              meanA: Math.max(1e-4, loads.find((l) => l.rail.id === rail)?.idleA ?? 0.1),
            },
          })
      }
    }
  }
  if (board.regulator.kind === 'linear') {
    const supply = rails.find((r) => r.id === board.supply.rail)
    const logic = loads.find((l) => l.rail.id === '3V3')
    out.push({
      id: 'regulator',
      subject: 'board',
      target: {},
      given: {
        inV: supply?.max ?? 5,
        outV: board.logicV,
        dropoutV: board.regulator.dropoutV,
        loadA: logic?.idleA ?? 0.1,
        riseKPerW: board.regulator.riseKPerW,
      },
    })
  }
  for (const line of lines) {
    const coupler = addedOn(design, line.key, 'optocoupler')?.value
    const range = carriedBy(line)
    if (!coupler || !range) continue
    out.push({
      id: 'coupler',
      subject: lineName(line),
      target: { line: line.key },
      given: {
        minV: range.minV,
        maxV: range.maxV,
        supplyV: board.supplyV.max,
        pullOhm: line.pulls[0]?.ohm ?? board.pulls.upOhm * STRONGEST_PULL,
        tolerance: coupler.tolerance,
        value: coupler.seriesOhm,
      },
    })
  }
  return out
}
