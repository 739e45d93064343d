import { z } from 'zod'
import { slugSchema } from '../design/design'

const chipPin = z.int().min(0).max(255).describe("the chip's own pin number")
const publishEvery = z.number().min(0).describe('publish at least this often, s; 0 publishes changes only')

const reading = {
  slug: slugSchema,
  access: z.literal('reading'),
  chain: z.strictObject({
    min: z.number().describe("below this a reading is unknown, in the reading's unit"),
    max: z.number().describe("above this a reading is unknown, in the reading's unit"),
    median: z.int().min(1).max(9).describe('readings in the median, odd; 1 is none'),
    averageS: z.number().min(0).describe('time constant of the exponential average, s; 0 is none'),
    mountM: z.number().nullable().describe('height over the empty level, m: value = mountM − reading; null leaves the reading'),
    gain: z.number().describe('calibration factor, 1 is none'),
    offset: z.number().describe("calibration offset in the reading's unit, 0 is none"),
  }).describe('applied in this order: range, median, average, geometry, gain and offset'),
  publish: z.strictObject({
    everyS: publishEvery,
    change: z.number().min(0).describe("publish at once when the value moved by this much, in the reading's unit; 0 ignores changes"),
    decimals: z.int().min(0).max(6),
    factor: z.number().positive().describe("published value = reading · factor, e.g. 1000 for m → mm"),
  }),
}

const activeLow = z.boolean().describe('true: a low pin is “on”')
const pull = z.enum(['up', 'down', 'none']).describe('pull inside the chip')
const debounceMs = z.number().min(0).describe('a level counts when it has been stable this long, ms')

const signal = z.discriminatedUnion('driver', [
  z.strictObject({
    ...reading, driver: z.literal('ranger'), pins: z.strictObject({ trig: chipPin, echo: chipPin }),
    airC: z.number().describe('air temperature for the speed of sound, °C'),
  }),
  z.strictObject({ ...reading, driver: z.literal('onewire'), pins: z.strictObject({ data: chipPin }) }),
  z.strictObject({
    slug: slugSchema, access: z.literal('output'), driver: z.literal('relay'), pins: z.strictObject({ in: chipPin }),
    activeLow: z.boolean().describe('true: a low pin switches it on'),
    atStart: z.literal('off').describe('what the output does at power-up, before any command'),
    longestOnS: z.number().min(0).describe('switches itself off after this, s; 0 is never'),
    publish: z.strictObject({ everyS: publishEvery }),
  }),
  z.strictObject({
    ...reading, driver: z.literal('adc'), pins: z.strictObject({ a: chipPin }),
    fullV: z.number().positive().describe('voltage of the highest code on this board, V'),
    atZero: z.number().describe("reading at 0 V at the pin, in the reading's unit"),
    perVolt: z.number().describe('reading = atZero + perVolt · volts at the pin'),
  }),
  z.strictObject({
    slug: slugSchema, access: z.literal('output'), driver: z.literal('pwm'), pins: z.strictObject({ a: chipPin }),
    hz: z.number().positive().describe('frequency of the pulses, Hz'), activeLow,
    atStart: z.literal('off').describe('what the output does at power-up, before any command'),
    longestOnS: z.number().min(0).describe('goes off by itself after this, s; 0 is never'),
    publish: z.strictObject({ everyS: publishEvery }),
  }),
  z.strictObject({
    slug: slugSchema, access: z.literal('state'), driver: z.literal('contact'), pins: z.strictObject({ a: chipPin }), activeLow, pull, debounceMs,
    holdS: z.number().min(0).describe('“off” counts only after this long of it, s'),
    publish: z.strictObject({ everyS: publishEvery }),
  }),
  z.strictObject({ slug: slugSchema, access: z.literal('event'), driver: z.literal('button'), pins: z.strictObject({ a: chipPin }), activeLow, pull, debounceMs }),
  z.strictObject({
    slug: slugSchema, access: z.literal('event'), driver: z.literal('key'),
    pins: z.strictObject({ row: chipPin.describe('pulled low to ask'), column: chipPin.describe('low when the key is held') }), pull, debounceMs,
  }),
])

/** What the runtime on the board reads. Compiled from a design, never edited by the product after that. */
export const nodeFileSchema = z.strictObject({
  format: z.literal('vivid-node/node-file'),
  version: z.literal(1),
  revision: z.int().min(1).describe('counts up with every file compiled for this node'),
  id: z.uuid().describe('identity of the node; survives every rename'),
  node: slugSchema.describe('second level of every topic'),
  root: slugSchema.describe('first level of every topic'),
  board: z.string(),
  broker: z.strictObject({
    host: z.string(), port: z.int().min(1).max(65535),
    keepAliveS: z.int().min(2).max(600).describe('silence after which the broker gives the node up is 1.5 times this, s'),
  }),
  network: z.string().describe('name of the network entry in the credentials file beside this one'),
  healthS: z.number().min(1).describe('health is published this often, s'),
  signals: z.array(signal).max(64),
})

export type NodeFile = z.infer<typeof nodeFileSchema>
export type NodeFileSignal = NodeFile['signals'][number]
