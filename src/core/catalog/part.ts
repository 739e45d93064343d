import { mediumSchema } from '../radio/media'
import { levelsSchema } from './levels'
import { driversFor } from './drivers'
import { z } from 'zod'
import { BUS_ROLES } from './board'

const id = z.string().regex(/^[a-z0-9-]{1,40}$/)
const named = { id, label: z.string().min(1).max(12) }

const state = z.strictObject({
  name: z.string().max(100),
  level: z.enum(['high', 'low', 'open']).describe('where the part pulls the line in this state'),
  ohm: z.number().positive().describe('through how many ohm'),
})

const output = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('push-pull'),
    from: id.describe('supply terminal whose voltage the high level follows'),
    highMinRatio: z.number(),
    highMaxRatio: z.number(),
    lowMaxV: z.number(),
    maxA: z.number(),
  }),
  z
    .strictObject({
      kind: z.literal('fixed'),
      highMinV: z.number(),
      highMaxV: z.number(),
      lowMaxV: z.number(),
      maxA: z.number(),
    })
    .describe('levels that do not follow the supply: a regulator on the part, or a voltage that comes with the wire'),
  z.strictObject({ kind: z.literal('open-drain'), lowMaxV: z.number(), maxA: z.number() }),
])

const input = z
  .strictObject({
    ohm: z.number().positive().describe('what the board has to drive, to the level it rests at'),
    from: id.optional().describe('supply terminal the input is pulled to or measured against'),
    highMinV: z.number().optional(),
    lowMaxV: z.number().optional(),
    maxA: z.number().optional().describe('current the board has to give or take, A'),
  })
  .describe('what a driven line asks of the board')

/**
 * A resistor that changes with what it measures, between the line and ground; the pull to the supply makes it a
 * voltage.
 */
const sensor = z
  .strictObject({
    kind: z.enum(['thermistor', 'light', 'potentiometer']),
    minOhm: z.number().min(0),
    maxOhm: z.number().positive(),
  })
  .describe('a resistor that is measured: never behind a divider, its pull and what loads it belong to the sum')

const line = z.strictObject({
  ...named,
  role: z.literal('line'),
  board: z.enum(['drives', 'reads', 'both']).describe('what the board does with the line'),
  needs: z
    .enum(['level', 'pwm', 'analog', 'edges'])
    .default('level')
    .describe('pwm: a pulse-width output; analog: a voltage to measure; edges: an interrupt for each change'),
  pwmHz: z.number().positive().optional().describe('frequency of a pulse-width output; outputs of one timer share it'),
  spanV: z.strictObject({ min: z.number(), max: z.number() }).optional().describe('voltage span of an analog line'),
  sourceOhm: z.number().positive().optional().describe('source resistance of an analog line'),
  sensor: sensor.optional(),
  swings: z
    .strictObject({ mid: id.describe('its other lead, which has to stand at a middle voltage') })
    .optional()
    .describe('it swings about zero: without a middle voltage the pin goes below ground'),
  bus: z
    .strictObject({ kind: z.enum(['i2c', 'spi', 'uart', 'one-wire']), role: z.enum([...BUS_ROLES, 'data']) })
    .optional(),
  states: z.array(state).min(1),
  hazard: z.boolean().describe('an unwanted level here heats, moves or pumps something'),
  rest: z
    .strictObject({ level: z.enum(['high', 'low']), ownPullOhm: z.number().positive().nullable() })
    .optional()
    .describe('the safe level of a driven line, and the pull on the part that holds it'),
  pull: z.enum(['up', 'down']).optional().describe('the pull a bare contact needs'),
  outsidePull: z
    .strictObject({ level: z.enum(['high', 'low']), ohm: z.number().positive(), reason: z.string().max(2000) })
    .optional(),
  output: output.optional(),
  input: input.optional(),
  pullsToSupply: id.optional().describe('supply terminal a resistor on the part pulls the open line up to'),
  coil: z
    .strictObject({
      ohm: z.number().positive(),
      diode: z.boolean().describe('true: the part has its own path for the current when it is switched off'),
    })
    .optional()
    .describe('the line switches a coil'),
  bareLamp: z
    .strictObject({ forwardV: z.number().positive(), wantsA: z.number().positive() })
    .optional()
    .describe('a light-emitting diode without a resistor of its own'),
  lamp: z
    .strictObject({ ohm: z.number().positive(), dropV: z.number().min(0), supply: id })
    .optional()
    .describe('a lamp between this line and a supply terminal'),
  leakA: z.number().positive().optional().describe('current through it when it is open, A'),
})

