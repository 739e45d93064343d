import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Channel, meansOf, type PartKind } from '../catalog/part'
import { allLines } from '../lines/lines'
import { addedOn, type Design } from '../model/design'
import { analogPath, isLoop, sourceLine } from '../wiring/analogPath'
import { omitDefault } from './omitDefault'
import type { AnalogFields } from './readings'

/**
 * From volts at the pin, or at a converter's input, to the reading, through everything in between; null where the part
 * says nothing about it.
 */
export function analogLine(
  design: Design,
  board: Board,
  catalog: Catalog,
  kind: PartKind,
  channel: Extract<Channel, { access: 'reading' }>,
  partId: string,
): AnalogFields | null {
  const line = allLines(design, catalog).find((l) => l.partId === partId && l.terminal.id === channel.lines[0])
  if (channel.driver !== 'adc' || channel.analog === undefined || !line?.terminal.spanV) return null
  const path = analogPath(design, catalog, board, line)
  const { fullV } = path.converter
  const { min, max } = channel.range
  const { spanV, sensor } = line.terminal
  const means = meansOf(kind, line.part.settings)
  // Volts of the source are a straight line of the volts at the pin.
  const source = isLoop(line) ? { volts: 1, offsetV: 0 } : sourceLine(path)
  const scaled = (atZeroV: number, perVolt: number): AnalogFields => ({
    fullV,
    ...omitDefault('atZero', round(atZeroV + perVolt * source.offsetV), 0),
    ...omitDefault('perVolt', round(perVolt * source.volts), 1),
  })
  const between = (atLow: number, atHigh: number) => {
    const perVolt = (atHigh - atLow) / (spanV.max - spanV.min)
    return scaled(atLow - perVolt * spanV.min, perVolt)
  }
  const above = {
    pullOhm: path.upOhm,
    supplyV: path.supplyV,
    ...omitDefault('loadOhm', path.downOhm, Infinity),
    ...omitDefault('seriesOhm', path.seriesOhm, 0),
  }
  switch (channel.analog) {
    case 'volts':
      return scaled(0, 1)
    case 'span':
      return means.falls ? between(max, min) : between(min, max)
    case 'falling':
      return between(max, min)
    // A signal that swings about a middle: the whole span is the whole range.
    case 'swing':
      return { fullV, of: 'swing', perVolt: round(((max - min) / (spanV.max - spanV.min)) * source.volts) }
    case 'rms': {
      const burden = addedOn(design, line.key, 'burden')?.value.ohm
      const perVolt = means.bareTurns === undefined ? (channel.perVolt ?? 1) : means.bareTurns / (burden ?? Infinity)
      return perVolt === 0 ? null : { fullV, of: 'rms', perVolt: round(perVolt * source.volts) }
    }
    case 'share':
      return { fullV, perVolt: round(((max - min) / path.supplyV) * source.volts) }
    case 'thermistor': {
      const { betaK = 3950, ohm25 = 10_000 } = line.part.settings
      return path.upOhm === Infinity ? null : { fullV, ntc: { betaK: Number(betaK), ohm25: Number(ohm25), ...above } }
    }
    case 'light':
      return path.upOhm === Infinity || !sensor
        ? null
        : { fullV, light: { brightOhm: sensor.minOhm, darkOhm: sensor.maxOhm, ...above } }
  }
}

/** Nine figures are far beyond any resistor. */
const round = (v: number): number => Number(v.toPrecision(9))
