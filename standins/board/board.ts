import fs from 'node:fs'
import path from 'node:path'
import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { OneWireThermometer } from '../world/oneWireThermometer'
import { Comings } from '../world/comings'
import { Tank } from '../world/tank'
import { Link } from './link'

export interface BoardOptions {
  /** Folder with `node.json`, `td.json` and `secret.json`: the board's flash, kept up to date with what it writes. */
  flashDir: string
  deviceDir: string
  shimDir: string
  random: () => number
  log: (line: string) => void
}

/** Where the parts are wired, chip pin numbers; −1 is not connected. Contacts, keys and voltages by the slug of their signal. */
export interface PartWiring {
  trig: number; echo: number; relay: number; relayActive: 0 | 1; button: number; data: number
  contacts: Map<number, string>
  keys: { slug: string; row: number; column: number }[]
  voltages: Map<number, { slug: string; fullV: number }>
  dimmed: Map<string, { pin: number; activeLow: boolean }>
}
const unwired = (): PartWiring => ({ trig: -1, echo: -1, relay: -1, relayActive: 0, button: -1, data: -1, contacts: new Map(), keys: [], voltages: new Map(), dimmed: new Map() })

/** The stand-in's parts follow the node file it runs, as if somebody re-soldered them for every revision. */
export function wiringFromFile(text: string): PartWiring {
  const file = nodeFileSchema.parse(JSON.parse(text))
  const wiring = unwired()
  for (const s of file.signals) {
    switch (s.driver) {
      case 'ranger': wiring.trig = s.pins.trig; wiring.echo = s.pins.echo; break
      case 'relay': wiring.relay = s.pins.in; wiring.relayActive = s.activeLow ? 0 : 1; break
      case 'button': wiring.button = s.pins.a; break
      case 'onewire': wiring.data = s.pins.data; break
      case 'contact': wiring.contacts.set(s.pins.a, s.slug); break
      case 'key': wiring.keys.push({ slug: s.slug, ...s.pins }); break
      case 'adc': wiring.voltages.set(s.pins.a, { slug: s.slug, fullV: s.fullV }); break
      case 'pwm': wiring.dimmed.set(s.slug, { pin: s.pins.a, activeLow: s.activeLow }); break
    }
  }
  return wiring
}

interface PinState { mode: 'in' | 'out' | 'open-drain'; pull: 'up' | 'down' | 'none'; level: 0 | 1 }

const TICKS = 2 ** 30
const FLASH = ['node.json', 'td.json', 'node.old', 'td.old', 'node.new', 'td.new']

type Runtime = Awaited<ReturnType<typeof loadMicroPython>>

/** Puts the runtime's files and the shims below its hardware module where the interpreter finds them. */
export function installRuntime(mp: Runtime, { deviceDir, shimDir }: { deviceDir: string; shimDir: string }): void {
  const copy = (from: string, to: string) => {
    for (const entry of fs.readdirSync(from, { withFileTypes: true })) {
      const [a, b] = [path.join(from, entry.name), `${to}/${entry.name}`]
      if (entry.isDirectory()) {
        mp.FS.mkdir(b)
        copy(a, b)
      } else if (entry.name.endsWith('.py')) mp.FS.writeFile(b, fs.readFileSync(a))
    }
  }
  mp.FS.mkdir('/shims')
  copy(shimDir, '/shims')
  copy(deviceDir, '')
  mp.runPython("import sys\nsys.path.insert(0, '/shims')")
}

/** One simulated board: the runtime of `device/` against a modelled tank. One instance per thread. */
export class SimulatedBoard {
  readonly tank: Tank
  readonly link = new Link()
  readonly thermometer: OneWireThermometer
  private pins = new Map<number, PinState>()
  private clockUs: number
  private readonly clockAtStartUs: number
  private readonly startedMs = Date.now()
  private pressedUntilUs = -1
  private pressedFromUs = -1
  private wifi = { joined: -1 }
  private lastStepMs = Date.now()
  private run: (() => void) | null = null
  private readonly reads: (name: string) => Uint8Array | null
  private kept = new Map<string, string>()
  private wiring: PartWiring = unwired()
  readonly comings: Comings
  private duty = new Map<number, number>()
  private steps = 0
  /** Longest step on the modelled clock, ms: what the board itself would have waited. */
  longestModelledMs = 0