/** What a terminal that is not the board's does in the circuit it belongs to. */
const does = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('common'), of: id }).describe('common of the contact a line switches'),
  z
    .strictObject({ kind: z.literal('closes'), of: id })
    .describe('normally open: joined to the common while the line is active'),
  z
    .strictObject({ kind: z.literal('opens'), of: id })
    .describe('normally closed: joined to the common while the line rests or the node has no power'),
  z
    .strictObject({
      kind: z.literal('sinks'),
      of: id,
      maxV: z.number().positive(),
      maxA: z.number().positive(),
      peakA: z.number().positive(),
    })
    .describe(
      'low-side switch: led to the part’s ground while the line is active; highest voltage, current for long and for a moment',
    ),
  z
    .strictObject({ kind: z.literal('drives'), of: id, maxA: z.number().positive(), peakA: z.number().positive() })
    .describe('output of a motor driver'),
  z
    .strictObject({
      kind: z.literal('senses'),
      pole: z.enum(['plus', 'minus']),
      minV: z.number(),
      maxV: z.number(),
      ac: z.boolean(),
    })
    .describe('isolated input for a voltage'),
  z
    .strictObject({
      kind: z.literal('switches'),
      pole: z.enum(['plus', 'minus']),
      of: id,
      maxV: z.number().positive(),
      maxA: z.number().positive(),
      lowMaxV: z.number(),
      darkA: z.number().min(0),
    })
    .describe('isolated transistor output: plus is the collector, minus the emitter'),
  z
    .strictObject({ kind: z.literal('input'), number: z.int().min(0) })
    .describe('input of a converter on a bus that measures a voltage for another part'),
  z
    .strictObject({
      kind: z.literal('foreign'),
      pair: id,
      role: z.enum(['start', 'stop', 'safety', 'signal', 'tamper']),
      openV: z.number().min(0),
      closedA: z.number().min(0),
      ac: z.boolean(),
    })
    .describe(
      'terminal of a device that is there already: what it does when its pair is joined or parted, its voltage open and current closed',
    ),
])
export type Does = z.infer<typeof does>

const terminal = z.discriminatedUnion('role', [
  line,
  z.strictObject({
    ...named,
    role: z.literal('supply'),
    minV: z.number(),
    maxV: z.number(),
    idleA: z.number(),
    peakA: z.number().describe('highest current while it works, A'),
    startA: z
      .number()
      .positive()
      .optional()
      .describe('current for the first moment: a motor starting, a cold lamp, a capacitor filling, A'),
    per: z
      .strictObject({ setting: id, idleA: z.number().min(0), peakA: z.number().positive() })
      .optional()
      .describe('current that comes with each unit of a setting, in place of the fixed one'),
    ac: z.boolean().optional().describe('true: takes alternating current as well; it is rectified on the part'),
  }),
  z
    .strictObject({
      ...named,
      role: z.literal('source'),
      minV: z.number(),
      maxV: z.number(),
      limitA: z.number().positive(),
      limitBy: id.optional().describe('setting that says what the one in hand gives, A'),
      kind: z.enum(['DC', 'AC']),
      isolated: z.boolean().describe('certified isolation from the mains'),
    })
    .describe('where a rail of its own begins'),
  z.strictObject({
    ...named,
    role: z.literal('ground'),
    of: z
      .array(id)
      .min(1)
      .optional()
      .describe('terminals it is the return of, where a part has several grounds; left out: of all'),
  }),
  z.strictObject({ ...named, role: z.literal('contact'), does: does.optional() }),
])

