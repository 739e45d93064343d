import { replacing } from '../remedies'
import { inputMaxV } from '../../catalog/board'
import { type Channel, meansOf } from '../../catalog/part'
import { addedOn } from '../../model/design'
import { type PlanLine } from '../../lines/lines'
import { engineering, ohms, volts } from '../../units/format'
import {
  type AnalogPath,
  analogPath,
  isLoop,
  pinVolts,
  sensorSpan,
  sensorVolts,
  sourceLine,
} from '../../wiring/analogPath'
import { about, type CheckContext, componentIdOf, report, type Reported, type Rule } from '../context'
import { converterRemedy, scaleRemedy } from '../lineRemedies'
import type { Remedy } from '../finding'

const SOURCE =
  'Chip data sheet: span over which the converter is straight; Kirchhoff at the pin with everything that hangs on it.'

type Reading = Extract<Channel, { access: 'reading' }>

/** A voltage to measure that leaves what the converter measures well. */
export const adcSpan: Rule = {
  id: 'adc-span',
  severity: 'fix',
  when: 'What an analog part gives, through all that stands between it and the converter, leaves what the converter measures well.',
  source: SOURCE,
  check: (context) =>
    context.analogLines.flatMap((line) => {
      const channel = line.channels.find((c): c is Reading => c.access === 'reading')
      if (isLoop(line) || !channel || line.terminal.swings) return []
      const path = analogPath(context.design, context.catalog, context.board, line)
      const { sensor } = line.terminal
      return sensor && sensor.kind !== 'potentiometer'
        ? ofSensor(context, line, channel, path)
        : ofSource(context, line, channel, path)
    }),
}

/** A part that makes its voltage by itself. */
function ofSource(context: CheckContext, line: PlanLine, channel: Reading, path: AnalogPath): Reported[] {
  const { design, board } = context
  const span = line.terminal.sensor ? { min: 0, max: path.supplyV } : line.terminal.spanV
  if (!span) return []
  const tolerance = addedOn(design, line.key, 'divider')?.value.tolerance ?? 0
  const [lowV, highV] = [
    pinVolts(path, span.min),
    pinVolts(path, span.max, { series: 1 - tolerance, down: 1 + tolerance, up: 1 }),
  ]
  const { minV, maxV, bits, fullV } = path.converter
  const over = highV > maxV + 1e-9
  if (!over && lowV >= minV - 1e-9) return []
  // Above what the pin stands is another rule's business, unless no output is stated.
  const severity = highV > inputMaxV(board) ? 'stop' : 'fix'
  const back = sourceLine(path).volts
  const perVolt = ((channel.range.max - channel.range.min) / (span.max - span.min)) * back
  const lost = over ? Math.min(1, (highV - maxV) / (highV - lowV)) : Math.min(1, (minV - lowV) / (highV - lowV))
  const end = meansOf(line.kind, line.part.settings).falls ? 'lower' : 'upper'
  return [
    report(line.key, {
      severity: over ? severity : 'note',
      ...about(design, line),
      sentence: over
        ? `${line.part.label} gives up to ${volts(highV)} at the ${line.hosted ? 'converter, which' : 'pin; the converter'} measures up to ${volts(maxV)}: the ${end} ${(lost * 100).toFixed(0)} % are lost.`
        : `${line.part.label} gives ${volts(lowV)} at its lowest; the converter measures well from ${volts(minV)}.`,
      steps: [
        {
          gives: 'span at the pin',
          formula: '(V·G_s + V_dd·G_up) / ΣG',
          numbers: `${volts(span.min)} … ${volts(span.max)}, 1/${back.toFixed(3)}`,
          result: `${volts(lowV)} … ${volts(highV)}`,
        },
        {
          gives: 'one step of the converter',
          formula: 'V_full / 2ⁿ · share',
          numbers: `${fullV} V / ${2 ** bits} · ${back.toFixed(3)}`,
          result: engineering(Math.abs((fullV / 2 ** bits) * perVolt), channel.unit),
        },
      ],
      remedies: !over
        ? []
        : [
            ...(line.terminal.sensor ? [] : scaleRemedy(design, path, line, span.max)),
            ...converterRemedy(context, line, span.max),
          ],
    }),
  ]
}

