import { z } from 'zod'

/** A printed label on a board or part, as it stands on the thing. */
const label = z.string().min(1).max(12)
/** Quirks the planner weighs; all others are for people alone. */
const QUIRKS = ['usb', 'console', 'false-lows', 'larger-modules', 'glitch', 'analog-with-radio'] as const
const quirk = z.strictObject({
  id: z.enum(QUIRKS).optional().describe('what it is to the planner; its word and reason may be reworded'),
  word: z.string().min(1).max(40),
  reason: z.string().min(1),
  ask: z.string().optional().describe('what to find out about the board in hand before the pin is used'),
})

const place = { side: z.enum(['left', 'right']), position: z.int().min(1).max(64), label }

/** Roles of lines on a bus, seen from the board. */
export const BUS_ROLES = ['sda', 'scl', 'sck', 'mosi', 'miso', 'cs', 'tx', 'rx'] as const
export type BusRole = (typeof BUS_ROLES)[number]

const pin = z.strictObject({
  kind: z.literal('pin'),
  ...place,
  chip: z.int().min(0).max(255).describe("the chip's own number for this pin"),
  names: z.array(z.string().min(1).max(16)).default([]).describe('what toolkits and other prints call this pin'),
  functions: z.array(
    z.enum(['in', 'out', 'open-drain', 'pwm', 'adc1', 'adc2', 'dac', 'touch', 'i2c', 'i2c-usual', 'spi-usual']),
  ),
  mux: z
    .array(
      z.strictObject({
        bus: z.enum(['i2c', 'spi', 'uart']),
        controller: z.int().min(0).max(7),
        role: z.enum(BUS_ROLES),
      }),
    )
    .default([])
    .describe('peripherals that silicon ties to this pin; only where routing is fixed'),
  pwm: z
    .strictObject({ slice: z.int().min(0).max(31), channel: z.enum(['a', 'b']) })
    .optional()
    .describe(
      'PWM output tied to this pin: pins with the same slice and channel carry the same signal, one slice has one frequency',
    ),
  pulls: z.array(z.enum(['up', 'down'])).describe('pulls inside the chip that a program can switch on'),
  interrupt: z.boolean(),
  wake: z.boolean().describe('can end deep sleep'),
  startup: z
    .enum(['floats', 'pulled-up', 'pulled-down', 'pulses', 'driven', 'driven-high', 'driven-low'])
    .describe('what the pin does from power-up until a program sets it'),
  strap: z
    .strictObject({
      level: z.enum(['high', 'low', 'any']),
      when: z.enum(['every start', 'writing by cable']),
      ohm: z.number().positive().describe('resistance that holds the level, in the chip or on the board, ohm'),
      held: z
        .boolean()
        .default(true)
        .describe(
          'false: nothing in the chip or on the board holds it; whatever uses the pin has to bring the resistor',
        ),
      reason: z.string().max(2000),
    })
    .optional(),
  onBoard: z
    .strictObject({
      what: z.enum(['lamp', 'resistor', 'divider']),
      ohm: z.number().positive(),
      to: z.string().max(2000),
      lit: z.enum(['high', 'low']).optional(),
    })
    .optional(),
  quirks: z.array(quirk),
})

const position = z.discriminatedUnion('kind', [
  pin,
  z.strictObject({ kind: z.literal('ground'), ...place }),
  z.strictObject({ kind: z.literal('rail'), ...place, rail: z.string().max(2000), note: z.string().max(2000) }),
  z.strictObject({ kind: z.literal('control'), ...place, note: z.string().max(2000) }),
])

const spread = z.strictObject({ low: z.number(), likely: z.number(), high: z.number() })

const routing = z
  .enum(['matrix', 'fixed', 'software'])
  .describe('matrix: any pin; fixed: pins that silicon ties; software: any pin, no limit in number')
const controllers = z.strictObject({ count: z.int().min(0), routing })