const proposal = {
  slug: z.string().max(2000),
  letter: z.string().regex(/^[A-Z]$/),
  unit: z.string().max(2000),
  decimals: z.int().min(0).max(6),
  intervalS: z.number(),
}
const channelBase = {
  id,
  name: z.string().max(100),
  lines: z.array(id),
  quantity: z.string().max(2000),
  unit: z.string().max(2000),
}

/** Drivers a channel of this access can have; see `drivers.ts`. */
const driverFor = (access: Parameters<typeof driversFor>[0]) => z.enum(driversFor(access))

const channel = z.discriminatedUnion('access', [
  z.strictObject({
    ...channelBase,
    access: z.literal('reading'),
    driver: driverFor('reading'),
    chip: z.string().optional().describe('protocol of the part behind the bus, by class'),
    range: z.strictObject({ min: z.number(), max: z.number() }),
    analog: z
      .enum(['volts', 'span', 'falling', 'swing', 'rms', 'loud', 'thermistor', 'light', 'share'])
      .optional()
      .describe(
        'volts: the reading is the voltage itself; span: the range lies evenly over the line’s span of voltage; falling: the other way round; swing: so does the distance from lowest to highest; rms: its effective value times perVolt; loud: its effective value in dB, 0 the loudest sine the line carries; thermistor: to ground, with a resistor to the supply; light: a light-dependent resistor, its range over the logarithm of its resistance; share: a share of the supply',
      ),
    perVolt: z.number().positive().optional().describe('reading per volt of effective value'),
    states: z
      .array(
        z.strictObject({
          name: z.string().max(60),
          slug: z.string().max(40),
          letter: z.string().regex(/^[A-Z]$/),
          levels: levelsSchema,
        }),
      )
      .min(1)
      .optional()
      .describe('states it is commonly made into, thresholds as they are to be tried first'),
    asSold: z.strictObject({ halfWidth: z.number().describe("in the reading's unit"), words: z.string().max(2000) }),
    proposes: z.strictObject({
      ...proposal,
      change: z.number(),
      median: z.int().optional(),
      averageS: z.number().optional(),
      geometry: z.literal('level').optional(),
    }),
  }),
  z.strictObject({
    ...channelBase,
    access: z.literal('state'),
    driver: driverFor('state'),
    activeLevel: z.enum(['high', 'low']),
    words: z
      .strictObject({ on: z.string().max(2000), off: z.string().max(2000) })
      .describe('what true and false mean: open and closed, not on and off'),
    told: z.array(z.string().max(24)).min(3).optional().describe('words it says in place of true and false'),
    proposes: z.strictObject({
      ...proposal,
      debounceMs: z.number(),
      holdS: z.number().optional().describe('“gone” only after this long of nothing, s'),
    }),
  }),
  z.strictObject({
    ...channelBase,
    access: z.literal('output'),
    driver: driverFor('output'),
    medium: mediumSchema.optional(),
    activeLevel: z.enum(['high', 'low']),
    value: z.enum(['on-off', 'percent', 'text', 'colour']).default('on-off'),
    proposes: z.strictObject({ ...proposal, longestOnS: z.number() }),
  }),
  z.strictObject({
    ...channelBase,
    access: z.literal('event'),
    driver: driverFor('event'),
    medium: mediumSchema.optional(),
    activeLevel: z.enum(['high', 'low']),
    proposes: z.strictObject({ ...proposal, debounceMs: z.number() }),
  }),
])

/** What hangs on a switch: kind decides its start and what its end does to the contact. */
/** What a cell is made of: it decides its curve, its own discharge, the cold and the pulses it stands. */
export const CHEMISTRIES = [
  'lithium-ion',
  'lithium-iron-phosphate',
  'lithium-iron-disulfide',
  'lithium-manganese',
  'lithium-thionyl',
  'lithium-primary',
  'alkaline',
  'nickel',
  'lead',
] as const
export type Chemistry = (typeof CHEMISTRIES)[number]

