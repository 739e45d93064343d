import { START_STATES, type StartState } from './startStates'

type Access = 'reading' | 'state' | 'output' | 'event'

interface Traits {
  access: readonly Access[]
  /** What an event says: patterns of presses, or these words. */
  tells?: 'presses' | readonly string[]
  /** States an output can take at power-up. */
  starts?: readonly StartState[]
  /** An output that switches itself off after a longest time. */
  limited?: true
  /** Of no part: made of another signal. */
  made?: true
  /** One channel serves any number of signals, each with what it says. */
  many?: true
  /** What it switches is elsewhere and keeps its own state: nobody answers, and no lost supply takes back what was said. */
  far?: true
  /** What somebody beside the board could do to a stand-in of it. */
  hand?: 'presses' | 'holds' | 'closes' | 'turns' | 'sends' | 'warms'
}

/**
 * Every driver by the one name it has in catalogue, node file, device and stand-ins, with what the rest has to know of
 * it. What it does in the node file is in `core/drivers`, on the board in `device/vn/drivers`, in the stand-ins in
 * `standins/board/models.ts`; none of them compiles or passes while one is missing.
 */
export const DRIVERS = {
  ranger: { access: ['reading'] },
  onewire: { access: ['reading'], hand: 'warms' },
  adc: { access: ['reading'] },
  ratio: { access: ['reading'] },
  converter: { access: ['reading'] },
  counter: { access: ['reading'] },
  i2c: { access: ['reading'] },
  spi: { access: ['reading'] },
  serial: { access: ['reading'] },
  contact: { access: ['state'], hand: 'closes' },
  presence: { access: ['state'] },
  levels: { access: ['state'], made: true },
  relay: { access: ['output'], starts: START_STATES, limited: true },
  pwm: { access: ['output'], starts: START_STATES, limited: true },
  bridge: { access: ['output'], starts: ['off', 'on', 'last'], limited: true },
  servo: { access: ['output'], starts: ['off'] },
  string: { access: ['output'], starts: ['off', 'on', 'last'] },
  display: { access: ['output'], starts: ['off'] },
  transmitter: { access: ['output'], starts: ['off'], limited: true, many: true, far: true },
  button: { access: ['event'], tells: 'presses', hand: 'presses' },
  key: { access: ['event'], tells: 'presses', hand: 'holds' },
  ladder: { access: ['event'], tells: 'presses', hand: 'holds' },
  expander: { access: ['event'], tells: 'presses', hand: 'holds' },
  encoder: { access: ['event'], tells: ['left', 'right'], hand: 'turns' },
  radio: { access: ['event', 'reading', 'state'], tells: ['heard'], hand: 'sends' },
} as const satisfies Record<string, Traits>

export type DriverName = keyof typeof DRIVERS

const isName = (name: string): name is DriverName => Object.hasOwn(DRIVERS, name)
const NAMES = Object.keys(DRIVERS).filter(isName)

/** Drivers whose channels have this access. */
export const driversFor = (access: Access): readonly DriverName[] =>
  NAMES.filter((name) => traitsOf(name).access.includes(access) && !traitsOf(name).made)

export const traitsOf = (name: DriverName): Traits => DRIVERS[name]

/** A key among several of one part: numbered by its place among them. */
export const isKey = (name: DriverName): boolean => name === 'key' || name === 'ladder' || name === 'expander'
