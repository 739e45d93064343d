import { z } from 'zod'
import { type Channel, terminalOf } from '../catalog/part'
import { allLines } from '../lines/lines'
import { romSchema } from '../model/design'
import { analogLine } from './analogLine'
import type { DriverContext } from './driverContext'
import { formOf } from './driverForm'
import { supplyMeasured } from './supplyMeasured'
import {
  address,
  chipPin,
  debounceMs,
  I2C_CHIPS,
  i2cPins,
  mux,
  pull,
  reading,
  scale,
  SERIAL_CHIPS,
  uart,
  usual,
} from './fields'
import { omitDefault } from './omitDefault'

const form = formOf<'reading'>()

const I2C_READINGS = ['temperature', 'humidity', 'pressure', 'light', 'a0', 'a1', 'a2', 'a3'] as const
const BAUD = { dust: 9600, ranger: 9600, presence: 256_000, meter: 9600 } as const
/** Reading at one pulse a second, by the unit of the reading and the pulses the part gives for one unit. */
const COUNTED: Record<string, (perUnit: number) => number> = {
  'L/min': (perUnit) => 60 / perUnit,
  '1/min': () => 60,
  L: (perUnit) => 1 / perUnit,
  '1': () => 1,
}
const chipModule = (chip: string): string => `chips/${chip.replaceAll('-', '_')}`

/** Volts at a pin of the board. */
const adcSchema = z.strictObject({
  ...reading,
  driver: z.literal('adc'),
  pins: z.strictObject({ a: chipPin }),
  fullV: z
    .number()
    .positive()
    .describe('voltage of the highest code on this board where the chip brings no calibration of its own, V'),
  of: usual(
    z.enum(['mean', 'swing', 'rms']),
    'mean',
    'what counts of the voltage: its mean, its span from lowest to highest, or the effective value of what alternates',
  ),
  zeroDbV: z
    .number()
    .positive()
    .optional()
    .describe('effective value at the pin that is 0 dB, V; left out: the reading is no level in dB'),
  atZero: usual(z.number(), 0, "reading at 0 V at the pin, in the reading's unit"),
  ...scale,
})
export type AnalogFields = Pick<
  z.infer<typeof adcSchema>,
  'fullV' | 'of' | 'zeroDbV' | 'atZero' | 'perVolt' | 'ntc' | 'light'
>