const LOAD_KINDS = ['resistive', 'lamp', 'motor', 'coil', 'capacitive', 'unknown'] as const
export type LoadKind = (typeof LOAD_KINDS)[number]

/** What a choice of a setting means to the rules. Words may be changed without touching these. */
const meaning = z.strictObject({
  load: z
    .strictObject({
      kind: z.enum(LOAD_KINDS),
      volts: z.number().positive(),
      ac: z.boolean(),
      start: z.number().min(1).describe('current of the first moment as a multiple of the running one'),
      moves: z.boolean().describe('pumps, heats or moves something that can hurt or flood'),
      mains: z.boolean(),
      signal: z.boolean().optional().describe('it plays a finger on a button: a pulse, not a supply'),
      part: id.optional().describe('part kind that is such a load'),
    })
    .optional()
    .describe('what is switched'),
  carries: z
    .strictObject({ minV: z.number(), maxV: z.number(), ac: z.boolean() })
    .optional()
    .describe('a voltage of its own that comes with the wire'),
  tamper: z.boolean().optional(),
  falls: z.boolean().optional().describe('the output falls when the reading rises'),
  inUse: z.boolean().optional().describe('something else still depends on it'),
  pullsUp: z.boolean().optional().describe('a resistor on the part pulls the open line to its own supply'),
  wakes: z.boolean().optional(),
  bareTurns: z.number().positive().optional().describe('a current transformer without a burden, with this many turns'),
  reverses: z.boolean().optional().describe('two directions'),
})
export type Meaning = z.infer<typeof meaning>

/** What a design keeps of a choice, and rules go by; its label is for people and may be reworded. */
const choiceId = z
  .string()
  .regex(/^(0x[0-9A-F]{2}|[a-z0-9-]{1,40})$/, 'an id of lower-case letters, digits and hyphens, or an address')

const setting = z.union([
  z.strictObject({
    id: z.string().max(2000),
    label: z.string().max(100),
    unit: z.string().max(2000),
    default: z.number(),
    min: z.number(),
    max: z.number(),
    why: z.string().max(2000),
  }),
  z.strictObject({
    id: z.string().max(2000),
    label: z.string().max(100),
    unit: z.string().max(2000),
    default: choiceId,
    choices: z
      .array(z.strictObject({ id: choiceId, label: z.string().min(1).max(100), means: meaning.optional() }))
      .min(1)
      .refine((all) => new Set(all.map((c) => c.id)).size === all.length, 'each choice with an id of its own'),
    why: z.string().max(2000),
  }),
])

export type SupplyCurrents = { idleA: number; peakA: number; startA: number }

export const GROUPS = [
  'presses and switches',
  'doors and presence',
  'level and distance',
  'climate and air',
  'electric and flow',
  'switching',
  'light and sound',
  'moving',
  'radio',
  'extending',
  'feeding',
  'loads',
] as const