/** A board as sold: positions in physical order, component side up, `ends.top` at the top. SI units. */
export const boardSchema = z
  .strictObject({
    format: z.literal('vivid-node/board'),
    id: z.string().regex(/^[a-z0-9-]{1,40}$/),
    version: z.int().min(1),
    name: z.string().max(100),
    recognise: z.string().max(2000),
    chip: z.string().max(100),
    source: z.string().max(2000),
    outlineMm: z.strictObject({
      width: z.number(),
      length: z.number(),
      rowGap: z.number(),
      pitch: z.number(),
      firstPin: z.number(),
    }),
    ends: z.strictObject({ top: z.string().max(2000), bottom: z.string().max(2000) }),
    usb: z.enum(['none', 'serial bridge', 'native']),
    interpreter: z
      .strictObject({
        chip: z
          .enum(['32-class', 'c3-class', 's3-class', 'c6-class', '8266-class', 'rp2040'])
          .describe('port of the interpreter'),
        least: z
          .string()
          .regex(/^1\.\d+$/)
          .describe('oldest version of the interpreter the runtime works with'),
        image: z.string().describe('which image to take, in words'),
        at: z.string().nullable().describe('flash address the image is written to; null where it is copied to a drive'),
        baud: z.int().min(0).describe('speed of writing that bridges of this class stand; 0 over a drive'),
        heapB: z.int().positive().describe('memory that is free at the prompt, at least, bytes'),
        watchdogMs: z.int().positive().describe('a program that hangs is started again after this'),
        codeLeastUs: z.int().positive().describe('shortest pulse of a radio code it tells reliably, µs'),
        tls: z
          .strictObject({ heapB: z.int(), handshakeS: z.number() })
          .nullable()
          .describe('what TLS to the broker takes of its memory and how long its handshake is; null: it cannot'),
      })
      .default({
        chip: '32-class',
        least: '1.20',
        image: '32-class',
        at: '0x1000',
        baud: 115_200,
        heapB: 100 * 1024,
        watchdogMs: 8000,
        codeLeastUs: 250,
        tls: null,
      }),
    radios: z.array(z.enum(['wifi', 'ble', '802.15.4'])),
    logicV: z.number(),
    supplyV: z.strictObject({ min: z.number(), max: z.number() }),
    input: z.strictObject({
      maxAboveSupplyV: z.number(),
      lowRatio: z.number(),
      highRatio: z.number(),
      capacitanceF: z.number(),
      source: z.string().max(2000),
    }),
    pulls: z.strictObject({ upOhm: z.number(), downOhm: z.number() }),
    drive: z.strictObject({ perPinA: z.number(), totalA: z.number() }),
    rails: z.array(
      z.strictObject({
        id: z.string().max(2000),
        name: z.string().max(100),
        min: z.number(),
        max: z.number(),
        limitA: z.number().describe('what parts may take from it, beside the chip itself, A'),
        source: z.string().max(2000),
        usbOnly: z.boolean().default(false).describe('true: alive only while a USB cable is in'),
      }),
    ),
    supply: z
      .strictObject({
        rail: z.string().describe('rail in front of the regulator, where an outside supply is fed in'),
        minV: z.number(),
        maxV: z.number(),
        behind: z
          .enum(['nothing', 'a diode of its own'])
          .describe('what an outside supply has to go through, so that it and USB never feed one another'),
      })
      .default({ rail: '5V', minV: 4.75, maxV: 5.5, behind: 'nothing' })
      .describe('feeding the board from outside'),
    analog: z.strictObject({
      bits: z.int().min(8).max(16),
      minV: z.number().describe('lowest voltage that is measured well'),
      maxV: z.number(),
      fullV: z.number().positive().describe('voltage of the highest code'),
      reference: z
        .enum(['supply', 'internal'])
        .describe('supply: codes follow the supply, so a divider from it does not'),
      loadOhm: z.number().positive().nullable().describe('divider on the board that loads the source'),
    }),
    regulator: z.strictObject({
      kind: z.enum(['linear', 'switching']),
      inMaxV: z.number().positive(),
      dropoutV: z.number().min(0),
      limitA: z.number().positive(),
      riseKPerW: z.number().min(0).describe('warming of a linear regulator per watt'),
      diode: z.boolean().describe('a diode keeps an outside supply and USB apart'),
    }),
    waking: z
      .strictObject({
        interpreterS: spread.describe('from power or the end of deep sleep to the first line of the program, s'),
        filesS: spread.describe("loading the node's own files, s"),
        cpuA: spread.describe('the board while the processor works and the radio is off, A'),
        brownoutV: spread.describe('the regulated supply below which the chip starts anew, V'),
        source: z.string().max(2000),
      })
      .default({
        interpreterS: { low: 0.25, likely: 0.4, high: 0.6 },
        filesS: { low: 0.2, likely: 0.35, high: 0.6 },
        cpuA: { low: 0.02, likely: 0.035, high: 0.07 },
        brownoutV: { low: 2.6, likely: 2.8, high: 3 },
        source: 'usual for chips of this kind',
      }),
    currents: z.strictObject({ activeA: z.number(), radioPeakA: z.number(), sleepA: spread }),
    peripherals: z.strictObject({
      i2c: controllers,
      spi: controllers,
      uart: controllers.extend({ console: z.boolean().describe('true: one of them belongs to the console') }),
      pwm: z.strictObject({
        channels: z.int(),
        timers: z.int().describe('different frequencies at a time'),
        routing: routing,
        maxHz: z.number().positive().default(40_000_000).describe('highest frequency of a pulse-width output'),
      }),
    }),
    wake: z.strictObject({
      timer: z.boolean().describe('can end deep sleep by itself after a time'),
      longestS: z
        .number()
        .positive()
        .nullable()
        .default(null)
        .describe('longest sleep its timer counts, s; null: longer than anyone sleeps'),
      pins: z.enum(['each', 'one, or any high', 'none']).describe('how pins can end deep sleep'),
      tie: z
        .strictObject({ from: z.string().max(2000), to: z.string().max(2000) })
        .optional()
        .describe('a connection deep sleep needs; the pin is then taken'),
      note: z.string().max(2000),
    }),
    download: z
      .strictObject({
        by: z
          .enum(['serial', 'drive'])
          .describe('how the interpreter gets onto it: over a serial port, or as a file copied to a drive'),
        button: z.string().max(40).describe('what has to be held for it'),
        automatic: z.boolean().describe('it usually starts download mode by itself'),
        hold: z.string().describe('what to hold, and when to let go'),
        twoSockets: z.boolean(),
      })
      .optional()
      .describe('writing over the cable for the first time'),
    cost: z
      .strictObject({ each: z.number().min(0), pack: z.int().min(1) })
      .describe('what one costs when bought in this pack, any currency'),
    positions: z.array(position),
  })
  .superRefine((board, ctx) => {
    const seen = new Set<string>()
    for (const [i, p] of board.positions.entries()) {
      if (p.kind !== 'pin') continue
      if (seen.has(p.label))
        ctx.addIssue({ code: 'custom', path: ['positions', i, 'label'], message: `two pins are labelled ${p.label}` })
      seen.add(p.label)
    }
  })