/** A resistor that is measured: its pull decides which part of it is seen. */
function ofSensor(context: CheckContext, line: PlanLine, channel: Reading, path: AnalogPath): Reported[] {
  const { design } = context
  const { sensor } = line.terminal
  const pull = addedOn(design, line.key, 'pull')
  if (!sensor || !pull || path.upOhm === Infinity) return []
  const { minV, maxV } = path.converter
  const [lowV, highV] = [sensorVolts(path, sensor.minOhm), sensorVolts(path, sensor.maxOhm)]
  if (lowV >= minV - 1e-9 && highV <= maxV + 1e-9) return []
  const seen = (p: AnalogPath) => coveredOf(line, channel, p)
  const now = seen(path)
  const better = PULLS_OHM.filter((ohm) => ohm !== pull.value.ohm).map((ohm) => ({
    ohm,
    span: seen({ ...path, upOhm: ohm }),
  }))
  const wider = [...better].sort((a, b) => b.span.width - a.span.width).find((b) => b.span.width > now.width * 1.02)
  // Reaching further towards the weak end of the sensor, and still seeing something of the strong one.
  const further = better.find((b) => b.ohm > pull.value.ohm && b.span.reach > now.reach && b !== wider)
  const change = ({ ohm, span }: (typeof better)[number]): Remedy =>
    replacing(
      `Change ${pull.value.names[0]} to ${ohms(ohm)}: ${span.words}`,
      pull.id,
      componentIdOf(line.key, 'pull'),
      { ...pull.value, names: pull.value.names, ohm, tolerance: 0.01 },
    )
  return [
    report(line.key, {
      severity: now.enough ? 'note' : 'fix',
      ...about(design, line),
      sentence: `${line.part.label} with ${ohms(pull.value.ohm)} above it is measured well ${now.words}; beyond that the converter is blind.`,
      steps: [
        {
          gives: 'at the pin',
          formula: 'V = V_dd · R / (R + R_pull)',
          numbers: `${ohms(sensor.minOhm)} … ${ohms(sensor.maxOhm)}`,
          result: `${volts(lowV)} … ${volts(highV)}`,
        },
        {
          gives: 'measured well',
          formula: 'R = R_pull · V / (V_dd − V)',
          numbers: `${volts(minV)} … ${volts(maxV)}`,
          result: `${ohms(Math.max(1, sensorSpan(path).minOhm))} … ${ohms(Math.min(1e9, sensorSpan(path).maxOhm))}`,
        },
      ],
      remedies: [
        ...(wider ? [change(wider)] : []),
        ...(further ? [change(further)] : []),
        ...converterRemedy(context, line, path.supplyV),
      ],
    }),
  ]
}

const PULLS_OHM = [2200, 4700, 10_000, 22_000, 39_000, 68_000, 150_000]
/** What a thermometer of a house, a yard or a workshop has to see, °C. */
const USUAL_C = { min: -15, max: 60 }

/** What of the sensor's range a pull lets the converter see, in the reading's unit. */
function coveredOf(
  line: PlanLine,
  channel: Reading,
  path: AnalogPath,
): { words: string; width: number; reach: number; enough: boolean } {
  const { sensor } = line.terminal
  const { minOhm, maxOhm } = sensorSpan(path)
  const clip = (v: number) => Math.min(channel.range.max, Math.max(channel.range.min, v))
  const of = (ohm: number) => clip(sensor?.kind === 'light' ? lightShare(ohm, sensor) : thermistorC(ohm, line))
  const [low, high] = [of(Math.max(maxOhm, 1)), of(Math.max(minOhm, 1))]
  const unit = channel.unit
  return {
    words: `from ${low.toFixed(0)} to ${high.toFixed(0)} ${unit}`,
    width: high - low,
    reach: -low,
    enough: sensor?.kind === 'thermistor' ? low <= USUAL_C.min && high >= USUAL_C.max : high - low >= 80,
  }
}

function thermistorC(ohm: number, line: PlanLine): number {
  const { betaK = 3950, ohm25 = 10_000 } = line.part.settings
  return 1 / (1 / 298.15 + Math.log(ohm / Number(ohm25)) / Number(betaK)) - 273.15
}

/** Share of brightness over the logarithm of the resistance, %. */
export function lightShare(ohm: number, { minOhm, maxOhm }: { minOhm: number; maxOhm: number }): number {
  return (100 * Math.log(maxOhm / ohm)) / Math.log(maxOhm / minOhm)
}
