import { z } from 'zod'
import { romSchema, slugSchema } from '../model/design'
import { doSchema, gapMs, longMs, PATTERNS, START_STATES, triggerSchema, WORKS } from '../model/behaviour'

/**
 * A field that is left out of the file while it has its usual value: files stay small enough for the smallest board.
 */
function usual<T extends z.ZodType>(schema: T, value: z.infer<T> | null, description: string) {
  return schema.optional().meta({
    description: `${description}; ${value === null ? 'left out: none' : `left out: ${JSON.stringify(value)}`}`,
    ...(value === null ? {} : { default: value }),
  })
}

const chipPin = z.int().min(0).max(255).describe("the chip's own pin number")
/** The chip's own milliseconds tell before from after for six days. */
const seconds = z.number().min(0).max(500_000)
const everyS = seconds.describe('publish at least this often, s; 0 publishes changes only')
const activeLow = usual(z.boolean(), false, 'true: a low pin is “on”')
const pull = usual(z.enum(['up', 'down', 'none']), 'none', 'pull inside the chip')
const debounceMs = usual(z.number().min(0).max(500), 0, 'a level counts when it has been stable this long, ms')

const warmUpS = usual(z.number().min(0).max(3600), 0, 'what its part says counts only this long after power, s')
const reading = {
  slug: slugSchema,
  warmUpS,
  access: z.literal('reading'),
  chain: z
    .strictObject({
      min: z.number().describe("below this a reading is unknown, in the reading's unit"),
      max: z.number().describe("above this a reading is unknown, in the reading's unit"),
      median: usual(z.int().min(1).max(9), 1, 'readings in the median, odd'),
      averageS: usual(z.number().min(0).max(3600), 0, 'time constant of the exponential average, s'),
      mountM: usual(z.number().min(0).max(50), null, 'height over the empty level, m: value = mountM − reading'),
      gain: usual(z.number(), 1, 'calibration factor'),
      offset: usual(z.number(), 0, "calibration offset in the reading's unit"),
    })
    .describe('applied in this order: range, median, average, geometry, gain and offset'),
  publish: z.strictObject({
    everyS,
    change: usual(
      z.number().min(0),
      0,
      "publish at once when the value moved by this much, in the reading's unit; 0 ignores changes",
    ),
    decimals: usual(z.int().min(0).max(6), 0, 'digits after the point'),
    factor: usual(z.number().positive(), 1, 'published value = reading · factor, e.g. 1000 for m → mm'),
  }),
}
const wakes = usual(
  z.strictObject({
    pin: chipPin,
    level: z.int().min(0).max(1).describe('level of “on” or of a press'),
    pull: z.enum(['up', 'down', 'none']),
  }),
  null,
  'its pin ends the sleep',
)
const state = { slug: slugSchema, wakes, warmUpS, access: z.literal('state'), publish: z.strictObject({ everyS }) }
const output = { slug: slugSchema, access: z.literal('output'), publish: z.strictObject({ everyS }) }
const event = { slug: slugSchema, wakes, warmUpS, access: z.literal('event') }

const atStart = usual(
  z.enum(START_STATES),
  'off',
  'what the output does at power-up, before any command: off, on, last as it was, follow as its input is',
)
const follows = usual(slugSchema, null, 'input a power-up state of “follow” is taken from')
const longestOnS = usual(seconds, 0, 'switches itself off after this and says so, s; 0 is never')

const presses = usual(
  z.strictObject({
    used: z.array(z.enum(PATTERNS)).min(1).describe('patterns that are told; what is not used delays nothing'),
    gapMs,
    longMs,
    repeatMs: usual(z.number().min(50).max(5000), 300, 'while held after that, “repeat” comes this often, ms'),
  }),
  null,
  'patterns of presses; without it every press is “single” at once',
)

const i2cPins = z.strictObject({ sda: chipPin, scl: chipPin })
const address = z.int().min(3).max(119).describe('7-bit address')
const mux = usual(
  z.strictObject({ address, branch: z.int().min(0).max(7) }),
  null,
  'multiplexer in front, and its branch',
)

export const I2C_CHIPS = ['climate-76', 'climate-44', 'light-23', 'pressure-77', 'adc-48'] as const
export const SERIAL_CHIPS = ['dust', 'ranger', 'presence', 'meter'] as const
const uart = {
  pins: z.strictObject({
    rx: chipPin.describe('the board hears here'),
    tx: chipPin.optional().describe('the board speaks here'),
  }),
  uart: z.int().min(0).max(3).describe('serial port of the chip'),
  baud: z.int().min(1200).max(460_800),
}

