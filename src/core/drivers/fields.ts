import { z } from 'zod'
import { curveSchema } from '../calibration/calibrationSchema'
import { slugSchema } from '../model/ids'
import { type ConditioningKey, conditioningField, saidSchema, seconds } from '../model/conditioning'
import { levelsSchema } from '../catalog/levels'
import { gapMs, longMs, PATTERNS, START_STATES } from '../model/behaviour'

/**
 * A field that is left out of the file while it has its usual value: files stay small enough for the smallest board.
 */
/**
 * A field that is left out of the file while it has its usual value: files stay small enough for the smallest board.
 */
export function usual<T extends z.ZodType>(schema: T, value: z.infer<T> | null, description: string) {
  return schema.optional().meta({
    description: `${description}; ${value === null ? 'left out: none' : `left out: ${JSON.stringify(value)}`}`,
    ...(value === null ? {} : { default: value }),
  })
}

/** A field of conditioning in its node-file form, as the table of conditioning says. */
function conditioned<S extends z.ZodType>(key: ConditioningKey, schema: S): z.ZodOptional<S> {
  const { file, usual: own } = conditioningField(key)
  const left = file.usual === undefined ? own : file.usual
  const says = `${file.says}; ${left === null ? 'left out: none' : `left out: ${JSON.stringify(left)}`}`
  return schema.optional().meta({ description: says, ...(left === null ? {} : { default: left }) })
}

export const chipPin = z.int().min(0).max(255).describe("the chip's own pin number")
const everyS = seconds.describe('publish at least this often, s; 0 publishes changes only')
export const activeLow = usual(z.boolean(), false, 'true: a low pin is “on”')
export const pull = usual(z.enum(['up', 'down', 'none']), 'none', 'pull inside the chip')

export const debounceMs = conditioned('debounceMs', z.number().min(0).max(500))
export const holdS = conditioned('holdS', seconds)
export const longestOnS = conditioned('longestOnS', seconds)
export const levels = conditioned('levels', levelsSchema).unwrap()
export const pulseS = conditioned('pulseS', seconds)
export const follows = conditioned('follows', slugSchema)
export const says = conditioned('says', saidSchema).unwrap()

const warmUpS = usual(z.number().min(0).max(3600), 0, 'what its part says counts only this long after power, s')
export const reading = {
  slug: slugSchema,
  warmUpS,
  access: z.literal('reading'),
  chain: z
    .strictObject({
      min: z.number().describe("below this a reading is unknown, in the reading's unit"),
      max: z.number().describe("above this a reading is unknown, in the reading's unit"),
      median: conditioned('median', z.int().min(1).max(9)),
      averageS: conditioned('averageS', z.number().min(0).max(3600)),
      mountM: conditioned('mountM', z.number().min(0).max(50)),
      gain: usual(z.number(), 1, 'calibration factor'),
      offset: usual(z.number(), 0, "calibration offset in the reading's unit"),
      curve: curveSchema.optional().describe('calibration in place of gain and offset'),
    })
    .describe('applied in this order: range, median, average, geometry, gain and offset or curve'),
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
export const state = {
  slug: slugSchema,
  wakes,
  warmUpS,
  access: z.literal('state'),
  publish: z.strictObject({ everyS }),
}
/** A state made of a reading, which stands before it in the file. */
export const made = {
  slug: slugSchema,
  access: z.literal('state'),
  of: slugSchema.describe('reading it is made of'),
  publish: z.strictObject({ everyS }),
}
export const output = { slug: slugSchema, access: z.literal('output'), publish: z.strictObject({ everyS }) }
export const event = { slug: slugSchema, wakes, warmUpS, access: z.literal('event') }

export const atStart = conditioned('atStart', z.enum(START_STATES))

export const presses = usual(
  z.strictObject({
    used: z.array(z.enum(PATTERNS)).min(1).describe('patterns that are told; what is not used delays nothing'),
    gapMs,
    longMs,
    repeatMs: usual(z.number().min(50).max(5000), 300, 'while held after that, “repeat” comes this often, ms'),
  }),
  null,
  'patterns of presses; without it every press is “single” at once',
)

export const i2cPins = z.strictObject({ sda: chipPin, scl: chipPin })
export const address = z.int().min(3).max(119).describe('7-bit address')
export const mux = usual(
  z.strictObject({ address, branch: z.int().min(0).max(7) }),
  null,
  'multiplexer in front, and its branch',
)

export const I2C_CHIPS = ['climate-76', 'climate-44', 'light-23', 'pressure-77', 'adc-48'] as const
export const SERIAL_CHIPS = ['dust', 'ranger', 'presence', 'meter'] as const
export const uart = {
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
export const scale = {
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
