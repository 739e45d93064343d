import type { SignalIn } from './driverContext'
import { type Channel, meansOf } from '../catalog/part'
import { type PlanLine, allLines } from '../lines/lines'
import { addedOn, type Design } from '../model/design'
import { type AnalogPath, analogPath, isLoop, sourceLine } from '../wiring/analogPath'
import { omitDefault } from './omitDefault'
import type { AnalogFields } from './readings'

/**
 * From volts at the pin, or at a converter's input, to the reading, through everything in between; null where the part
 * says nothing about it.
 */
export function analogLine(of: SignalIn<Reading>): AnalogFields | null {
  const { design, board, catalog, kind, channel, signal } = of
  const line = allLines(design, catalog).find((l) => l.partId === signal.partId && l.terminal.id === channel.lines[0])
  if (channel.driver !== 'adc' || channel.analog === undefined || !line?.terminal.spanV) return null
  return FORMS[channel.analog]({
    design,
    line,
    spanV: line.terminal.spanV,
    path: analogPath(design, catalog, board, line),
    means: meansOf(kind, line.part.settings),
    channel,
  })
}

type Reading = Extract<Channel, { access: 'reading' }>
interface Way {
  design: Design
  line: PlanLine
  /** What the part gives over its range, V. */
  spanV: { min: number; max: number }
  path: AnalogPath
  means: ReturnType<typeof meansOf>
  channel: Reading
}
type Form = (way: Way) => AnalogFields | null

/** Volts of the source are a straight line of the volts at the pin. */
const sourceOf = ({ line, path }: Way) => (isLoop(line) ? { volts: 1, offsetV: 0 } : sourceLine(path))

function scaled(way: Way, atZeroV: number, perVolt: number): AnalogFields {
  const source = sourceOf(way)
  return {
    fullV: way.path.converter.fullV,
    ...omitDefault('atZero', round(atZeroV + perVolt * source.offsetV), 0),
    ...omitDefault('perVolt', round(perVolt * source.volts), 1),
  }
}

function between(way: Way, atLow: number, atHigh: number): AnalogFields {
  const perVolt = (atHigh - atLow) / (way.spanV.max - way.spanV.min)
  return scaled(way, atLow - perVolt * way.spanV.min, perVolt)
}
const rising: Form = (way) => between(way, way.channel.range.min, way.channel.range.max)
const falling: Form = (way) => between(way, way.channel.range.max, way.channel.range.min)

/** Resistors about one that is measured. */
const about = ({ path }: Way) => ({
  pullOhm: path.upOhm,
  supplyV: path.supplyV,
  ...omitDefault('loadOhm', path.downOhm, Infinity),
  ...omitDefault('seriesOhm', path.seriesOhm, 0),
})

const FORMS: Record<NonNullable<Reading['analog']>, Form> = {
  volts: (way) => scaled(way, 0, 1),
  span: (way) => (way.means.falls ? falling(way) : rising(way)),
  falling,
  // A signal that swings about a middle: the whole span is the whole range.
  swing: (way) => {
    const { min, max } = way.channel.range
    const perVolt = ((max - min) / (way.spanV.max - way.spanV.min)) * sourceOf(way).volts
    return { fullV: way.path.converter.fullV, of: 'swing', perVolt: round(perVolt) }
  },
  rms: (way) => {
    const { bareTurns } = way.means
    const burden = addedOn(way.design, way.line.key, 'burden')?.value.ohm ?? Infinity
    const perVolt = bareTurns === undefined ? (way.channel.perVolt ?? 1) : bareTurns / burden
    if (perVolt === 0) return null
    return { fullV: way.path.converter.fullV, of: 'rms', perVolt: round(perVolt * sourceOf(way).volts) }
  },
  // 0 dB is the loudest sine the line carries: its span from peak to peak.
  loud: (way) => {
    const { volts } = sourceOf(way)
    const zeroDbV = (way.spanV.max - way.spanV.min) / (2 * Math.SQRT2 * volts)
    return { fullV: way.path.converter.fullV, of: 'rms', zeroDbV: round(zeroDbV) }
  },
  share: (way) => {
    const { min, max } = way.channel.range
    const perVolt = ((max - min) / way.path.supplyV) * sourceOf(way).volts
    return { fullV: way.path.converter.fullV, perVolt: round(perVolt) }
  },
  thermistor: (way) => {
    const { betaK = 3950, ohm25 = 10_000 } = way.line.part.settings
    if (way.path.upOhm === Infinity) return null
    const ntc = { betaK: Number(betaK), ohm25: Number(ohm25), ...about(way) }
    return { fullV: way.path.converter.fullV, ntc }
  },
  light: (way) => {
    const { sensor } = way.line.terminal
    if (way.path.upOhm === Infinity || !sensor) return null
    const light = { brightOhm: sensor.minOhm, darkOhm: sensor.maxOhm, ...about(way) }
    return { fullV: way.path.converter.fullV, light }
  },
}

/** Nine figures are far beyond any resistor. */
const round = (v: number): number => Number(v.toPrecision(9))
