import { type NodeFileSignal, nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import type { Comings } from '../world/comings'
import {
  Adc48,
  behind,
  Bus,
  type BusFaults,
  type BusPart,
  Climate44,
  Climate76,
  Display,
  Expander,
  Light23,
  Multiplexer,
} from '../world/i2c'
import { addressOf, OneWireLine, OneWireThermometer } from '../world/oneWireThermometer'
import { type Speaker, speakers } from '../world/serialParts'
import type { Tank } from '../world/tank'
import type { Yard } from '../world/yard'

export interface World {
  warmed: (n: number) => number
  tank: Tank
  yard: Yard
  comings: Comings
  random: () => number
  faults: BusFaults
  nowUs: () => number
}

/** What is soldered to which pin, chip pin numbers. Contacts, keys and voltages go by the slug of their signal. */
export interface PartWiring {
  ranger: { trig: number; echo: number } | null
  relays: { pin: number; on: 0 | 1 }[]
  buttons: Map<number, { slug: string; down: 0 | 1 }>
  /** One-wire lines by pin. */
  wires: Map<number, OneWireLine>
  contacts: Map<number, string>
  keys: { slug: string; row: number; column: number }[]
  voltages: Map<number, { slug: string; fullV: number; kind: 'loop' | 'ntc' | 'rms' }>
  ladders: Map<number, { slug: string; share: number }[]>
  dimmed: Map<string, { pin: number; activeLow: boolean }>
  counters: Map<number, string>
  encoders: { slug: string; a: number; b: number }[]
  thermocouple: { sck: number; cs: number; miso: number } | null
  radio: number
  buses: Map<string, Bus>
  display: Display | null
  speakers: Map<number, Speaker>
  lit: Map<number, number[]>
}

const busKey = (pins: { sda: number; scl: number }) => `${pins.sda} ${pins.scl}`
type OnBus = Extract<NodeFileSignal, { address: number }>

/** The stand-in's parts follow the node file it runs, as if somebody re-soldered them for every revision. */
export function wiringFromFile(text: string, world: World): PartWiring {
  const file = nodeFileSchema.parse(JSON.parse(text))
  const w: PartWiring = {
    ranger: null,
    relays: [],
    buttons: new Map(),
    wires: new Map(),
    contacts: new Map(),
    keys: [],
    voltages: new Map(),
    ladders: new Map(),
    dimmed: new Map(),
    counters: new Map(),
    encoders: [],
    thermocouple: null,
    radio: -1,
    buses: new Map(),
    display: null,
    speakers: new Map(),
    lit: new Map(),
  }
  const { yard, tank, comings } = world
  const muxes = new Map<string, Multiplexer>()
  const put = (s: OnBus, part: BusPart) => {
    const key = busKey(s.pins)
    const bus = w.buses.get(key) ?? new Bus(world.faults, world.random)
    w.buses.set(key, bus)
    if (!s.mux) return bus.add(s.address, part)
    const muxKey = `${key} ${s.mux.address}`
    const mux = muxes.get(muxKey) ?? new Multiplexer()
    if (!muxes.has(muxKey)) bus.add(s.mux.address, mux)
    muxes.set(muxKey, mux)
    bus.add(s.address, behind(mux, s.mux.branch, part))
  }
  const seen = new Map<string, number>()
  let shelf = 0
  for (const s of file.signals) {
    switch (s.driver) {
      case 'ranger':
        w.ranger = s.pins
        break
      case 'relay':
        w.relays.push({ pin: s.pins.in, on: s.activeLow ? 0 : 1 })
        break
      case 'button':
        w.buttons.set(s.pins.a, { slug: s.slug, down: s.activeLow ? 0 : 1 })
        break
      case 'onewire': {
        // As many parts as the file has on this wire, each with an address of its own, whatever the file calls them.
        const before = w.wires.get(s.pins.data)?.parts ?? []
        const n = [...w.wires.values()].reduce((sum, l) => sum + l.parts.length, 0)
        const celsius = () => (w.ranger ? tank.waterC : yard.kilnRoomC) + 3 * n + world.warmed(n)
        const next = new OneWireThermometer(celsius, world.nowUs, addressOf(n + 1))
        w.wires.set(s.pins.data, new OneWireLine([...before, next]))
        break
      }
      case 'contact':
        w.contacts.set(s.pins.a, s.slug)
        break
      case 'key':
        w.keys.push({ slug: s.slug, ...s.pins })
        break
      case 'adc':
        w.voltages.set(s.pins.a, {
          slug: s.slug,
          fullV: s.fullV,
          kind: s.ntc ? 'ntc' : s.of === 'rms' || s.of === 'swing' ? 'rms' : 'loop',
        })
        break
      case 'ladder':
        w.ladders.set(s.pins.a, [
          ...(w.ladders.get(s.pins.a) ?? []),
          { slug: s.slug, share: Math.max(0, (s.lowShare + s.highShare) / 2) },
        ])
        break
      case 'pwm':
        w.dimmed.set(s.slug, { pin: s.pins.a, activeLow: s.activeLow ?? false })
        break
      case 'counter':
        w.counters.set(s.pins.a, s.slug)
        break
      case 'encoder':
        w.encoders.push({ slug: s.slug, ...s.pins })
        break
      case 'spi':
        w.thermocouple = s.pins
        break
      case 'radio':
        w.radio = s.pins.a
        break
      case 'display':
        w.display = new Display()
        put(s, w.display)
        break
      case 'expander': {
        const key = `expander ${busKey(s.pins)} ${s.address}`
        if (!seen.has(key)) {
          const slugs = new Map(
            file.signals.flatMap((o) =>
              o.driver === 'expander' && o.address === s.address ? [[o.bit, o.slug] as const] : [],
            ),
          )
          put(s, new Expander((bit) => slugs.has(bit) && comings.held(slugs.get(bit) ?? '')))
        }
        seen.set(key, 1)
        break
      }
      case 'i2c': {
        // Two signals that are the same reading of the same address are two parts there, whatever the design meant.
        const place = `${busKey(s.pins)} ${s.mux?.branch ?? ''} ${s.address}`
        const nth = seen.get(`${place} ${s.of}`) ?? 0
        seen.set(`${place} ${s.of}`, nth + 1)
        if ((seen.get(place) ?? 0) > nth) break
        seen.set(place, nth + 1)
        const own = shelf++
        const climate = () => yard.cupboardAt(own)
        put(
          s,
          s.chip === 'climate-44'
            ? new Climate44(climate)
            : s.chip === 'light-23'
              ? new Light23(() => yard.storeLx)
              : s.chip === 'adc-48'
                ? new Adc48((n) => 0.4 + 0.3 * n)
                : new Climate76(climate, s.chip === 'climate-76'),
        )
        break
      }
      case 'converter': {
        const key = `converter ${busKey(s.pins)} ${s.address} ${s.mux?.branch ?? ''}`
        if (!seen.has(key))
          put(
            s,
            new Adc48((n) =>
              comings.volts(
                file.signals.find((o) => o.driver === 'converter' && o.address === s.address && o.input === n)?.slug ??
                  '',
              ),
            ),
          )
        seen.set(key, 1)
        break
      }
      case 'serial':
      case 'presence': {
        const chip = s.driver === 'presence' ? 'presence' : s.chip
        w.speakers.set(
          s.uart,
          chip === 'dust'
            ? speakers.dust(() => 9 + 4 * world.random())
            : chip === 'ranger'
              ? speakers.ranger(() => 0.908 - tank.levelM)
              : chip === 'meter'
                ? speakers.meter(() => 60 + 20 * world.random())
                : speakers.presence(
                    () => comings.held(s.slug) || comings.closed(s.slug),
                    () => 1.8,
                  ),
        )
        break
      }
      case 'bridge':
      case 'servo':
      case 'string':
        break
    }
  }
  return w
}
