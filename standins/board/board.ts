import fs from 'node:fs'
import path from 'node:path'
import { createDecipheriv } from 'node:crypto'
import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { loadOrder, type RuntimeFiles } from '../../src/core/bundle/neededModules'
import { nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { runtimeFiles } from '../../src/server/nodes/installBundle'
import { Comings } from '../world/comings'
import { OneWireThermometer } from '../world/oneWireThermometer'
import { Air, train } from '../world/radioSenders'
import { Tank } from '../world/tank'
import { Yard } from '../world/yard'
import { limitHeap } from './limitHeap'
import { Link } from './link'
import { type PartWiring, wiringFromFile } from './wiring'

export interface BoardOptions {
  /** Folder with `node.json`, `td.json` and `secret.json`: the board's flash, kept up to date with what it writes. */
  flashDir: string
  deviceDir: string
  shimDir: string
  random: () => number
  log: (line: string) => void
  /** Where the board’s tick counter stands at power-on, ms; anywhere when it is left out. */
  ticksMs?: number
  /** Size of the interpreter’s heap, and whether that is all it ever gets. */
  heap?: { bytes: number; limited: boolean }
  /** Networks in the air and their passwords; null lets every password in. */
  air?: () => Record<string, string> | null
}

interface PinState { mode: 'in' | 'out' | 'open-drain'; pull: 'up' | 'down' | 'none'; level: 0 | 1 }

const TICKS = 2 ** 30
const FLASH = ['node.json', 'td.json', 'node.new', 'td.new', 'trial', 'keep', 'secret.json', 'secret.try', 'last.json']
const RESET = { power: 1, button: 2, watchdog: 3, woke: 4, program: 5 } as const
export type Reset = keyof typeof RESET
/** Positions of a knob's two contacts, one click apart in four edges. */
const QUARTERS = [[1, 1], [0, 1], [0, 0], [1, 0]] as const

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

/** One simulated board: the runtime of `device/` against modelled parts. One instance per thread. */
export class SimulatedBoard {
  readonly tank: Tank
  readonly yard: Yard
  readonly comings: Comings
  readonly air: Air
  readonly link = new Link()
  readonly thermometer: OneWireThermometer
  readonly faults = { unplugged: false, garbage: false }
  /** How fast the world around the board goes; the board's own clock is real. */
  speed = 1
  /** No network lets anybody in while this is false. */
  airUp = true
  /** The board does nothing at all while this is true: its program hangs. */
  hangs = false
  /** Longest step on the modelled clock, ms: what the board itself would have waited. */
  longestModelledMs = 0
  /** Why the program ended last, or null. */
  broke: string | null = null
  /** Heap in use after each stage of the start, bytes. */
  stages: Record<string, number> = {}
  private pins = new Map<number, PinState>()
  private edges = new Map<number, { both: boolean; call: () => void }>()
  private clockUs: number
  private readonly clockAtStartUs: number
  private readonly startedMs = Date.now()
  private pressed = { fromUs: -1, untilUs: -1, pin: -1 }
  private wifi = { joined: -1, way: '' }
  private lastStepMs = Date.now()
  private run: (() => void) | null = null
  private readonly reads: (name: string) => Uint8Array | null
  private kept = new Map<string, string>()
  private wiring: PartWiring | null = null
  private duty = new Map<number, number>()
  private counted = new Map<number, number>()
  private clicks: number[] = []
  private quarter = 0
  private heard = new Map<number, number[]>()
  private couple = { bits: 0, at: 0 }
  private radioLevel: 0 | 1 = 0
  private steps = 0
  private asleepUntilMs = -1
  private restartAtMs = -1
  private cause: Reset = 'power'

  private readonly runtime: RuntimeFiles

  private constructor(private readonly options: BoardOptions, private readonly mp: Runtime) {
    this.runtime = runtimeFiles(options.deviceDir)
    const { random } = options
    this.tank = new Tank(random)
    this.yard = new Yard(random)
    this.comings = new Comings(random)
    this.air = new Air(random)
    this.clockAtStartUs = this.clockUs = options.ticksMs === undefined ? Math.floor(random() * 2 ** 29) : options.ticksMs * 1000
    this.thermometer = new OneWireThermometer(() => (this.hasTank ? this.tank.waterC : this.yard.kilnRoomC), () => this.clockUs)
    this.reads = (name) => {
      try {
        return mp.FS.readFile(`/${name}`)
      } catch {
        return null
      }
    }
  }

  static async start(options: BoardOptions): Promise<SimulatedBoard> {
    const mp = await loadMicroPython({ stdout: options.log, stderr: options.log, linebuffer: true, ...(options.heap ? { heapsize: options.heap.bytes } : {}) })
    const board = new SimulatedBoard(options, mp)
    installRuntime(mp, options)
    for (const name of FLASH) {
      const file = path.join(options.flashDir, name)
      if (fs.existsSync(file)) mp.FS.writeFile(`/${name}`, fs.readFileSync(file))
    }
    for (const name of FLASH) board.remember(name)
    board.rewire()
    mp.registerJsModule('_world', board.world())
    if (options.heap?.limited) limitHeap(mp)
    board.boot('power')
    return board
  }

  /** Power on: memory is empty, flash is as it was. */
  private boot(cause: Reset): void {
    this.cause = cause
    this.edges.clear()
    this.pins.clear()
    this.duty.clear()
    this.wifi.joined = -1
    this.link.closeAll()
    this.asleepUntilMs = this.restartAtMs = -1
    const py = (code: string) => this.mp.runPython(code)
    const used = (): number => {
      py('_used = gc.mem_alloc()')
      return Number(this.mp.globals.get('_used'))
    }
    // This build collects only between calls from outside, a board whenever it must: so the start goes module by module.
    py("import sys, gc, micropython\nmicropython.opt_level(3)\n_node = None\nfor _m in [m for m in sys.modules if m == 'vn' or m.startswith('vn.')]:\n    del sys.modules[_m]\ngc.collect()")
    for (const m of ['json', 'time', 'machine', 'network', 'socket', 'binascii', 'hashlib', 'select']) py(`import ${m}\ngc.collect()`)
    this.stages = { interpreter: used() }
    const modules = this.modulesToLoad()
    for (const m of modules) {
      py(`import ${m}\ngc.collect()`)
      if (m === 'vn.node') this.stages.runtime = used()
    }
    if (modules.length > 0) this.stages.drivers = used()
    py("from vn.node import Node\n_secret = json.load(open('/secret.json'))\ngc.collect()")
    py('_node = Node(_secret)\ngc.collect()')
    this.stages.file = used()
    py(`def _step():\n    _node.step(time.ticks_ms())${this.options.heap?.limited ? '\n    gc.collect()' : ''}\n`)
    const step: unknown = this.mp.globals.get('_step')
    if (typeof step !== 'function') throw new Error('the runtime has no step')
    this.run = step as () => void
  }

  /** Modules the file in flash needs, in the order they import each other; none when there is no file to read. */
  private modulesToLoad(): string[] {
    const file = nodeFileSchema.safeParse(this.fileText())
    return file.success ? loadOrder(file.data, this.runtime).map((path) => path.replace(/\.py$/, '').replaceAll('/', '.')) : []
  }

  private fileText(): unknown {
    try {
      return JSON.parse(Buffer.from(this.kept.get('node.json') ?? '', 'latin1').toString('utf8'))
    } catch {
      return null
    }
  }

  /** One turn of the board's loop. */
  step(): void {
    const nowMs = Date.now()
    const dtS = Math.min(1, (nowMs - this.lastStepMs) / 1000) * this.speed
    this.lastStepMs = nowMs
    this.tank.pumpOn = this.relayOn()
    this.tank.step(dtS)
    this.yard.step(dtS)
    this.comings.step(dtS)
    this.clockUs = Math.max(this.clockUs, this.wallUs())
    if (this.asleepUntilMs >= 0 || this.restartAtMs >= 0) {
      const at = Math.max(this.asleepUntilMs, this.restartAtMs)
      if (nowMs < at) return
      this.power(this.asleepUntilMs >= 0 ? 'woke' : 'program')
    }
    if (this.hangs) return
    this.edgesOf(dtS)
    const fromUs = this.clockUs
    try {
      this.run?.()
    } catch (e) {
      // What the board's own start file does: outputs off, two seconds, and from the beginning.
      this.broke = e instanceof Error ? e.message : String(e)
      this.options.log(`the program ended: ${this.broke}`)
      this.pins.clear()
      this.link.closeAll()
      this.restartAtMs = nowMs + 2000
    }
    this.longestModelledMs = Math.max(this.longestModelledMs, (this.clockUs - fromUs) / 1000)
    if (++this.steps % 10 === 0 || this.asleepUntilMs >= 0) this.keepFlash()
  }

  /** Takes the power away and gives it back. */
  power(cause: Reset = 'power'): void {
    this.keepFlash()
    this.rewire()
    this.boot(cause)
  }

  get asleep(): boolean {
    return this.asleepUntilMs >= 0
  }

  /** Runs Python beside the program, for tests that need to look inside or take memory away. */
  python(code: string): void {
    this.mp.runPython(code)
  }

  press(ms: number, slug?: string): void {
    const pin = [...(this.wiring?.buttons ?? [])].find(([, b]) => slug === undefined || b.slug === slug)?.[0] ?? -1
    this.pressed = { fromUs: this.clockUs, untilUs: this.clockUs + ms * 1000, pin }
  }

  turn(clicks: number): void {
    for (let i = 0; i < Math.abs(clicks) * 4; i++) this.clicks.push(Math.sign(clicks))
  }

  relayOn(): boolean {
    const relay = this.wiring?.relays[0]
    const pin = relay && this.pins.get(relay.pin)
    return pin?.mode === 'out' && pin.level === relay?.on
  }

  /** Level of a pin the board drives, or null where it does not. */
  driven(n: number): 0 | 1 | null {
    const pin = this.pins.get(n)
    return pin?.mode === 'out' ? pin.level : null
  }

  /** True when this board's file reads the tank. */
  get hasTank(): boolean {
    return this.wiring?.ranger != null
  }

  get display() {
    return this.wiring?.display ?? null
  }

  /** Share of full power a dimmed output has, 0 to 1. */
  shareOf(slug: string): number {
    const at = this.wiring?.dimmed.get(slug)
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

  /** Edges that came since the last step: pulses, clicks, codes from the air. Each calls what the program has tied to the pin. */
  private edgesOf(dtS: number): void {
    const { wiring } = this
    if (!wiring) return
    for (const [pin, slug] of wiring.counters) {
      const due = (this.counted.get(pin) ?? 0) + dtS * this.comings.pulsesHz(slug)
      for (let i = 0; i < Math.floor(due); i++) this.edges.get(pin)?.call()
      this.counted.set(pin, due % 1)
    }
    for (const way of this.clicks.splice(0)) {
      const before = QUARTERS[this.quarter & 3] ?? [1, 1]
      this.quarter += way
      const now = QUARTERS[this.quarter & 3] ?? [1, 1]
      for (const e of wiring.encoders) this.edges.get(before[0] === now[0] ? e.b : e.a)?.call()
    }
    if (wiring.radio >= 0) for (const code of this.air.step(dtS)) this.receive(wiring.radio, code)
    for (const [uart, speaker] of wiring.speakers) {
      const bytes = this.faults.unplugged ? [] : speaker.step(dtS)
      const noisy = this.faults.garbage ? bytes.map((b) => (this.options.random() < 0.1 ? Math.floor(256 * this.options.random()) : b)) : bytes
      this.heard.set(uart, [...(this.heard.get(uart) ?? []), ...noisy].slice(-256))
    }
  }

  private receive(pin: number, code: number): void {
    this.radioLevel = 0
    for (const us of train(code, 6, this.options.random)) {
      this.radioLevel = this.radioLevel ? 0 : 1
      this.edges.get(pin)?.call()
      this.clockUs += us
    }
    this.radioLevel = 1
    this.edges.get(pin)?.call()
  }

  /** What the shims ask. Numbers stay below 2³⁰: the runtime's integers from here are 32 bits wide. */
  private world(): Record<string, unknown> {
    const thermometer = (pin: number) => (pin === this.wiring?.oneWire && !this.faults.unplugged ? this.thermometer : null)
    const bus = (sda: number, scl: number, bytes: number) => {
      // Nine clocks a byte, the address included, at 100 kHz.
      this.clockUs += (bytes + 1) * 90
      return this.wiring?.buses.get(`${sda} ${scl}`)
    }
    const hex = (bytes: readonly number[]) => Buffer.from(bytes).toString('hex')
    return {
      ticks_ms: () => Math.floor(this.clockUs / 1000) % TICKS,
      ticks_us: () => this.clockUs % TICKS,
      pass_us: (us: number) => { this.clockUs += us },
      pin_mode: (n: number, mode: PinState['mode'], pull: PinState['pull'], level: number) => {
        if (mode !== 'in' && [34, 35, 36, 39].includes(n)) return 'pin can only be input'
        this.pins.set(n, { mode, pull, level: level === 1 ? 1 : level === 0 ? 0 : this.pins.get(n)?.level ?? 0 })
        return ''
      },
      pin_write: (n: number, level: number) => this.write(n, level ? 1 : 0),
      pin_read: (n: number) => this.level(n),
      pin_irq: (n: number, both: boolean, call: () => void) => { this.edges.set(n, { both, call }) },
      adc_read: (n: number) => this.code(n),
      pwm_freq: () => undefined,
      pwm_duty: (n: number, duty: number) => { this.duty.set(n, duty) },
      pulse_us: (n: number, level: number, timeoutUs: number) => this.pulse(n, level, timeoutUs),
      lamps: (n: number, text: string) => { this.wiring?.lit.set(n, [...Buffer.from(text, 'hex')]) },
      i2c_write: (sda: number, scl: number, address: number, text: string) => bus(sda, scl, text.length / 2)?.write(address, [...Buffer.from(text, 'hex')]) ?? false,
      i2c_read: (sda: number, scl: number, address: number, n: number) => {
        const got = bus(sda, scl, n)?.read(address, n)
        return got ? hex(got) : ''
      },
      uart_any: (n: number) => this.heard.get(n)?.length ?? 0,
      uart_read: (n: number, count: number) => hex((this.heard.get(n) ?? []).splice(0, count)),
      aes_open: (key: string, iv: string, data: string) => {
        const cipher = createDecipheriv('aes-128-cbc', Buffer.from(key, 'hex'), Buffer.from(iv, 'hex')).setAutoPadding(false)
        return Buffer.concat([cipher.update(Buffer.from(data, 'hex')), cipher.final()]).toString('hex')
      },
      reset_cause: () => RESET[this.cause],
      reset: () => { this.restartAtMs = Date.now() },
      deepsleep: (ms: number) => { this.asleepUntilMs = Date.now() + ms },
      wifi_join: (name: string, password: string) => { this.wifi = { joined: this.clockUs + 1_800_000, way: `${name}\n${password}` } },
      wifi_leave: () => { this.wifi.joined = -1 },
      wifi_up: () => this.joined(),
      wifi_dbm: () => -58 - Math.round(6 * this.options.random()),
      sock_new: () => this.link.open(),
      sock_connect: (id: number, host: string, port: number) => this.link.connect(id, host, port),
      sock_state: (id: number) => (this.joined() ? this.link.state(id) : 'reset'),
      sock_room: (id: number, wanted: number) => this.link.room(id, wanted),
      sock_send: (id: number, text: string) => this.link.send(id, text),
      sock_recv: (id: number, limit: number) => this.link.receive(id, limit),
      sock_waiting: (id: number) => this.link.waiting(id),
      sock_close: (id: number) => this.link.close(id),
      wire_reset: (pin: number) => thermometer(pin)?.reset() ?? false,
      wire_write: (pin: number, byte: number) => { thermometer(pin)?.write(byte) },
      wire_read: (pin: number) => {
        const byte = thermometer(pin)?.read() ?? 0xff
        return this.faults.garbage && this.options.random() < 0.3 ? Math.floor(256 * this.options.random()) : byte
      },
    }
  }

  private joined(): boolean {
    if (!this.airUp || this.wifi.joined < 0 || this.clockUs < this.wifi.joined) return false
    const known = this.options.air?.() ?? null
    if (known === null) return true
    const [name = '', password = ''] = this.wifi.way.split('\n')
    return known[name] === password
  }

  private write(n: number, level: 0 | 1): void {
    const pin = this.pins.get(n)
    const couple = this.wiring?.thermocouple
    if (couple && n === couple.cs && level === 0) {
      this.couple = { bits: this.faults.unplugged ? 0xffff : (Math.round((this.yard.kilnRoomC * 20) * 4) & 0xfff) << 3, at: 0 }
    }
    if (couple && n === couple.sck && pin?.level === 1 && level === 0) this.couple.at += 1
    if (pin) pin.level = level
  }

  private level(n: number): 0 | 1 {
    const pin = this.pins.get(n)
    const { wiring } = this
    if (pin?.mode === 'out' || !wiring) return pin?.level ?? 0
    const button = wiring.buttons.get(n)
    if (button) return this.contactClosed(n) || this.comings.held(button.slug) ? button.down : button.down === 0 ? 1 : 0
    if (n === wiring.radio) return this.radioLevel
    if (n === wiring.thermocouple?.miso) return (this.couple.bits >> (15 - this.couple.at)) & 1 ? 1 : 0
    const knob = wiring.encoders.find((e) => e.a === n || e.b === n)
    if (knob) return (QUARTERS[this.quarter & 3] ?? [1, 1])[n === knob.a ? 0 : 1]
    const contact = wiring.contacts.get(n)
    if (contact !== undefined && this.comings.closed(contact)) return 0
    // A held key joins its row to its column: low when the row is pulled.
    if (wiring.keys.some((k) => k.column === n && this.comings.held(k.slug) && this.pins.get(k.row)?.level === 0)) return 0
    if (pin?.mode === 'open-drain') return pin.level
    return pin?.pull === 'up' ? 1 : 0
  }

  /** Sixteen bits of the converter, with the noise of a real one. */
  private code(n: number): number {
    const { random } = this.options
    const ladder = this.wiring?.ladders.get(n)
    if (ladder) {
      const held = ladder.find((k) => this.comings.held(k.slug))
      return Math.round(Math.max(0, Math.min(1, (held?.share ?? 1) + 0.002 * (random() - 0.5))) * 65535)
    }
    const at = this.wiring?.voltages.get(n)
    if (!at) return 0
    const volts = at.kind === 'rms' ? 1.65 + 0.2 * Math.sin((this.clockUs / 1e6) * 2 * Math.PI * 50) : at.kind === 'ntc' ? 1.9 : this.comings.volts(at.slug)
    this.clockUs += 40
    const noisy = volts + 0.004 * (random() - 0.5)
    return Math.round(Math.max(0, Math.min(1, noisy / at.fullV)) * 65535)
  }

  /** Contacts bounce for six milliseconds on their way down and up. */
  private contactClosed(n: number): boolean {
    const { fromUs, untilUs, pin } = this.pressed
    if (pin !== n) return false
    const inside = this.clockUs >= fromUs && this.clockUs < untilUs
    const edge = Math.min(Math.abs(this.clockUs - fromUs), Math.abs(this.clockUs - untilUs))
    return edge < 6000 ? this.options.random() < 0.5 : inside
  }

  private pulse(n: number, level: number, timeoutUs: number): number {
    const ranger = this.wiring?.ranger
    const lengthUs = Math.round(this.tank.echoS() * 1e6)
    const ours = n === ranger?.echo && level === 1 && this.pins.get(ranger.trig)?.mode === 'out' && !this.faults.unplugged
    if (!ours || lengthUs > timeoutUs) {
      this.clockUs += timeoutUs
      return -1
    }
    this.clockUs += 450 + lengthUs
    return lengthUs
  }

  private remember(name: string): void {
    const data = this.reads(name)
    if (data) this.kept.set(name, Buffer.from(data).toString('latin1'))
    else this.kept.delete(name)
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
        fs.writeFileSync(`${file}.part`, text, { encoding: 'latin1', mode: 0o600 })
        fs.renameSync(`${file}.part`, file)
        this.kept.set(name, text)
      }
      if (name === 'node.json' || name === 'node.new') this.rewire()
    }
  }

  /** While a new file is tried its wiring counts. */
  private rewire(): void {
    const text = this.kept.get('trial') === undefined ? this.kept.get('node.json') : this.kept.get('node.new') ?? this.kept.get('node.json')
    if (text !== undefined) this.wiring = wiringFromFile(Buffer.from(text, 'latin1').toString('utf8'), { tank: this.tank, yard: this.yard, comings: this.comings, random: this.options.random, faults: this.faults })
  }
}