const above = {
  pullOhm: z.number().positive().describe('resistor to the supply, Ω'),
  supplyV: z.number().positive(),
  loadOhm: usual(z.number().positive(), null, 'what else leads from the pin to ground, Ω'),
  seriesOhm: usual(z.number().min(0), 0, 'in the run between it and the pin, Ω'),
}
const scale = {
  perVolt: usual(z.number(), 1, 'reading = atZero + perVolt · volts at the pin'),
  ntc: usual(
    z.strictObject({ betaK: z.number().positive(), ohm25: z.number().positive().describe('at 25 °C, Ω'), ...above }),
    null,
    'thermistor to ground with a resistor to the supply: °C by the β formula instead of the straight line',
  ),
  light: usual(
    z.strictObject({ brightOhm: z.number().positive(), darkOhm: z.number().positive(), ...above }),
    null,
    'light-dependent resistor to ground with a resistor to the supply: 0 to 100 % over the logarithm of its resistance',
  ),
}

const signal = z.discriminatedUnion('driver', [
  z.strictObject({
    ...reading,
    driver: z.literal('ranger'),
    pins: z.strictObject({ trig: chipPin, echo: chipPin }),
    airC: z.number().describe('air temperature for the speed of sound, °C'),
  }),
  z.strictObject({
    ...reading,
    driver: z.literal('onewire'),
    pins: z.strictObject({ data: chipPin }),
    rom: usual(
      z.union([romSchema, z.literal('unknown')]),
      null,
      'address on a wire with several; unknown: not found yet, and none is believed',
    ),
  }),
  z.strictObject({
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
    atZero: usual(z.number(), 0, "reading at 0 V at the pin, in the reading's unit"),
    ...scale,
  }),
  z.strictObject({
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
  z.strictObject({
    ...reading,
    driver: z.literal('counter'),
    pins: z.strictObject({ a: chipPin }),
    pull,
    debounceMs,
    of: usual(z.enum(['rate', 'total']), 'rate', 'pulses a second, or all there ever were, kept over restarts'),
    perHz: z.number().positive().describe('reading at one pulse a second; of a total, at one pulse'),
  }),
  z.strictObject({
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
  z.strictObject({
    ...reading,
    driver: z.literal('spi'),
    pins: z.strictObject({ sck: chipPin, cs: chipPin, miso: chipPin }),
    chip: z.literal('thermocouple'),
  }),
  z.strictObject({
    ...reading,
    driver: z.literal('serial'),
    ...uart,
    chip: z.enum(SERIAL_CHIPS).describe('protocol of the part'),
  }),
  z.strictObject({
    ...state,
    driver: z.literal('contact'),
    pins: z.strictObject({ a: chipPin }),
    activeLow,
    pull,
    debounceMs,
    holdS: usual(seconds, 0, '“off” counts only after this long of it, s'),
  }),
  z.strictObject({
    ...state,
    driver: z.literal('presence'),
    ...uart,
    holdS: usual(seconds, 0, '“off” counts only after this long of it, s'),
  }),
  z.strictObject({
    ...output,
    driver: z.literal('relay'),
    pins: z.strictObject({ in: chipPin }),
    activeLow,
    atStart,
    follows,
    longestOnS,
    pulseS: usual(seconds, 0, 'true is a pulse of this length, s; 0 stays on'),
  }),
  z.strictObject({
    ...output,
    driver: z.literal('pwm'),
    pins: z.strictObject({ a: chipPin }),
    hz: z.number().positive().describe('frequency of the pulses, Hz'),
    activeLow,
    atStart,
    longestOnS,
  }),
  z.strictObject({
    ...output,
    driver: z.literal('bridge'),
    pins: z.strictObject({ a: chipPin, b: chipPin }),
    hz: z.number().positive(),
    atStart,
    longestOnS,
  }),
  z.strictObject({
    ...output,
    driver: z.literal('servo'),
    pins: z.strictObject({ a: chipPin }),
    atStart,
    lowUs: usual(z.number(), 1000, 'pulse at 0 %, µs'),
    highUs: usual(z.number(), 2000, 'pulse at 100 %, µs'),
  }),
  z.strictObject({
    ...output,
    driver: z.literal('string'),
    pins: z.strictObject({ a: chipPin }),
    lamps: z.int().min(1).max(600),
    atStart,
  }),
  z.strictObject({ ...output, driver: z.literal('display'), pins: i2cPins, address, mux }),
  z.strictObject({
    ...event,
    driver: z.literal('button'),
    pins: z.strictObject({ a: chipPin }),
    activeLow,
    pull,
    debounceMs,
    presses,
  }),
  z.strictObject({
    ...event,
    driver: z.literal('key'),
    pins: z.strictObject({
      row: chipPin.describe('pulled low to ask'),
      column: chipPin.describe('low when the key is held'),
    }),
    pull,
    debounceMs,
    presses,
  }),
  z.strictObject({
    ...event,
    driver: z.literal('ladder'),
    pins: z.strictObject({ a: chipPin }),
    debounceMs,
    presses,
    lowShare: z.number().min(-1).max(2).describe('held while the share of full scale lies between this'),
    highShare: z.number().min(-1).max(2).describe('and this'),
  }),
  z.strictObject({
    ...event,
    driver: z.literal('expander'),
    pins: i2cPins,
    address,
    mux,
    bit: z.int().min(0).max(15),
    debounceMs,
    presses,
  }),
  z.strictObject({
    ...event,
    driver: z.literal('encoder'),
    pins: z.strictObject({ a: chipPin, b: chipPin }),
    pull,
    perStep: usual(z.int().min(1).max(4), 4, 'edges from one click to the next'),
  }),
  z.strictObject({
    ...event,
    driver: z.literal('radio'),
    pins: z.strictObject({ a: chipPin }),
    medium: usual(slugSchema, 'subghz', 'last level of the topic of what was heard'),
  }),
])

export const guardSchema = z.discriminatedUnion('kind', [
  z
    .strictObject({ kind: z.literal('exclusive'), of: z.array(slugSchema).min(2).max(8) })
    .describe('outputs of which at most one may be on'),
  z
    .strictObject({ kind: z.literal('needs'), output: slugSchema, input: slugSchema, is: z.boolean() })
    .describe('an output that may be on only while an input of the same node is so; it goes off by itself'),
])

export const ruleSchema = z.strictObject({
  from: slugSchema,
  when: triggerSchema.describe("a press, a state, unknown, or a reading that crosses a value in the reading's unit"),
  to: slugSchema,
  do: doSchema.describe('value the output gets, or toggle'),
  works: usual(
    z.enum(WORKS),
    'always',
    'alone: only while there is no broker; detached: never, the input does not switch what is beside it',
  ),
})

const ip = z.ipv4()
/** What the runtime on the board reads. Compiled from a design; an edited one can be taken back into it. */
export const nodeFileSchema = z.strictObject({
  format: z.literal('vivid-node/node-file'),
  version: z.literal(1),
  revision: z.int().min(1).describe('counts up with every file compiled for this node'),
  id: z.uuid().describe('identity of the node; survives every rename'),
  node: slugSchema.describe('second level of every topic, and the name the node gives itself on the network'),
  name: usual(z.string().max(60), null, 'what people call it'),
  area: usual(z.string().max(60), null, 'where it is'),
  root: slugSchema.describe('first level of every topic'),
  board: z.string().describe('board it was made for'),
  broker: z.strictObject({
    host: z.string(),
    port: z.int().min(1).max(65535),
    print: usual(
      z.string().regex(/^[0-9a-f]{64}$/),
      null,
      'reached through TLS: SHA-256 of the certificate, by which the broker is known',
    ),
    keepAliveS: z
      .int()
      .min(2)
      .max(600)
      .describe('silence after which the broker gives the node up is 1.5 times this, s'),
  }),
  network: z.string().describe('name of the network entry in the credentials file beside this one'),
  address: usual(
    z.strictObject({ ip, mask: ip, gateway: ip, dns: ip }),
    null,
    'fixed address; otherwise the network gives one',
  ),
  healthS: z
    .number()
    .min(1)
    .max(86_400)
    .describe('health (signal strength, uptime, memory) is published this often, s'),
  sleep: usual(
    z.strictObject({
      everyS: z.number().min(5).max(604_800).describe('from one waking to the next, s'),
      listenS: z.number().min(0.5).max(60).describe('listens this long for commands before it sleeps, s'),
    }),
    null,
    'sleeps between its readings',
  ),
  signals: z.array(signal).max(64),
  guards: usual(z.array(guardSchema).max(16), null, 'what may not be on together, or not without something else'),
  rules: usual(
    z.array(ruleSchema).max(64),
    null,
    'what an input does to an output of the same node, with or without a network',
  ),
})

export type NodeFile = z.infer<typeof nodeFileSchema>
export type NodeFileSignal = NodeFile['signals'][number]
export type Guard = z.infer<typeof guardSchema>
export type LocalRule = z.infer<typeof ruleSchema>