/** A kind of part: what it is fed with, which lines it has, what it can know or do. SI units, temperatures in °C. */
export const partKindSchema = z
  .strictObject({
    format: z.literal('vivid-node/part'),
    id,
    version: z.int().min(1),
    name: z.string().max(100),
    summary: z.string().max(2000),
    group: z.enum(GROUPS),
    finds: z.array(z.string().max(2000)).describe('words a person would search it by'),
    source: z.string().max(2000),
    cost: z
      .strictObject({ each: z.number().min(0), pack: z.int().min(1) })
      .describe('what one costs when bought in this pack, any currency'),
    readyMade: z
      .number()
      .min(0)
      .nullable()
      .describe('what a ready-made device that does the same costs, without its hub; null when there is none'),
    i2c: z
      .strictObject({
        addresses: z
          .array(z.int().min(3).max(119))
          .min(1)
          .describe('7-bit addresses the part can be set to, the usual one first'),
        how: z.string().describe('how its address is chosen'),
        maxHz: z.number(),
        pull: z
          .strictObject({ ohm: z.number().positive(), to: id })
          .nullable()
          .describe('pull-ups the part brings along, and its supply terminal they go to'),
      })
      .optional(),
    contacts: z
      .strictObject({ dcV: z.number(), dcA: z.number(), acV: z.number(), acA: z.number() })
      .optional()
      .describe('what its contacts switch, resistive load'),
    load: z
      .strictObject({
        kind: z.enum(LOAD_KINDS),
        moves: z.boolean(),
        mains: z.boolean(),
        longestOnS: z.number().positive().optional().describe('longest it may be on at a time, s'),
      })
      .optional()
      .describe('what it is to the switch it hangs on'),
    isolates: z.boolean().optional().describe('its source is isolated from its supply'),
    warmUp: z
      .strictObject({ s: z.number().positive(), why: z.string().max(2000) })
      .optional()
      .describe('time after power-up before anything it says counts, s'),
    converter: z
      .strictObject({
        bits: z.int().min(8).max(24),
        minV: z.number(),
        maxV: z.number(),
        fullV: z.number().positive(),
        reference: z.enum(['supply', 'internal']),
        loadOhm: z.number().positive().nullable(),
      })
      .optional()
      .describe('measures voltages of other parts at its inputs'),
    railSwitch: z
      .strictObject({ line: id, out: id.optional(), settleMs: z.int().min(0).max(1000) })
      .optional()
      .describe(
        'a high level at its line feeds its source, or the part itself where it names none; the node does so while it is awake, and waits this long',
      ),
    charger: z
      .strictObject({ rate: z.string().max(40).describe('setting that says the current, A') })
      .optional()
      .describe('charges the cell its supply terminal is joined to, and lets it feed on'),
    cell: z
      .strictObject({
        capacityAh: z.number().positive(),
        innerOhm: z.number().positive(),
        rechargeable: z.boolean(),
        chemistry: z.enum(CHEMISTRIES),
      })
      .optional(),
    terminals: z.array(terminal),
    channels: z.array(channel),
    settings: z.array(setting),
    cautions: z.array(
      z.strictObject({
        id: z.string().max(2000),
        when: z
          .strictObject({ setting: z.string().max(2000), is: choiceId })
          .nullable()
          .describe('only while this setting has this choice'),
        mains: z.boolean().describe('it is about mains voltage: nothing is connected to a computer before that is off'),
        title: z.string().max(100),
        text: z.string().max(2000),
      }),
    ),
  })
  .superRefine((kind, ctx) => {
    const lines = kind.terminals.flatMap((t) => (t.role === 'line' ? [t.id] : []))
    const say = (path: (string | number)[], message: string) => ctx.addIssue({ code: 'custom', path, message })
    kind.terminals.forEach((t, i) => {
      if (kind.terminals.findIndex((o) => o.id === t.id) !== i)
        say(['terminals', i, 'id'], `a terminal id of its own; “${t.id}” is taken`)
      if (
        t.role === 'line' &&
        t.output?.kind === 'push-pull' &&
        !kind.terminals.some(
          (o) => o.role === 'supply' && o.id === (t.output?.kind === 'push-pull' ? t.output.from : ''),
        )
      )
        say(['terminals', i, 'output', 'from'], 'one of the part’s supply terminals')
    })
    kind.settings.forEach((s, i) => {
      if ('choices' in s && !s.choices.some((c) => c.id === s.default))
        say(['settings', i, 'default'], `one of the choices: ${s.choices.map((c) => c.id).join(', ')}`)
    })
    // A caution that hangs on a choice nobody can make would never be seen.
    kind.cautions.forEach(({ when }, i) => {
      const setting = kind.settings.find((s) => s.id === when?.setting)
      if (when && !(setting && 'choices' in setting && setting.choices.some((c) => c.id === when.is)))
        say(['cautions', i, 'when'], 'a setting of this part, and one of its choices')
    })
    kind.channels.forEach((c, i) =>
      c.lines.forEach((l, k) => {
        if (!lines.includes(l))
          say(['channels', i, 'lines', k], `one of the part’s lines: ${lines.join(', ') || 'it has none'}`)
      }),
    )
  })

