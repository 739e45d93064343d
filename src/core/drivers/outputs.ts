import { z } from 'zod'
import { saysCodes } from '../catalog/codesFit'
import { terminalOf } from '../catalog/part'
import type { saidSchema } from '../model/conditioning'
import { type Says, saysFault } from '../model/says'
import { familyFigures } from '../radio/subghz/family'
import type { DriverContext } from './driverContext'
import { formOf } from './driverForm'
import {
  activeLow,
  address,
  atStart,
  chipPin,
  follows,
  i2cPins,
  longestOnS,
  mux,
  output,
  pulseS,
  says,
  usual,
} from './fields'

const form = formOf<'output'>()

/** Drivers whose signals are switched, dimmed or written. */
export const outputs = {
  relay: form({
    schema: z.strictObject({
      ...output,
      driver: z.literal('relay'),
      pins: z.strictObject({ in: chipPin }),
      activeLow,
      atStart,
      follows,
      longestOnS,
      pulseS,
    }),
    compile: ({ pin, line, activeLow: low }) => ({ pins: { in: pin(line) }, ...low() }),
  }),
  pwm: form({
    schema: z.strictObject({
      ...output,
      driver: z.literal('pwm'),
      pins: z.strictObject({ a: chipPin }),
      hz: z.number().positive().describe('frequency of the pulses, Hz'),
      activeLow,
      atStart,
      follows,
      longestOnS,
    }),
    compile: (context) => {
      const hz = pulsesOf(context)
      return hz === undefined ? null : { pins: { a: context.pin(context.line) }, hz, ...context.activeLow() }
    },
  }),
  bridge: form({
    schema: z.strictObject({
      ...output,
      driver: z.literal('bridge'),
      pins: z.strictObject({ a: chipPin, b: chipPin }),
      hz: z.number().positive(),
      atStart,
      longestOnS,
    }),
    compile: (context) => {
      const hz = pulsesOf(context)
      const { pin, line, channel } = context
      return hz === undefined ? null : { pins: { a: pin(line), b: pin(channel.lines[1] ?? '') }, hz }
    },
  }),
  servo: form({
    schema: z.strictObject({
      ...output,
      driver: z.literal('servo'),
      pins: z.strictObject({ a: chipPin }),
      atStart,
      lowUs: usual(z.number(), 1000, 'pulse at 0 %, µs'),
      highUs: usual(z.number(), 2000, 'pulse at 100 %, µs'),
    }),
    compile: ({ pin, line }) => ({ pins: { a: pin(line) } }),
  }),
  string: form({
    schema: z.strictObject({
      ...output,
      driver: z.literal('string'),
      pins: z.strictObject({ a: chipPin }),
      lamps: z.int().min(1).max(600),
      atStart,
    }),
    compile: ({ pin, line, setting }) => ({
      pins: { a: pin(line) },
      lamps: Math.max(1, Math.round(Number(setting('lamps') || 8))),
    }),
  }),
  transmitter: form({
    schema: z.strictObject({
      ...output,
      driver: z.literal('transmitter'),
      pins: z.strictObject({ a: chipPin }),
      activeLow,
      says,
      permille: z.int().min(1).max(100).describe('of an hour it may be on the air, in thousandths'),
      longestOnS,
      pulseS,
    }),
    needs: (_, { trains }) => [trains],
    compile: ({ pin, line, activeLow: low, signal, setting, board }) => {
      if (!saysCodes(board)) return 'the runtime of this board has no room for what says codes'
      const { says: own } = signal.conditioning
      if (!own) return 'nobody has said yet what it says on the air: choose its codes at Air'
      const fault = saysFault(own)
      if (fault) return fault.refused
      return { pins: { a: pin(line) }, ...low(), says: said(own), permille: Number(setting('permille')) }
    },
  }),
  display: form({
    schema: z.strictObject({ ...output, driver: z.literal('display'), pins: i2cPins, address, mux }),
    compile: ({ onBus }) => onBus(),
  }),
}

/** What is said on the air, as the file has it. */
const said = ({ family, on, off }: Says): z.infer<typeof saidSchema> => ({
  family: familyFigures(family),
  repeats: family.repeats,
  on,
  ...(off === null ? {} : { off }),
})

/** Frequency the part takes its pulses at, Hz. */
function pulsesOf({ kind, line }: DriverContext): number | undefined {
  const terminal = terminalOf(kind, line)
  return terminal?.role === 'line' ? terminal.pwmHz : undefined
}