/** Drivers whose signals are numbers. */
export const readings = {
  ranger: form({
    schema: z.strictObject({
      ...reading,
      driver: z.literal('ranger'),
      pins: z.strictObject({ trig: chipPin, echo: chipPin }),
      airC: z.number().describe('air temperature for the speed of sound, °C'),
    }),
    compile: ({ pin, setting }) => ({
      pins: { trig: pin('trig'), echo: pin('echo') },
      airC: Number(setting('airC') || 20),
    }),
  }),
  onewire: form({
    schema: z.strictObject({
      ...reading,
      driver: z.literal('onewire'),
      pins: z.strictObject({ data: chipPin }),
      rom: usual(
        z.union([romSchema, z.literal('unknown')]),
        null,
        'address on a wire with several; unknown: not found yet, and none is believed',
      ),
    }),
    needs: () => ['find'],
    optional: ['find'],
    compile: (context) => ({ pins: { data: context.pin('data') }, ...romOf(context) }),
  }),
  adc: form({
    schema: adcSchema,
    needs: ({ of, zeroDbV }) => [
      ...(of === undefined || of === 'mean' ? [] : ['swing']),
      ...(zeroDbV === undefined ? [] : ['loud']),
    ],
    optional: ['swing', 'loud'],
    compile: (context) => {
      const volts = voltsOf(context)
      return typeof volts === 'string' ? volts : { pins: { a: context.pin(context.line) }, ...volts }
    },
  }),
  ratio: form({
    schema: z.strictObject({
      ...reading,
      driver: z.literal('ratio'),
      pins: z.strictObject({ a: chipPin }),
      fullV: adcSchema.shape.fullV,
      atZero: adcSchema.shape.atZero,
      supply: z
        .strictObject({
          pin: chipPin,
          fullV: z.number().positive(),
          nominalV: z.number().positive().describe('voltage at that pin while the supply is what it is called, V'),
        })
        .describe('where the supply it follows is measured'),
      ...scale,
    }),
    needs: () => ['drivers/adc'],
    compile: (context) => {
      const [volts, supply] = [voltsOf(context), supplyMeasured(context)]
      if (typeof volts === 'string') return volts
      if (supply === null) return null
      const { of: _, zeroDbV: __, ...linear } = volts
      return { pins: { a: context.pin(context.line) }, ...linear, supply }
    },
  }),
  converter: form({
    schema: z.strictObject({
      ...reading,
      driver: z.literal('converter'),
      pins: i2cPins,
      address,
      chip: z.literal('adc-48'),
      mux,
      input: z.int().min(0).max(3).describe('input of the converter'),
      atZero: usual(z.number(), 0, "reading at 0 V at the input, in the reading's unit"),
      ...scale,
    }),
    needs: ({ chip }) => [chipModule(chip)],
    compile: (context) => {
      const [volts, host] = [voltsOf(context), context.hosted()]
      if (typeof volts === 'string') return volts
      if (host === null) return null
      const { fullV: _, of: __, zeroDbV: ___, ...linear } = volts
      return { ...host, ...linear }
    },
  }),
  counter: form({
    schema: z.strictObject({
      ...reading,
      driver: z.literal('counter'),
      pins: z.strictObject({ a: chipPin }),
      pull,
      debounceMs,
      of: usual(z.enum(['rate', 'total']), 'rate', 'pulses a second, or all there ever were, kept over restarts'),
      perHz: z.number().positive().describe('reading at one pulse a second; of a total, at one pulse'),
    }),
    needs: ({ of }) => (of === 'total' ? ['totals'] : []),
    optional: ['totals'],
    compile: ({ channel, pin, pull, setting, line }) => {
      const perHz = COUNTED[channel.unit]?.(Number(setting('perUnit')))
      if (perHz === undefined) return null
      const of = omitDefault('of', channel.id === 'total' ? 'total' : 'rate', 'rate')
      return { pins: { a: pin(line) }, ...pull(line), ...of, perHz }
    },
  }),
  i2c: form({
    schema: z.strictObject({
      ...reading,
      driver: z.literal('i2c'),
      pins: i2cPins,
      address,
      chip: z.enum(I2C_CHIPS).describe('protocol of the part'),
      mux,
      of: z
        .enum(['temperature', 'humidity', 'pressure', 'light', 'a0', 'a1', 'a2', 'a3'])
        .describe('which of its readings'),
    }),
    needs: ({ chip }) => [chipModule(chip)],
    compile: ({ channel, onBus }) => {
      const chip = I2C_CHIPS.find((x) => x === channel.chip)
      const of = I2C_READINGS.find((x) => x === channel.id)
      return chip && of ? { ...onBus(), chip, of } : null
    },
  }),
  spi: form({
    schema: z.strictObject({
      ...reading,
      driver: z.literal('spi'),
      pins: z.strictObject({ sck: chipPin, cs: chipPin, miso: chipPin }),
      chip: z.literal('thermocouple'),
    }),
    compile: ({ channel, kind, pin }) => {
      const on = (role: string) => pin(kind.terminals.find((t) => t.role === 'line' && t.bus?.role === role)?.id ?? '')
      if (channel.chip !== 'thermocouple') return null
      return { pins: { sck: on('sck'), cs: on('cs'), miso: on('miso') }, chip: 'thermocouple' as const }
    },
  }),
  serial: form({
    schema: z.strictObject({
      ...reading,
      driver: z.literal('serial'),
      ...uart,
      chip: z.enum(SERIAL_CHIPS).describe('protocol of the part'),
    }),
    compile: ({ channel, serial }) => {
      const chip = SERIAL_CHIPS.find((x) => x === channel.chip)
      return chip ? { ...serial(BAUD[chip]), chip } : null
    },
  }),
}

type Context = DriverContext<Extract<Channel, { access: 'reading' }>>

/** From volts to the reading; a sentence where the resistor that makes the voltage is missing. */
function voltsOf({ design, board, catalog, kind, channel, signal, part, line }: Context): AnalogFields | string {
  return (
    analogLine({ design, board, catalog, kind, channel, signal }) ??
    `${terminalOf(kind, line)?.label ?? line} of ${part?.label ?? kind.name} lacks the resistor that makes its voltage; the wires bench offers it`
  )
}

/** Which of the parts on its wire a thermometer is; where there is only one, nobody asks. */
function romOf({ design, catalog, signal, part }: DriverContext): { rom?: string } {
  if (part?.rom) return { rom: part.rom }
  const line = allLines(design, catalog).find((l) =>
    l.members.some((m) => m.partId === signal.partId && m.terminal.bus?.kind === 'one-wire'),
  )
  return (line?.members.length ?? 0) > 1 ? { rom: 'unknown' } : {}
}