  private constructor(private readonly options: BoardOptions, mp: Runtime) {
    this.tank = new Tank(options.random)
    this.comings = new Comings(options.random)
    this.clockAtStartUs = this.clockUs = Math.floor(options.random() * 2 ** 29)
    this.thermometer = new OneWireThermometer(() => this.tank.waterC, () => this.clockUs)
    this.reads = (name) => {
      try {
        return mp.FS.readFile(`/${name}`)
      } catch {
        return null
      }
    }
  }

  static async start(options: BoardOptions): Promise<SimulatedBoard> {
    const mp = await loadMicroPython({ stdout: options.log, stderr: options.log, linebuffer: true })
    const board = new SimulatedBoard(options, mp)
    installRuntime(mp, options)
    for (const name of [...FLASH, 'secret.json']) {
      const file = path.join(options.flashDir, name)
      if (fs.existsSync(file)) mp.FS.writeFile(`/${name}`, fs.readFileSync(file))
    }
    board.remember()
    mp.registerJsModule('_world', board.world())
    mp.runPython("import json, time\nfrom vn.node import Node\n_node = Node(json.load(open('/secret.json')))\ndef _step():\n    _node.step(time.ticks_ms())\n")
    const step: unknown = mp.globals.get('_step')
    if (typeof step !== 'function') throw new Error('the runtime has no step')
    board.run = step as () => void
    return board
  }

  /** One turn of the board's loop. */
  step(): void {
    const nowMs = Date.now()
    this.tank.pumpOn = this.relayOn()
    const dtS = Math.min(1, (nowMs - this.lastStepMs) / 1000)
    this.tank.step(dtS)
    this.comings.step(dtS)
    this.lastStepMs = nowMs
    this.clockUs = Math.max(this.clockUs, this.wallUs())
    const fromUs = this.clockUs
    this.run?.()
    this.longestModelledMs = Math.max(this.longestModelledMs, (this.clockUs - fromUs) / 1000)
    if (++this.steps % 10 === 0) this.keepFlash()
  }

  press(ms: number): void {
    this.pressedFromUs = this.clockUs
    this.pressedUntilUs = this.clockUs + ms * 1000
  }

  relayOn(): boolean {
    const pin = this.pins.get(this.wiring.relay)
    return pin?.mode === 'out' && pin.level === this.wiring.relayActive
  }

  /** True when this board's file reads the tank. */
  get hasTank(): boolean {
    return this.wiring.echo >= 0
  }

  /** Share of full power a dimmed output has, 0 to 1. */
  shareOf(slug: string): number {
    const at = this.wiring.dimmed.get(slug)
    const duty = at === undefined ? undefined : this.duty.get(at.pin)
    if (at === undefined || duty === undefined) return 0
    return (at.activeLow ? 65535 - duty : duty) / 65535
  }

  stop(): void {
    this.link.closeAll()
  }

  private wallUs(): number {
    return this.clockAtStartUs + (Date.now() - this.startedMs) * 1000
  }