export type Cell = NonNullable<PartKind['cell']>
export type PartKind = z.infer<typeof partKindSchema>
export type Setting = PartKind['settings'][number]
export type Choice = Extract<Setting, { choices: unknown }>['choices'][number]
export type Terminal = PartKind['terminals'][number]
export type LineTerminal = Extract<Terminal, { role: 'line' }>
export type SupplyTerminal = Extract<Terminal, { role: 'supply' }>
export type SourceTerminal = Extract<Terminal, { role: 'source' }>
export type Channel = PartKind['channels'][number]
export type Access = Channel['access']
export type PartSetting = PartKind['settings'][number]

export function terminalOf(kind: PartKind, terminalId: string): Terminal | undefined {
  return kind.terminals.find((t) => t.id === terminalId)
}

/** A line as its part is set: an output that pulls itself up to its own supply has that supply's high level. */
export function lineAsSet(
  kind: PartKind,
  settings: Readonly<Record<string, string | number>>,
  t: LineTerminal,
): LineTerminal {
  if (t.pullsToSupply === undefined || t.output?.kind !== 'open-drain' || !meansOf(kind, settings).pullsUp) return t
  return {
    ...t,
    pull: undefined,
    output: {
      kind: 'push-pull',
      from: t.pullsToSupply,
      highMinRatio: 0.9,
      highMaxRatio: 1,
      lowMaxV: t.output.lowMaxV,
      maxA: PULLED_A,
    },
  }
}

/** What an output gives that only a resistor of some 10 kΩ inside the part pulls up: too little for a divider, A. */
const PULLED_A = 0.0001

/** The ground a terminal returns to, where the part has one for it. */
export function returnOf(kind: PartKind, terminalId: string): string | undefined {
  const grounds = kind.terminals.filter((t) => t.role === 'ground')
  return grounds.find((g) => g.of?.includes(terminalId))?.id ?? grounds.find((g) => g.of === undefined)?.id
}

/** What the choices a part is set to mean, together. */
export function meansOf(kind: PartKind, settings: Readonly<Record<string, string | number>>): Meaning {
  return kind.settings.reduce<Meaning>((all, s) => ({ ...all, ...chosen(s, settings)?.means }), {})
}

/** The choice a setting stands at; undefined for a number, and for a choice that is not there. */
export function chosen(setting: Setting, settings: Readonly<Record<string, string | number>>): Choice | undefined {
  if (!('choices' in setting)) return undefined
  const value = settings[setting.id] ?? setting.default
  return setting.choices.find((c) => c.id === value)
}

/** The cautions of a part as it is set, each with the choice that brings it, where one does. */
export function cautionsOf(
  kind: PartKind,
  settings: Readonly<Record<string, string | number>>,
): { caution: PartKind['cautions'][number]; choice: Choice | null }[] {
  return kind.cautions.flatMap((caution): { caution: PartKind['cautions'][number]; choice: Choice | null }[] => {
    const { when } = caution
    if (when === null) return [{ caution, choice: null }]
    const setting = kind.settings.find((s) => s.id === when.setting)
    const choice = setting && chosen(setting, settings)
    return choice?.id === when.is ? [{ caution, choice }] : []
  })
}

/** Currents of a supply terminal as the part is set, A: at rest, while it works, and for the first moment. */
export function supplyCurrents(
  t: SupplyTerminal,
  settings: Readonly<Record<string, string | number>>,
  kind: PartKind,
): SupplyCurrents {
  const setting = t.per && kind.settings.find((s) => s.id === t.per?.setting)
  const n = t.per && setting ? Number(settings[setting.id] ?? setting.default) : 0
  const [idleA, peakA] = t.per ? [t.per.idleA * n, t.per.peakA * n] : [t.idleA, t.peakA]
  return { idleA, peakA, startA: Math.max(peakA, t.startA ?? 0) }
}

export function linesOf(kind: PartKind): LineTerminal[] {
  return kind.terminals.filter((t): t is LineTerminal => t.role === 'line')
}
