import type { DriverName } from '../../src/core/catalog/drivers'
import { type NodeFile, type NodeFileSignal, nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { KeyLadder } from '../parts/KeyLadder'
import type { ModelledPart } from '../parts/modelledPart'
import { Bus, type BusFaults, type BusPart, behind, type Display, Multiplexer } from '../world/i2c'
import type { OneWireLine } from '../world/oneWireThermometer'
import type { Speaker } from '../world/serialParts'
import type { Surrounds } from '../parts/modelledPart'
import { MODELS } from './models'
import type { Said } from './said'

export interface World extends Surrounds {
  /** Kelvin by which thermometer number `n` is warmed by a hand. */
  warmed: (n: number) => number
  faults: BusFaults
}

type OnBus = Extract<NodeFileSignal, { address: number }>

/** What is soldered to a board: parts at its pins, and what sits on its buses and lines. */
export class Soldered {
  readonly parts: ModelledPart[] = []
  readonly relays: { pin: number; on: 0 | 1 }[] = []
  readonly dimmed = new Map<string, { pin: number; activeLow: boolean }>()
  /** One-wire lines by pin. */
  readonly wires = new Map<number, OneWireLine>()
  readonly buses = new Map<string, Bus>()
  /** Parts that speak, by serial port. */
  readonly speakers = new Map<number, Speaker>()
  /** Lamps of strings, bytes of colour by pin. */
  readonly lit = new Map<number, number[]>()
  display: Display | null = null
  /** Transmitters by pin, and what they are saying. */
  readonly transmitters = new Map<number, Said>()
  /** Pin of the radio receiver, −1 without one. */
  radio = -1
  private readonly muxes = new Map<string, Multiplexer>()
  private readonly times = new Map<string, number>()

  constructor(
    readonly world: World,
    readonly file: NodeFile,
  ) {}

  /** The first part of this class, or undefined. */
  part<P extends ModelledPart>(of: abstract new (...args: never[]) => P): P | undefined {
    return this.all(of)[0]
  }

  all<P extends ModelledPart>(of: abstract new (...args: never[]) => P): P[] {
    return this.parts.filter((p): p is P => p instanceof of)
  }

  /** How often this has been asked for before, counting from 0. */
  nth(key: string): number {
    const n = this.times.get(key) ?? 0
    this.times.set(key, n + 1)
    return n
  }

  /** Puts a part on the bus of its pins, behind its multiplexer where there is one. */
  put(s: OnBus, part: BusPart): void {
    const key = busKey(s)
    const bus = this.buses.get(key) ?? new Bus(this.world.faults, this.world.random)
    this.buses.set(key, bus)
    if (!s.mux) return bus.add(s.address, part)
    const muxKey = `${key} ${s.mux.address}`
    const mux = this.muxes.get(muxKey) ?? new Multiplexer()
    if (!this.muxes.has(muxKey)) bus.add(s.mux.address, mux)
    this.muxes.set(muxKey, mux)
    bus.add(s.address, behind(mux, s.mux.branch, part))
  }

  ladderAt(pin: number): KeyLadder {
    const known = this.all(KeyLadder).find((l) => l.pin === pin)
    if (known) return known
    const made = new KeyLadder(this.world, pin)
    this.parts.push(made)
    return made
  }
}

/** Data and clock of a bus, as the shims name it. */
export const busKey = ({ pins }: { pins: { sda: number; scl: number } }): string => `${pins.sda} ${pins.scl}`

type Solder = (to: Soldered, signal: NodeFileSignal) => void

/** The stand-in's parts follow the node file it runs, as if somebody re-soldered them for every revision. */
export function solderedFrom(text: string, world: World): Soldered {
  const file = nodeFileSchema.parse(JSON.parse(text))
  const to = new Soldered(world, file)
  // Each model takes the signals of its own driver, which is the name it stands under.
  const models = MODELS as Record<DriverName, Solder>
  for (const signal of file.signals) models[signal.driver](to, signal)
  return to
}
