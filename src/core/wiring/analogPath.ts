import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { addedOn, type Design } from '../model/design'
import type { PlanLine } from '../lines/lines'

/** What measures a line: the board's own converter or one on a bus. V, Ω. */
export type Converter = Board['analog']

/** Everything between what is measured and the converter. Resistances Ω, voltages V. */
export interface AnalogPath {
  converter: Converter
  /** In series between the source and the pin: its own resistance, a divider's upper resistor, a series resistor. */
  sourceOhm: number
  seriesOhm: number
  /** From the pin to ground: a divider's lower resistor, a pull-down, the converter's own load; Infinity for none. */
  downOhm: number
  /** From the pin to the board's supply; Infinity for none. */
  upOhm: number
  supplyV: number
}

/** A loop that is read by its resistance: its voltage tells states apart and measures nothing. */
export function isLoop({ terminal }: PlanLine): boolean {
  return terminal.needs === 'analog' && terminal.states.length >= 3 && terminal.states.some((s) => s.level === 'open')
}

export function analogPath(design: Design, catalog: Catalog, board: Board, line: PlanLine): AnalogPath {
  const converter = catalog.parts[design.parts[line.hosted?.partId ?? '']?.kind ?? '']?.converter ?? board.analog
  const divider = addedOn(design, line.key, 'divider')?.value
  const series = addedOn(design, line.key, 'series')?.value
  const ofLevel = (level: 'high' | 'low') => line.pulls.filter((p) => p.level === level).map((p) => p.ohm)
  return {
    converter,
    sourceOhm: sourceOhm(line),
    seriesOhm: (divider?.topOhm ?? 0) + (series?.ohm ?? 0),
    downOhm: together([
      ...(divider ? [divider.bottomOhm] : []),
      ...ofLevel('low'),
      ...(converter.loadOhm === null ? [] : [converter.loadOhm]),
    ]),
    upOhm: together(ofLevel('high')),
    supplyV: board.logicV,
  }
}

/** What a line's source resistance is as the part is set: at most a quarter of a potentiometer. */
function sourceOhm(line: PlanLine): number {
  const { ohm } = line.part.settings
  return line.terminal.sensor?.kind === 'potentiometer' && typeof ohm === 'number'
    ? ohm / 4
    : (line.terminal.sourceOhm ?? 0)
}

const together = (ohms: readonly number[]): number =>
  ohms.length === 0 ? Infinity : 1 / ohms.reduce((s, r) => s + 1 / r, 0)

/** The resistance a converter sees, Ω. */
export function seenOhm({ sourceOhm: own, seriesOhm, downOhm, upOhm }: AnalogPath): number {
  return together([own + seriesOhm, downOhm, upOhm].filter((r) => r < Infinity))
}

/**
 * Voltage at the pin for a source of `sourceV`, V. Nodal: (V_s·G_s + V_dd·G_up) / (G_s + G_up + G_down).
 * `spread` scales series, lower and upper resistors, for the ends of their tolerances.
 */
export function pinVolts(path: AnalogPath, sourceV: number, spread = { series: 1, down: 1, up: 1 }): number {
  const series = path.sourceOhm + path.seriesOhm * spread.series
  if (series === 0) return sourceV
  const [gs, gd, gu] = [1 / series, 1 / (path.downOhm * spread.down), 1 / (path.upOhm * spread.up)]
  return (sourceV * gs + path.supplyV * gu) / (gs + gd + gu)
}

/** The line that turns volts at the pin back into volts of the source: V_s = volts · V_pin + offsetV. */
export function sourceLine(path: AnalogPath): { volts: number; offsetV: number } {
  const series = path.sourceOhm + path.seriesOhm
  if (series === 0) return { volts: 1, offsetV: 0 }
  return { volts: 1 + series / path.downOhm + series / path.upOhm, offsetV: -(path.supplyV * series) / path.upOhm }
}

/** Voltage at the pin for a resistor to ground of this many ohm, with the pull above it, V. */
export function sensorVolts(path: AnalogPath, ohm: number): number {
  const down = together([ohm + path.seriesOhm, path.downOhm].filter((r) => r < Infinity))
  return (path.supplyV * down) / (down + path.upOhm)
}

/** The resistor that gives this voltage at the pin, Ω; Infinity where the pin shows no current through it. */
export function sensorOhm(path: AnalogPath, pinV: number): number {
  const through = (path.supplyV - pinV) / (pinV * path.upOhm) - 1 / path.downOhm
  return through <= 0 ? Infinity : 1 / through - path.seriesOhm
}

/** Lowest and highest resistor a converter measures well with this pull, Ω. */
export function sensorSpan(path: AnalogPath): { minOhm: number; maxOhm: number } {
  const { minV, maxV } = path.converter
  return {
    minOhm: minV <= 0 ? 0 : sensorOhm(path, minV),
    maxOhm: sensorOhm(path, Math.min(maxV, path.supplyV * 0.999)),
  }
}
