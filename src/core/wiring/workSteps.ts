import type { Board } from '../catalog/board'
import { inputMaxV } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { addedOn, type Design } from '../model/design'
import { lineName, type PlanLine, planLines } from '../lines/lines'
import { GROUND, groundOfRail, groundsOf } from '../power/grounds'
import { railOf, railsOf } from '../power/rails'
import { ohms, volts } from '../units/format'
import { dividerLevels } from './divider'
import type { Wiring } from './netlist'
import { scheduleOf, type ScheduleRow } from './schedule'

/** What a meter has to show. `unit` V between two limits, or Ω of at least `min`. */
export interface Measurement {
  key: string
  title: string
  how: string
  unit: 'V' | 'Ω'
  min: number
  max: number
  why: string
}

export type WorkStep =
  | { kind: 'wire'; key: string; row: ScheduleRow; line: PlanLine | null }
  | { kind: 'measure'; key: string; measure: Measurement }

export interface MeasureVerdict {
  ok: boolean
  words: string
}

/** A value read off the meter against what it has to be. */
export function judgeMeasurement({ unit, min, max }: Measurement, value: number): MeasureVerdict {
  const as = unit === 'V' ? volts : ohms
  if (!Number.isFinite(value)) return { ok: false, words: 'Not a number.' }
  if (value < min)
    return { ok: false, words: `${as(value)} is below ${as(min)}: stop, and find out why before going on.` }
  if (value > max)
    return { ok: false, words: `${as(value)} is above ${as(max)}: stop, and find out why before going on.` }
  return {
    ok: true,
    words: unit === 'V' ? `${as(value)} is between ${as(min)} and ${as(max)}.` : `${as(value)} is ${as(min)} or more.`,
  }
}

/**
 * The work in the order a careful person does it: rails and grounds, each rail against ground before power and its
 * voltage before the chip goes in, then the lines; a divider is measured with its input at full voltage before its wire
 * reaches the pin.
 */
export function workSteps(design: Design, catalog: Catalog, wiring: Wiring): WorkStep[] {
  const board = catalog.boards[design.board.id]
  if (!board) return []
  const rows = scheduleOf(design, wiring)
  const lines = new Map(planLines(design, catalog).map((l) => [l.key, l]))
  const wire = (row: ScheduleRow): WorkStep => ({
    kind: 'wire',
    key: row.key,
    row,
    line: lines.get(row.wire.line ?? '') ?? null,
  })
  // What hangs on the mains comes last of all, when everything else has been proven.
  const mains = rows.filter((r) => r.wire.mains)
  const shared = rows.filter(
    (r) => r.wire.carries !== 'signal' && !r.wire.mains && r.wire.from.kind !== 'leg' && r.wire.to.kind !== 'leg',
  )
  const rest = rows.filter((r) => !shared.includes(r) && !mains.includes(r))
  const dividers = [...lines.values()].filter(
    (l) => addedOn(design, l.key, 'divider') && design.plan.pins[l.key] !== undefined,
  )
  const steps: WorkStep[] = [...shared.map(wire), ...railMeasurements(design, board, catalog, wiring)]
  const held = new Set(dividers.map((l) => l.key))
  for (const row of rest) {
    const key = row.wire.line
    if (key !== null && held.has(key) && row.wire.to.kind === 'pin') continue
    steps.push(wire(row))
  }
  for (const l of dividers) {
    steps.push({ kind: 'measure', key: `divider:${l.key}`, measure: dividerMeasurement(design, board, catalog, l) })
    steps.push(...rest.filter((r) => r.wire.line === l.key && r.wire.to.kind === 'pin').map(wire))
  }
  return [...steps, ...mains.map(wire)]
}

function railMeasurements(design: Design, board: Board, catalog: Catalog, wiring: Wiring): WorkStep[] {
  const used = new Set(
    wiring.wires
      .flatMap((w) => [w.from, w.to])
      .flatMap((e) => (e.kind === 'rail' && e.owner !== 'splice' ? [e.rail] : [])),
  )
  // No meter of ours on the mains, and nothing on a rail that is alive only with its contact.
  const rails = railsOf(design, board, catalog).filter((r) => used.has(r.id) && r.isolated && r.through === null)
  const grounds = groundsOf(design, catalog)
  const against = (rail: string) => (groundOfRail(grounds, rail) === GROUND ? 'ground' : 'its own 0 V')
  const ohm = rails.map((r): WorkStep => ({
    kind: 'measure',
    key: `ohm:${r.id}`,
    measure: {
      key: `ohm:${r.id}`,
      title: `${r.name} against ${against(r.id)}`,
      unit: 'Ω',
      min: Math.ceil((2 * r.max) / r.limitA),
      max: Number.POSITIVE_INFINITY,
      how: 'Nothing fed, the board not in its socket, all capacitors discharged. Meter on ohms, red on the rail, black on the ground of that rail; wait until the reading stands.',
      why: `Below ${ohms(Math.ceil((2 * r.max) / r.limitA))} more than half of what feeds it would flow: a short or a part the wrong way round.`,
    },
  }))
  const volt = rails
    .filter((r) => r.id !== '3V3')
    .map((r): WorkStep => ({
      kind: 'measure',
      key: `volt:${r.id}`,
      measure: {
        key: `volt:${r.id}`,
        title: `${r.name} before the chip goes in`,
        unit: 'V',
        min: r.min,
        max: r.max,
        how: `Fed from ${r.source}, the board still not in its socket. Meter on volts ${r.ac ? 'AC' : 'DC'}, red on the rail, black on ${against(r.id)}.`,
        why: 'The parts on this rail stand no more.',
      },
    }))
  return [...ohm, ...volt]
}

function dividerMeasurement(design: Design, board: Board, catalog: Catalog, line: PlanLine): Measurement {
  const divider = addedOn(design, line.key, 'divider')
  const output = line.terminal.output
  const rail = output?.kind === 'push-pull' ? railOf(design, board, catalog, line.part.feeds[output.from]) : undefined
  const ofRailV =
    rail && output?.kind === 'push-pull' ? rail.max * output.highMaxRatio : (line.terminal.spanV?.max ?? 5.25)
  const highV = output?.kind === 'fixed' ? output.highMaxV : ofRailV
  const ofRailLowV = rail && output?.kind === 'push-pull' ? rail.min * output.highMinRatio : highV
  const lowV = output?.kind === 'fixed' ? output.highMinV : ofRailLowV
  const at = divider
    ? dividerLevels({ minV: lowV, maxV: highV, ...divider.value, capacitanceF: 0 })
    : { lowestV: 0, highestV: inputMaxV(board) }
  const pin = design.plan.pins[line.key] ?? ''
  return {
    key: `divider:${line.key}`,
    title: `${lineName(line)} behind its divider`,
    unit: 'V',
    min: Math.round(at.lowestV * 100) / 100,
    max: Math.min(inputMaxV(board), Math.round(at.highestV * 100) / 100),
    how: `${line.part.label} fed, its output held high, the wire to ${pin} not connected yet. Meter on volts DC between the joint of both resistors and ground.`,
    why: `${pin} stands ${volts(inputMaxV(board))}.`,
  }
}
