import type { DriverName } from '../../src/core/catalog/drivers'
import type { NodeFileSignal } from '../../src/core/nodefile/nodeFile'
import { Knob } from '../parts/Knob'
import { MatrixKey } from '../parts/MatrixKey'
import { PulseSource } from '../parts/PulseSource'
import { PushButton } from '../parts/PushButton'
import { Ranger } from '../parts/Ranger'
import { ReedContact } from '../parts/ReedContact'
import { Thermocouple } from '../parts/Thermocouple'
import { VoltageSource } from '../parts/VoltageSource'
import { Adc48, type BusPart, Climate44, Climate76, Display, Expander, Light23 } from '../world/i2c'
import { addressOf, OneWireLine, OneWireThermometer } from '../world/oneWireThermometer'
import { speakers } from '../world/serialParts'
import { Said } from './said'
import { busKey, type Soldered } from './wiring'

type Signal<N extends DriverName> = Extract<NodeFileSignal, { driver: N }>
type Models = { [N in DriverName]: (to: Soldered, signal: Signal<N>) => void }

const nothingToFeel = () => undefined

/** What is soldered on for a signal, by its driver; a driver without an entry does not compile. */
export const MODELS: Models = {
  ranger: (to, s) => void to.parts.push(new Ranger(to.world, s.pins)),
  relay: (to, s) => void to.relays.push({ pin: s.pins.in, on: s.activeLow ? 0 : 1 }),
  button: (to, s) => void to.parts.push(new PushButton(to.world, s.slug, s.pins.a, s.activeLow ? 0 : 1)),
  onewire: thermometer,
  contact: (to, s) => void to.parts.push(new ReedContact(to.world, s.slug, s.pins.a)),
  key: (to, s) => void to.parts.push(new MatrixKey(to.world, s.slug, s.pins)),
  adc: voltage,
  ratio: voltage,
  ladder: (to, s) => {
    const share = Math.max(0, (s.lowShare + s.highShare) / 2)
    to.ladderAt(s.pins.a).keys.push({ slug: s.slug, share })
  },
  pwm: (to, s) => void to.dimmed.set(s.slug, { pin: s.pins.a, activeLow: s.activeLow ?? false }),
  counter: (to, s) => void to.parts.push(new PulseSource(to.world, s.slug, s.pins.a)),
  encoder: (to, s) => void to.parts.push(new Knob(to.world, s.pins)),
  spi: (to, s) => void to.parts.push(new Thermocouple(to.world, s.pins)),
  radio: (to, s) => {
    to.radio = s.pins.a
  },
  transmitter: (to, s) => void to.transmitters.set(s.pins.a, new Said(s.activeLow ?? false)),
  display: (to, s) => {
    to.display = new Display()
    to.put(s, to.display)
  },
  expander,
  i2c: onTheBus,
  converter,
  serial: speaks,
  presence: speaks,
  bridge: nothingToFeel,
  servo: nothingToFeel,
  string: nothingToFeel,
  levels: nothingToFeel,
}

function voltageOf(s: Signal<'adc' | 'ratio'>): 'loop' | 'ntc' | 'swing' {
  if (s.driver === 'ratio') return 'loop'
  if (s.ntc) return 'ntc'
  return s.of === 'rms' || s.of === 'swing' ? 'swing' : 'loop'
}

/** As many parts as the file has on this wire, each with an address of its own, whatever the file calls them. */
function thermometer(to: Soldered, s: Signal<'onewire'>): void {
  const { tank, yard, warmed, nowUs } = to.world
  const before = to.wires.get(s.pins.data)?.parts ?? []
  const n = [...to.wires.values()].reduce((sum, l) => sum + l.parts.length, 0)
  const celsius = () => (to.part(Ranger) ? tank.waterC : yard.kilnRoomC) + 3 * n + warmed(n)
  to.wires.set(s.pins.data, new OneWireLine([...before, new OneWireThermometer(celsius, nowUs, addressOf(n + 1))]))
}

function expander(to: Soldered, s: Signal<'expander'>): void {
  if (to.nth(`expander ${busKey(s)} ${s.address}`) > 0) return
  const slugs = new Map(
    to.file.signals.flatMap((o) =>
      o.driver === 'expander' && o.address === s.address ? [[o.bit, o.slug] as const] : [],
    ),
  )
  to.put(s, new Expander((bit) => slugs.has(bit) && to.world.comings.held(slugs.get(bit) ?? '')))
}

/** Two signals that are the same reading of the same address are two parts there, whatever the design meant. */
function onTheBus(to: Soldered, s: Signal<'i2c'>): void {
  const place = `${busKey(s)} ${s.mux?.branch ?? ''} ${s.address}`
  const nth = to.nth(`${place} ${s.of}`)
  if (nth < to.nth(`parts ${place}`)) return
  to.put(s, chipOf(to, s))
}

function chipOf(to: Soldered, s: Signal<'i2c'>): BusPart {
  const { yard } = to.world
  const own = to.nth('shelf')
  const climate = () => yard.cupboardAt(own)
  switch (s.chip) {
    case 'climate-44':
      return new Climate44(climate)
    case 'light-23':
      return new Light23(() => yard.storeLx)
    case 'adc-48':
      return new Adc48((n) => 0.4 + 0.3 * n)
    case 'climate-76':
    case 'pressure-77':
      return new Climate76(climate, s.chip === 'climate-76')
  }
}

function voltage(to: Soldered, s: Signal<'adc' | 'ratio'>): void {
  const { slug, fullV } = s
  void to.parts.push(
    new VoltageSource(to.world, {
      pin: s.pins.a,
      slug,
      fullV,
      kind: to.file.supply === slug ? 'cell' : voltageOf(s),
    }),
  )
}

function converter(to: Soldered, s: Signal<'converter'>): void {
  if (to.nth(`converter ${busKey(s)} ${s.address} ${s.mux?.branch ?? ''}`) > 0) return
  const slugAt = (n: number) =>
    to.file.signals.find((o) => o.driver === 'converter' && o.address === s.address && o.input === n)?.slug ?? ''
  to.put(s, new Adc48((n) => to.world.comings.volts(slugAt(n))))
}

function speaks(to: Soldered, s: Signal<'serial' | 'presence'>): void {
  const { tank, comings, random } = to.world
  const { dust, ranger, meter, presence } = speakers
  const by = {
    dust: () => dust(() => 9 + 4 * random()),
    ranger: () => ranger(() => 0.908 - tank.levelM),
    meter: () => meter(() => 60 + 20 * random()),
    presence: () =>
      presence(
        () => comings.held(s.slug) || comings.closed(s.slug),
        () => 1.8,
      ),
  }
  to.speakers.set(s.uart, by[s.driver === 'presence' ? 'presence' : s.chip]())
}