  /** What the shims ask. Numbers stay below 2³⁰: the runtime's integers from here are 32 bits wide. */
  private world(): Record<string, unknown> {
    const thermometer = (pin: number) => (pin === this.wiring.data ? this.thermometer : null)
    return {
      ticks_ms: () => Math.floor(this.clockUs / 1000) % TICKS,
      ticks_us: () => this.clockUs % TICKS,
      pass_us: (us: number) => { this.clockUs += us },
      pin_mode: (n: number, mode: PinState['mode'], pull: PinState['pull'], level: number) => {
        if (mode !== 'in' && [34, 35, 36, 39].includes(n)) return 'pin can only be input'
        this.pins.set(n, { mode, pull, level: level === 1 ? 1 : level === 0 ? 0 : this.pins.get(n)?.level ?? 0 })
        return ''
      },
      pin_write: (n: number, level: number) => {
        const pin = this.pins.get(n)
        if (pin) pin.level = level ? 1 : 0
      },
      pin_read: (n: number) => this.level(n),
      adc_read: (n: number) => this.code(n),
      pwm_freq: () => undefined,
      pwm_duty: (n: number, duty: number) => { this.duty.set(n, duty) },
      pulse_us: (n: number, level: number, timeoutUs: number) => this.pulse(n, level, timeoutUs),
      reset_cause: () => 1,
      reset: () => { throw new Error('the board asked to be started again') },
      wifi_join: () => { this.wifi.joined = this.clockUs + 1_800_000 },
      wifi_up: () => this.wifi.joined >= 0 && this.clockUs >= this.wifi.joined,
      wifi_dbm: () => -58 - Math.round(6 * this.options.random()),
      sock_new: () => this.link.open(),
      sock_connect: (id: number, host: string, port: number) => this.link.connect(id, host, port),
      sock_state: (id: number) => this.link.state(id),
      sock_room: (id: number, wanted: number) => this.link.room(id, wanted),
      sock_send: (id: number, hex: string) => this.link.send(id, hex),
      sock_recv: (id: number, limit: number) => this.link.receive(id, limit),
      sock_waiting: (id: number) => this.link.waiting(id),
      sock_close: (id: number) => this.link.close(id),
      wire_reset: (pin: number) => thermometer(pin)?.reset() ?? false,
      wire_write: (pin: number, byte: number) => { thermometer(pin)?.write(byte) },
      wire_read: (pin: number) => thermometer(pin)?.read() ?? 0xff,
    }
  }

  private level(n: number): 0 | 1 {
    const pin = this.pins.get(n)
    if (pin?.mode === 'out') return pin.level
    if (n === this.wiring.button && this.contactClosed()) return 0
    const contact = this.wiring.contacts.get(n)
    if (contact !== undefined && this.comings.closed(contact)) return 0
    // A held key joins its row to its column: low when the row is pulled.
    if (this.wiring.keys.some((k) => k.column === n && this.comings.held(k.slug) && this.pins.get(k.row)?.level === 0)) return 0
    if (pin?.mode === 'open-drain') return pin.level
    return pin?.pull === 'up' ? 1 : 0
  }

  /** Sixteen bits of the converter, with the noise of a real one. */
  private code(n: number): number {
    const at = this.wiring.voltages.get(n)
    if (!at) return 0
    const noisy = this.comings.volts(at.slug) + 0.004 * (this.options.random() - 0.5)
    return Math.round(Math.max(0, Math.min(1, noisy / at.fullV)) * 65535)
  }

  /** Contacts bounce for six milliseconds on their way down and up. */
  private contactClosed(): boolean {
    const inside = this.clockUs >= this.pressedFromUs && this.clockUs < this.pressedUntilUs
    const edge = Math.min(Math.abs(this.clockUs - this.pressedFromUs), Math.abs(this.clockUs - this.pressedUntilUs))
    return edge < 6000 ? this.options.random() < 0.5 : inside
  }

  private pulse(n: number, level: number, timeoutUs: number): number {
    const { wiring } = this
    const lengthUs = Math.round(this.tank.echoS() * 1e6)
    const ours = n === wiring.echo && level === 1 && this.pins.get(wiring.trig)?.mode === 'out'
    if (!ours || lengthUs > timeoutUs) {
      this.clockUs += timeoutUs
      return -1
    }
    this.clockUs += 450 + lengthUs
    return lengthUs
  }

  private remember(): void {
    for (const name of FLASH) {
      const data = this.reads(name)
      if (data) this.kept.set(name, Buffer.from(data).toString('latin1'))
    }
    this.rewire()
  }

  /** Writes to disk what the runtime has written to its flash. */
  private keepFlash(): void {
    for (const name of FLASH) {
      const data = this.reads(name)
      const text = data === null ? undefined : Buffer.from(data).toString('latin1')
      if (text === this.kept.get(name)) continue
      const file = path.join(this.options.flashDir, name)
      if (text === undefined) {
        fs.rmSync(file, { force: true })
        this.kept.delete(name)
      } else {
        fs.writeFileSync(`${file}.part`, text, 'latin1')
        fs.renameSync(`${file}.part`, file)
        this.kept.set(name, text)
      }
      if (name === 'node.json') this.rewire()
    }
  }

  private rewire(): void {
    const text = this.kept.get('node.json')
    if (text !== undefined) this.wiring = wiringFromFile(Buffer.from(text, 'latin1').toString('utf8'))
  }
}