export type Board = z.infer<typeof boardSchema>
export type BoardPosition = Board['positions'][number]
export type BoardPin = Extract<BoardPosition, { kind: 'pin' }>
export type Rail = Board['rails'][number]

/**
 * Drop of the diode an outside supply is fed through, V: a Schottky type of 1 A, warm at little current and cold at its
 * peak.
 */
export const FEED_DIODE_V = { low: 0.2, high: 0.45 } as const

export function pinsOf(board: Board): BoardPin[] {
  return board.positions.filter((p): p is BoardPin => p.kind === 'pin')
}

export function pinByLabel(board: Board, label: string): BoardPin | undefined {
  return pinsOf(board).find((p) => p.label === label)
}

export function railById(board: Board, id: string): Rail | undefined {
  return board.rails.find((r) => r.id === id)
}

export interface PinMatch {
  pin: BoardPin
  by: 'printed label' | 'chip number' | 'another name'
}

/**
 * Pins a word may mean, in every numbering there is: `D1` is printed on one pin, and `5` or `GPIO5` mean the same one.
 * Printed labels first.
 */
export function findPins(board: Board, word: string): PinMatch[] {
  const asked = word.trim().toLowerCase()
  const plain = asked.replace(/^(gpio|io|gp|pin)\s*/, '')
  const pins = pinsOf(board)
  const found: PinMatch[] = [
    ...pins.filter((p) => p.label.toLowerCase() === asked).map((pin) => ({ pin, by: 'printed label' as const })),
    ...pins.filter((p) => String(p.chip) === plain).map((pin) => ({ pin, by: 'chip number' as const })),
    ...pins
      .filter((p) => p.names.some((n) => n.toLowerCase() === asked))
      .map((pin) => ({ pin, by: 'another name' as const })),
  ]
  return found.filter((m, i) => found.findIndex((o) => o.pin === m.pin) === i)
}

/**
 * Highest voltage an input of the board stands while powered, V. Nominal supply + margin, as the data sheets state it.
 */
export function inputMaxV(board: Board): number {
  return board.logicV + board.input.maxAboveSupplyV
}

/** Far below any voltage that matters, far above what sums of floating numbers are off by. */
export const ROUNDING_V = 1e-9
