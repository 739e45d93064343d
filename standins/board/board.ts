import fs from 'node:fs'
import path from 'node:path'
import { createDecipheriv } from 'node:crypto'
import { z } from 'zod'
import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { builtInCatalog } from '../../src/core/catalog/catalog'
import { importsAtLoad, loadOrder, type RuntimeFiles } from '../../src/core/bundle/neededModules'
import { nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { runtimeFiles } from '../../src/server/nodes/installBundle'
import { Comings } from '../world/comings'
import { nameAnswer } from '../world/names'
import { timeAnswer } from '../world/timeServer'
import type { StandInCell } from '../world/cell'
import { Tank } from '../world/tank'
import { Yard } from '../world/yard'
import { type Chip, isFamily32, isSmall, platformOf } from '../../src/core/bundle/chipClass'
import { READ_ONLY, type Reset, RESET_NUMBER } from './chip'
import { type Edge, hardly, softly, StateMachine } from './edges'
import { limitHeap } from './limitHeap'
import { type BoardLink, Link } from './link'
import { Knob } from '../parts/Knob'
import { PushButton } from '../parts/PushButton'
import { Ranger } from '../parts/Ranger'
import { type Soldered, solderedFrom } from './wiring'

export interface BoardOptions {
  /** Folder with `node.json`, `td.json` and `secret.json`: the board's flash, kept up to date with what it writes. */
  flashDir: string
  deviceDir: string
  /** The runtime's text, where `deviceDir` has it precompiled. */
  sourceDir?: string
  shimDir: string
  random: () => number
  log: (line: string) => void
  /** Where the board’s tick counter stands at power-on, ms; anywhere when it is left out. */
  ticksMs?: number
  /** Size of the interpreter’s heap, and whether that is all it ever gets. */
  heap?: { bytes: number; limited: boolean }
  /** Networks in the air and their passwords; null lets every password in. */
  air?: () => Record<string, string> | null
  /** The cell it lives on, where that is to empty. */
  cell?: StandInCell | null
  /** Chip the board has; by the board its file names when it is left out. */
  chip?: Chip
  /** Time of day, ms; the machine's own when it is left out. */
  now?: () => number
  /** Connections; real ones when it is left out. */
  link?: BoardLink
  /** Bytes of the console, as they come out of the serial line. */
  console?: (bytes: Uint8Array) => void
  /** Names that the network's name server knows. */
  names?: Record<string, string>
  /** Hardware address of its radio, twelve hexadecimal digits. */
  hardware?: string
  /** Its chip starts: what the loader says comes before anything else; false where nothing in its flash starts. */
  starting?: (cause: Reset) => boolean
  /** It is not started yet: somebody gives it power. */
  bare?: boolean
  /** What its transmitter has put on the air: a frame, lengths in µs, high first, the gap last. */
  said?: (frame: readonly number[]) => void
  /** Addresses that answer for the time of day; the gateway when it is left out. */
  timeServers?: () => readonly string[]
}

interface PinState {
  mode: 'in' | 'out' | 'open-drain'
  pull: 'up' | 'down' | 'none'
  level: 0 | 1
}

const TICKS = 2 ** 30
/** As the network tells it to its stations. */
const GATEWAY = '192.0.2.1'
const FLASH = [
  'node.json',
  'td.json',
  'node.new',
  'td.new',
  'trial',
  'keep',
  'secret.json',
  'secret.try',
  'last.json',
  'hold',
  'outs',
  'crash.json',
  'totals.json',
  'pkg.new',
  'pkg.of',
]
/** A line of the runtime that says how far it has come, as against one that something is wrong. */
export const isProgress = (line: string): boolean => /^vn (?:start|file|drivers|mac|net|broker|first) /.test(line)

/** Folders of the interpreter here that are no board's flash. */
const NOT_FLASH = new Set(['/shims', '/dev', '/proc', '/tmp', '/home', '/lib'])
/** Modules every board has in its firmware; here they are files that take memory once they are loaded. */
const FIRMWARE = [
  'json',
  'time',
  'machine',
  'network',
  'socket',
  'binascii',
  'hashlib',
  'select',
  'onewire',
  'neopixel',
  'cryptolib',
]
/** Names taken at the prompt, so that what a node brings finds the table large enough. */
const NAMES_BEFORE = 380
type Runtime = Awaited<ReturnType<typeof loadMicroPython>>

/**
 * Puts the runtime's files and the shims below its hardware modules where the interpreter finds them, and gives it the
 * chip's name.
 */
export function installRuntime(
  mp: Runtime,
  { deviceDir, shimDir }: { deviceDir: string; shimDir: string },
  chip: Chip = '32-class',
): void {
  const copy = (from: string, to: string) => {
    for (const entry of fs.readdirSync(from, { withFileTypes: true })) {
      const [a, b] = [path.join(from, entry.name), `${to}/${entry.name}`]
      if (entry.isDirectory()) {
        mp.FS.mkdir(b)
        copy(a, b)
      } else if (/\.m?py$/.test(entry.name)) mp.FS.writeFile(b, fs.readFileSync(a))
    }
  }
  mp.FS.mkdir('/shims')
  copy(shimDir, '/shims')
  copy(deviceDir, '')
  mp.runPython(`import sys
sys.path.insert(0, '/shims')
class _Sys:
    platform = '${platformOf(chip)}'
    def __init__(self, real):
        self.real = real
    def __getattr__(self, name):
        return getattr(self.real, name)
sys.modules['sys'] = _Sys(sys)
`)
}

/** The chip a node file was made for, by its board. */
function chipOf(file: string): Chip {
  try {
    const { board } = z.looseObject({ board: z.string() }).parse(JSON.parse(fs.readFileSync(file, 'utf8')))
    return builtInCatalog.boards[board]?.interpreter.chip ?? '32-class'
  } catch {
    return '32-class'
  }
}

function isWhole(text: string): boolean {
  try {
    JSON.parse(text)
    return true
  } catch {
    return false
  }
}

/** One simulated board: the runtime of `device/` against modelled parts. One instance per thread. */
export class SimulatedBoard {
  readonly tank: Tank
  readonly yard: Yard
  readonly comings: Comings
  /** Frames on the air that have not reached it yet: lengths in µs, high first, each with its gap. */
  private readonly onAir: number[][] = []
  readonly link: BoardLink
  readonly chip: Chip
  readonly faults = { unplugged: false, garbage: false }
  /** How fast the world around the board goes; the board's own clock is real. */
  speed = 1
  /** No network lets anybody in while this is false. */
  airUp = true
  /** The program hangs: nothing of it runs until the watchdog, or somebody, starts it again. */
  hangs = false
  /** Starts since the beginning, each with its cause. */
  readonly starts: Reset[] = []
  /** Pulse-width outputs that were made without both frequency and duty. */
  blips = 0
  /** Edges from the air that found no room. */
  lostEdges = 0
  /** Access point of its own, as the smallest chip has it until it is told otherwise. */
  accessPoint: boolean
  /** True while the data line of a two-wire bus is held by a part that was cut off in the middle of a byte. */
  stuckClocks = 0
  /** Longest step on the modelled clock, ms: what the board itself would have waited. */
  longestModelledMs = 0
  /** Why the program ended last, or null. */
  broke: string | null = null
  /** Heap in use after each stage of the start, bytes. */
  stages: Record<string, number> = {}
  private pins = new Map<number, PinState>()
  private edges = new Map<number, { both: boolean; hard: boolean; call: (us: number, level: number) => void }>()
  private timers = new Map<number, { dueUs: number; periodMs: number | null; call: () => void }>()
  private machine: StateMachine | null = null
  private wdt: { ms: number; fedUs: number } | null = null
  private held = new Map<number, 'up' | 'down' | 'none'>()
  private wakeOn = new Map<number, { level: number; reason: number }>()
  private wakeReason = 0
  private names = new Map<number, Buffer>()
  private warm = new Map<number, number>()
  private clockUs: number
  private readonly clockAtStartUs: number
  private readonly startedMs: number
  private wifi = { joined: -1, way: '', reconnects: -1 }
  private lastStepMs: number
  private run: (() => void) | null = null
  private readonly reads: (name: string) => Uint8Array | null
  private kept = new Map<string, string>()
  private wiring: Soldered | null = null
  private duty = new Map<number, number>()
  /** Until when the chip says pulses by itself, µs, by pin. */
  private saying = new Map<number, number>()
  private heard = new Map<number, number[]>()
  private radioLevel: 0 | 1 = 0
  private steps = 0
  private asleepUntilMs = -1
  /** Its chip found nothing to start. */
  private dead = false
  private restartAtMs = -1
  private cause: Reset = 'power'

  private readonly runtime: RuntimeFiles

  private constructor(
    private readonly options: BoardOptions,
    private readonly mp: Runtime,
    /** While it is muted the interpreter says what no board would. */
    private readonly line: { muted: boolean },
  ) {
    this.runtime = runtimeFiles(options.sourceDir ?? options.deviceDir)
    this.chip = options.chip ?? chipOf(path.join(options.flashDir, 'node.json'))
    this.accessPoint = isSmall(this.chip)
    this.link = options.link ?? new Link()
    this.startedMs = this.lastStepMs = this.now()
    const { random } = options
    this.tank = new Tank(random)
    this.yard = new Yard(random)
    this.comings = new Comings(random)
    this.clockAtStartUs = this.clockUs =
      options.ticksMs === undefined ? Math.floor(random() * 2 ** 29) : options.ticksMs * 1000
    this.reads = (name) => {
      try {
        return mp.FS.readFile(`/${name}`)
      } catch {
        return null
      }
    }
  }

  static async start(options: BoardOptions): Promise<SimulatedBoard> {
    const line = { muted: false }
    const mp = await loadMicroPython({
      ...(options.console
        ? {
            stdout: (b: unknown) => {
              if (!line.muted) options.console?.(b as Uint8Array)
            },
            linebuffer: false,
          }
        : { stdout: options.log, linebuffer: true }),
      stderr: options.log,
      ...(options.heap ? { heapsize: options.heap.bytes } : {}),
    })
    const board = new SimulatedBoard(options, mp, line)
    mp.registerJsModule('_world', board.world())
    installRuntime(mp, options, board.chip)
    for (const name of FLASH) {
      const file = path.join(options.flashDir, name)
      if (fs.existsSync(file)) mp.FS.writeFile(`/${name}`, fs.readFileSync(file))
    }
    for (const name of FLASH) board.remember(name)
    board.rewire()
    if (options.heap?.limited) limitHeap(mp)
    if (!options.bare) board.boot('power')
    return board
  }

  private now(): number {
    return this.options.now?.() ?? Date.now()
  }

  /** Power on: memory is empty, flash is as it was, and the radio says goodbye to nobody. */
  private boot(cause: Reset): void {
    this.cause = cause
    const starts = this.options.starting?.(cause) ?? true
    this.starts.push(cause)
    this.options.cell?.starts()
    this.edges.clear()
    this.timers.clear()
    this.machine = null
    this.wdt = null
    this.hangs = false
    // Only pins that are held keep what they were while the rest of the chip was off.
    this.pins.clear()
    this.duty.clear()
    this.saying.clear()
    this.wakeOn.clear()
    this.wifi = { joined: -1, way: '', reconnects: -1 }
    this.link.silence()
    this.asleepUntilMs = this.restartAtMs = -1
    this.run = null
    this.dead = !starts
    if (this.dead) return
    const py = (code: string) => this.mp.runPython(code)
    const used = (): number => {
      py('_used = gc.mem_alloc()')
      return Number(this.mp.globals.get('_used'))
    }
    // This build collects only between calls from outside, a board whenever it must: so the start goes module by
    // module.
    py(
      "import sys, gc\n_run = _turn = None\nfor _m in [m for m in sys.modules if m == 'vn' or m.startswith('vn.')]:\n    del sys.modules[_m]\ngc.collect()",
    )
    for (const m of FIRMWARE) py(`import ${m}\ngc.collect()`)
    // The table of names grows by doubling, and here an entry takes twice what it takes on a board: it has grown before
    // the prompt, and is charged apart.
    if (this.options.heap && this.starts.length === 1)
      for (let n = 0; n < NAMES_BEFORE; n += 10)
        py(`for _n in range(${n}, ${n + 10}): exec("_w%d" % _n, {"_w%d" % _n: 0})\ngc.collect()`)
    this.stages = { interpreter: used() }
    this.prompt()
    if (this.kept.has('hold') || this.reads('main.py') === null) return
    const modules = this.modulesToLoad()
    try {
      for (const m of modules) {
        py(`import ${m}\ngc.collect()`)
        if (m === 'vn.node') this.stages.runtime = used()
      }
      py('import vn.start')
    } catch (e) {
      // Modules that are missing or spoilt: their trouble is shown, and the prompt stays.
      this.broke = e instanceof Error ? e.message : String(e)
      this.says(this.broke)
      this.options.log(`the program did not start: ${this.broke}`)
      return
    }
    if (modules.length > 0) this.stages.drivers = used()
    py(`_run = vn.start.Run()
def _turn():
    global _node
    _run.turn()
    _node = _run.node${this.options.heap?.limited ? '\n    gc.collect()' : ''}
`)
    const turn: unknown = this.mp.globals.get('_turn')
    if (typeof turn !== 'function') throw new Error('the runtime has no turn')
    this.run = turn as () => void
  }

  /** A prompt as after a start: not the raw one that an installation may have left. */
  private prompt(): void {
    if (!this.options.console) return
    const repl = this.mp as unknown as { replInit(): void; replProcessChar(c: number): number }
    this.line.muted = true
    repl.replInit()
    repl.replProcessChar(2)
    this.line.muted = false
    repl.replInit()
  }

  /** Modules the file in flash needs, in the order they import each other; none when there is no file to read. */
  private modulesToLoad(): string[] {
    const file = nodeFileSchema.safeParse(this.fileText())
    return file.success
      ? loadOrder(file.data, importsAtLoad(this.runtime), this.chip).map((path) =>
          path.replace(/\.py$/, '').replaceAll('/', '.'),
        )
      : []
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
    const nowMs = this.now()
    const dtS = Math.min(1, (nowMs - this.lastStepMs) / 1000) * this.speed
    // Where this machine itself has held the thread up, no board would have: its watchdog does not see it.
    const heldMs = nowMs - this.lastStepMs - 1000
    if (this.wdt && heldMs > 0 && !this.options.now && !this.hangs) this.wdt.fedUs += heldMs * 1000
    this.options.cell?.passes((nowMs - this.lastStepMs) / 1000, this.asleep)
    this.lastStepMs = nowMs
    this.tank.pumpOn = this.relayOn()
    this.tank.step(dtS)
    this.yard.step(dtS)
    this.comings.step(dtS)
    this.clockUs = Math.max(this.clockUs, this.wallUs())
    // Who is not let in has to ask again, but for drivers that do so by themselves.
    const again = isSmall(this.chip) || (isFamily32(this.chip) && this.wifi.reconnects !== 0)
    if (!this.airUp && !again && this.clockUs >= this.wifi.joined) this.wifi.joined = -1
    if (!this.isAwake(nowMs)) return
    if (this.wdt && this.clockUs - this.wdt.fedUs > this.wdt.ms * 1000) this.power('watchdog')
    if (this.hangs || !this.run) return
    this.edgesOf(dtS)
    this.ring()
    const fromUs = this.clockUs
    this.guarded(this.run)
    this.ring()
    this.longestModelledMs = Math.max(this.longestModelledMs, (this.clockUs - fromUs) / 1000)
    if (++this.steps % 10 === 0 || this.asleepUntilMs >= 0 || this.restartAtMs >= 0) this.keepFlash()
  }

  /** Ends a sleep or a restart whose time has come; false while it lasts. */
  private isAwake(nowMs: number): boolean {
    if (this.asleepUntilMs >= 0) {
      const woken = [...this.wakeOn].find(([pin, w]) => this.level(pin) === w.level)
      if (nowMs < this.asleepUntilMs && !woken) return false
      this.wakeReason = woken ? woken[1].reason : 4
      this.power('woke')
    } else if (this.restartAtMs >= 0) {
      if (nowMs < this.restartAtMs) return false
      this.power(this.cause)
    }
    return true
  }

  /** Runs a piece of the program; a start of the chip that it asks for ends it where it stands. */
  private guarded(run: () => void): void {
    try {
      run()
    } catch (e) {
      if (this.restartAtMs >= 0 || this.asleepUntilMs >= 0) return
      // The program itself lets nothing through but an interrupt at the keyboard.
      this.broke = e instanceof Error ? e.message : String(e)
      this.says(this.broke)
      this.options.log(`the program ended: ${this.broke}`)
      this.run = null
    }
  }

  /** The interpreter's own words on the console. */
  private says(text: string): void {
    this.options.console?.(Buffer.from(`${text.replace(/^PythonError: /, '').replaceAll('\n', '\r\n')}\r\n>>> `))
  }

  /** The runtime's modules in its flash, by path. */
  get modules(): Map<string, Uint8Array> {
    const { FS } = this.mp
    const found = new Map<string, Uint8Array>()
    const walk = (at: string) => {
      for (const name of FS.readdir(at === '' ? '/' : at)) {
        const full = `${at}/${name}`
        if (name.startsWith('.') || NOT_FLASH.has(full)) continue
        if (/\.m?py$/.test(name)) found.set(full.slice(1), FS.readFile(full).slice())
        else if (!name.includes('.') && FS.isDir(FS.stat(full).mode)) walk(full)
      }
    }
    walk('')
    return found
  }

  /** Everything in its flash is erased. */
  wipe(): void {
    const { FS } = this.mp
    for (const name of this.modules.keys()) FS.unlink(`/${name}`)
    for (const name of FLASH) {
      fs.rmSync(path.join(this.options.flashDir, name), { force: true })
      if (this.reads(name)) FS.unlink(`/${name}`)
      this.kept.delete(name)
    }
  }

  /** Timers that are due call what they were given. */
  private ring(): void {
    for (const [id, t] of [...this.timers]) {
      if (t.dueUs > this.clockUs) continue
      if (t.periodMs === null) this.timers.delete(id)
      else t.dueUs += t.periodMs * 1000
      this.guarded(t.call)
    }
  }

  /** Takes the power away and gives it back, or starts the chip anew for another cause. */
  power(cause: Reset = 'power'): void {
    this.keepFlash()
    this.rewire()
    this.boot(cause)
  }

  /** How long it still sleeps, ms; 0 when it is awake. */
  get asleepForMs(): number {
    return Math.max(0, this.asleepUntilMs - this.now())
  }

  get asleep(): boolean {
    return this.asleepUntilMs >= 0
  }

  /** Thermometers on its one-wire lines. */
  get thermometers() {
    return [...(this.wiring?.wires.values() ?? [])].flatMap((l) => l.parts)
  }

  /** Somebody holds thermometer number `n` in a warm hand: this many kelvin more. */
  warmByHand(n: number, kelvin: number): void {
    this.warm.set(n, kelvin)
  }

  /**
   * What somebody at the other end of the serial line types. A program hears only an interrupt; a sleeping chip hears
   * nothing.
   */
  type(bytes: Uint8Array): void {
    for (const byte of bytes) {
      if (this.dead || this.asleepUntilMs >= 0 || this.restartAtMs >= 0) return
      if (this.run) this.interrupted ||= byte === 3
      else if (!this.hangs)
        this.guarded(() => (this.mp as unknown as { replProcessChar(c: number): number }).replProcessChar(byte))
      // The interrupt comes through at the program's next line.
      if (this.interrupted && !this.hangs) this.step()
    }
  }

  /** True while nothing runs and the interpreter's prompt answers. */
  get atPrompt(): boolean {
    return !this.dead && this.run === null && this.asleepUntilMs < 0 && this.restartAtMs < 0
  }

  /** Runs Python beside the program, for tests that need to look inside or take memory away. */
  python(code: string): void {
    this.mp.runPython(code)
  }

  press(ms: number, slug?: string): void {
    this.wiring
      ?.all(PushButton)
      .find((p) => slug === undefined || p.slug === slug)
      ?.press(ms)
  }

  turn(clicks: number): void {
    for (const knob of this.wiring?.all(Knob) ?? []) knob.turn(clicks)
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
    return this.wiring?.part(Ranger) !== undefined
  }

  get display() {
    return this.wiring?.display ?? null
  }

  /** Share of full power a dimmed output has, 0 to 1. */
  shareOf(slug: string): number {
    const at = this.wiring?.dimmed.get(slug)
    const duty = at === undefined ? undefined : this.duty.get(at.pin)
    if (at === undefined) return 0
    if (duty === undefined) return this.driven(at.pin) === (at.activeLow ? 0 : 1) ? 1 : 0
    return (at.activeLow ? 65535 - duty : duty) / 65535
  }

  stop(): void {
    this.link.closeAll()
  }

  private wallUs(): number {
    return this.clockAtStartUs + (this.now() - this.startedMs) * 1000
  }

  private ticksUs(us: number): number {
    return Math.floor(us) % TICKS
  }

  private call(pin: number, level: 0 | 1, us = this.clockUs): void {
    const edge = this.edges.get(pin)
    if (edge && (edge.both || level === 0)) this.guarded(() => edge.call(this.ticksUs(us), level))
  }

  /**
   * Edges that came since the last step: pulses, clicks, codes from the air. Each calls what the program has tied to
   * the pin.
   */
  private edgesOf(dtS: number): void {
    const { wiring } = this
    if (!wiring) return
    for (const part of wiring.parts) part.step?.(dtS, (pin, level, us) => this.call(pin, level, us))
    for (const said of wiring.transmitters.values())
      for (const frame of said.frames(this.clockUs)) this.options.said?.(frame)
    const frame = this.onAir.shift()
    if (wiring.radio >= 0 && frame) this.receive(wiring.radio, frame, this.onAir.length === 0)
    for (const [uart, speaker] of wiring.speakers) {
      const bytes = this.faults.unplugged ? [] : speaker.step(dtS)
      const noisy = this.faults.garbage
        ? bytes.map((b) => (this.options.random() < 0.1 ? Math.floor(256 * this.options.random()) : b))
        : bytes
      this.heard.set(uart, [...(this.heard.get(uart) ?? []), ...noisy].slice(-256))
    }
  }

  /** A train comes to its receiver: lengths in µs, high first, gaps among them. */
  hear(train: readonly number[]): void {
    let frame: number[] = []
    for (const [i, us] of train.entries()) {
      frame.push(us)
      if (i % 2 === 0 || us < 3500) continue
      this.onAir.push(frame)
      frame = []
    }
    if (frame.length > 0) this.onAir.push(frame)
  }

  /**
   * A frame from the air, as this chip feels it: in a state machine, in a hard interrupt, or through the short queue of
   * a soft one.
   */
  private receive(pin: number, lengths: readonly number[], last: boolean): void {
    const { random } = this.options
    let us = this.clockUs
    let level: 0 | 1 = 0
    const edges: Edge[] = lengths.map((length) => {
      level = level ? 0 : 1
      const edge = { us, level }
      us += length
      return edge
    })
    if (last) edges.push({ us, level: 1 })
    this.clockUs = us
    const edge = this.edges.get(pin)
    if (this.machine?.pin === pin) this.guarded(() => this.machine?.feel(edges, random))
    else if (edge?.hard) hardly(edges, random, (at, l) => this.guarded(() => edge.call(this.ticksUs(at), l)))
    else if (edge)
      this.lostEdges += softly(edges, random, (at, l) => this.guarded(() => edge.call(this.ticksUs(at), l))).lost
  }

  /** What the shims ask. Numbers stay below 2³⁰: the runtime's integers from here are 32 bits wide. */
  private world(): Record<string, unknown> {
    const wire = (pin: number) => (this.faults.unplugged ? undefined : this.wiring?.wires.get(pin))
    const bus = (sda: number, scl: number, bytes: number) => {
      // Nine clocks a byte, the address included, at 100 kHz. Nobody is understood while the data line is held.
      this.clockUs += (bytes + 1) * 90
      return this.stuckClocks > 0 ? undefined : this.wiring?.buses.get(`${sda} ${scl}`)
    }
    const hex = (bytes: readonly number[]) => Buffer.from(bytes).toString('hex')
    return {
      chip: this.chip,
      ticks_ms: () => {
        if (!this.interrupted) return Math.floor(this.clockUs / 1000) % TICKS
        this.interrupted = false
        return -1
      },
      ticks_us: () => this.clockUs % TICKS,
      pass_us: (us: number) => {
        this.clockUs += us
      },
      pin_mode: (n: number, mode: PinState['mode'], pull: PinState['pull'], level: number) => {
        if (mode !== 'in' && READ_ONLY[this.chip]?.includes(n)) return 'pin can only be input'
        if (this.held.has(n)) return ''
        this.duty.delete(n)
        const kept = level === 0 ? 0 : (this.pins.get(n)?.level ?? 0)
        this.pins.set(n, { mode, pull, level: level === 1 ? 1 : kept })
        return ''
      },
      pin_write: (n: number, level: number) => this.write(n, level ? 1 : 0),
      pin_read: (n: number) => this.level(n),
      pin_irq: (n: number, both: boolean, hard: boolean, call: (us: number, level: number) => void) => {
        this.edges.set(n, { both, hard, call })
      },
      pin_irq_off: (n: number) => {
        this.edges.delete(n)
      },
      pin_hold: (n: number, on: boolean) => {
        if (on) this.held.set(n, this.pins.get(n)?.pull ?? 'none')
        else this.held.delete(n)
      },
      pio_new: (_: number, program: string, hz: number, pin: number) => {
        this.machine = new StateMachine(program, hz, pin)
      },
      pio_irq: (_: number, call: (us: number, ...words: number[]) => void) => {
        if (this.machine) this.machine.handler = (us, ...w) => call(this.ticksUs(us), ...w.map((x) => x % TICKS))
      },
      pio_active: (_: number, on: boolean) => {
        if (this.machine) this.machine.active = on
      },
      rmt_say: (n: number, first: number, idle: number, div: number, text: string) => {
        // It begins when what it was saying is over, and goes on by itself.
        const said = this.wiring?.transmitters.get(n)
        let us = Math.max(this.clockUs, this.saying.get(n) ?? 0)
        for (const [i, counts] of text.split(',').entries()) {
          said?.wrote(us, ((first + i) % 2) as 0 | 1)
          us += (Number(counts) * div) / 80
        }
        said?.wrote(us, idle as 0 | 1)
        this.saying.set(n, us)
      },
      rmt_idle: (n: number) => (this.saying.get(n) ?? 0) <= this.clockUs,
      rmt_off: (n: number) => {
        this.saying.delete(n)
      },
      adc_read: (n: number) => this.code(n),
      pwm_made: (_: number, hz: number, duty: number) => {
        if (hz < 0 || duty < 0) this.blips += 1
      },
      pwm_freq: () => undefined,
      pwm_duty: (n: number, duty: number) => {
        this.duty.set(n, duty)
      },
      pwm_off: (n: number) => {
        this.duty.delete(n)
      },
      timer_new: () => this.nextTimer++,
      timer_set: (id: number, ms: number, again: boolean, call: () => void) => {
        this.timers.set(id, { dueUs: this.clockUs + ms * 1000, periodMs: again ? ms : null, call })
      },
      timer_off: (id: number) => {
        this.timers.delete(id)
      },
      wdt: (ms: number) => {
        this.wdt = { ms, fedUs: this.clockUs }
      },
      feed: () => {
        if (this.wdt) this.wdt.fedUs = this.clockUs
      },
      bitten: () => {
        if (!this.wdt || this.clockUs - this.wdt.fedUs <= this.wdt.ms * 1000) return false
        this.restart('watchdog')
        return true
      },
      pulse_us: (n: number, level: number, timeoutUs: number) => this.pulse(n, level, timeoutUs),
      lamps: (n: number, text: string) => {
        this.wiring?.lit.set(n, [...Buffer.from(text, 'hex')])
      },
      i2c_write: (sda: number, scl: number, address: number, text: string) =>
        bus(sda, scl, text.length / 2)?.write(address, [...Buffer.from(text, 'hex')]) ?? false,
      i2c_read: (sda: number, scl: number, address: number, n: number) => {
        const got = bus(sda, scl, n)?.read(address, n)
        return got ? hex(got) : ''
      },
      uart_any: (n: number) => this.heard.get(n)?.length ?? 0,
      uart_read: (n: number, count: number) => hex((this.heard.get(n) ?? []).splice(0, count)),
      aes_open: (key: string, iv: string, data: string) => {
        const cipher = createDecipheriv('aes-128-cbc', Buffer.from(key, 'hex'), Buffer.from(iv, 'hex')).setAutoPadding(
          false,
        )
        return Buffer.concat([cipher.update(Buffer.from(data, 'hex')), cipher.final()]).toString('hex')
      },
      reset_cause: () => RESET_NUMBER[this.chip][this.cause],
      wake_reason: () => this.wakeReason,
      wake_on: (n: number, level: number, reason: number) => {
        this.wakeOn.set(n, { level, reason })
      },
      reset: () => this.restart('program'),
      deepsleep: (ms: number) => {
        this.asleepUntilMs = this.now() + ms
        this.link.silence()
        for (const [n, pin] of this.pins) if (!this.held.has(n)) pin.pull = 'none'
      },
      wifi_join: (name: string, password: string) => {
        // A driver of the 32 family that lost its network joins again by itself, and lets nobody else begin meanwhile.
        const busy = isFamily32(this.chip) && this.wifi.way !== '' && !this.joined() && this.wifi.reconnects !== 0
        if (busy) return 'Wifi Internal Error'
        this.wifi = { ...this.wifi, joined: this.clockUs + 1_800_000, way: `${name}\n${password}` }
        return ''
      },
      wifi_leave: () => {
        this.wifi = { ...this.wifi, joined: -1, way: '' }
      },
      wifi_reconnects: (n: number) => {
        this.wifi.reconnects = n
      },
      wifi_active: (which: number, on: boolean) => {
        if (which === 1) this.accessPoint = on
      },
      wifi_up: () => this.joined(),
      wifi_status: () => this.wifiStatus(),
      wifi_mac: () => this.options.hardware ?? '020000000001',
      wifi_dbm: () => -58 - Math.round(6 * this.options.random()),
      sock_new: () => this.link.open(),
      sock_connect: (id: number, host: string, port: number) => this.link.connect(id, host, port),
      sock_state: (id: number) => (this.joined() ? this.link.state(id) : 'reset'),
      // On their way through here bytes take several times their room: in a tight heap they go in smaller pieces.
      sock_room: (id: number, wanted: number) =>
        this.link.room(id, this.options.heap?.limited ? Math.min(wanted, 96) : wanted),
      sock_send: (id: number, text: string) => this.link.send(id, text),
      sock_recv: (id: number, limit: number) =>
        this.link.receive(id, this.options.heap?.limited ? Math.min(limit, 96) : limit),
      sock_waiting: (id: number) => this.link.waiting(id),
      sock_close: (id: number) => {
        this.names.delete(id)
        this.link.close(id)
      },
      tls_certificate: (id: number) => this.link.certificate(id),
      udp_send: (id: number, text: string, host: string, port: number) => {
        const question = Buffer.from(text, 'hex')
        const named = port === 53 ? nameAnswer(question, this.options.names ?? {}) : null
        const answer = port === 123 ? this.timeFrom(host, question) : named
        if (answer && this.joined() && !this.link.isCut) this.names.set(id, answer)
      },
      udp_recv: (id: number) => {
        const answer = this.names.get(id)
        this.names.delete(id)
        return answer?.toString('hex') ?? ''
      },
      wire_reset: (pin: number) => wire(pin)?.reset() ?? false,
      wire_put: (pin: number, bit: number) => {
        wire(pin)?.put(bit)
      },
      wire_bit: (pin: number) => {
        const bit = wire(pin)?.bit() ?? 1
        return this.faults.garbage && this.options.random() < 0.05 ? 1 - bit : bit
      },
    }
  }

  private nextTimer = 1
  private interrupted = false

  private restart(cause: Reset): void {
    this.restartAtMs = this.now()
    this.cause = cause
  }

  /** What the network's gateway, or who else answers for the time there, says to this question. */
  private timeFrom(host: string, question: Buffer): Buffer | null {
    return (this.options.timeServers?.() ?? [GATEWAY]).includes(host) ? timeAnswer(question, this.now()) : null
  }

  private joined(): boolean {
    if (!this.airUp || this.wifi.joined < 0 || this.clockUs < this.wifi.joined) return false
    const known = this.options.air?.() ?? null
    if (known === null) return true
    const [name = '', password = ''] = this.wifi.way.split('\n')
    return known[name] === password
  }

  /** As the driver of this class of chip numbers it. */
  private wifiStatus(): number {
    const small = isSmall(this.chip)
    const by = (family: number, smallest: number, rp2040: number) => {
      if (isFamily32(this.chip)) return family
      return small ? smallest : rp2040
    }
    if (this.joined()) return by(1010, 5, 3)
    if (this.wifi.way === '') return by(1000, 0, 0)
    if (this.clockUs < this.wifi.joined) return by(1001, 1, 1)
    if (!this.airUp) return by(201, 3, -2)
    const [name = ''] = this.wifi.way.split('\n')
    return (this.options.air?.() ?? {})[name] === undefined ? by(201, 3, -2) : by(202, 2, -3)
  }

  private write(n: number, level: 0 | 1): void {
    const pin = this.pins.get(n)
    for (const part of this.wiring?.parts ?? []) part.wrote?.(n, level, pin?.level ?? 0)
    this.wiring?.transmitters.get(n)?.wrote(this.clockUs, level)
    // A part that is cut off in the middle of a byte gives the line free after the clocks that were left.
    if (this.stuckClocks > 0 && pin?.mode === 'open-drain' && pin.level === 0 && level === 1) this.stuckClocks -= 1
    if (pin) pin.level = level
  }

  private level(n: number): 0 | 1 {
    const pin = this.pins.get(n)
    const { wiring } = this
    if (pin?.mode === 'out' || !wiring) return pin?.level ?? 0
    if (n === wiring.radio) return this.radioLevel
    for (const part of wiring.parts) {
      const level = part.level?.(n) ?? null
      if (level !== null) return level
    }
    if (this.stuckClocks > 0 && [...wiring.buses.keys()].some((k) => k.startsWith(`${n} `))) return 0
    if (pin?.mode === 'open-drain') return pin.level
    return pin?.pull === 'up' ? 1 : 0
  }

  /** Sixteen bits of the converter, with the noise of a real one. */
  private code(n: number): number {
    for (const part of this.wiring?.parts ?? []) {
      const share = part.share?.(n) ?? null
      if (share === null) continue
      this.clockUs += 40
      return Math.round(Math.max(0, Math.min(1, share)) * 65535)
    }
    return 0
  }

  private pulse(n: number, level: number, timeoutUs: number): number {
    const lengthUs = level === 1 ? (this.wiring?.part(Ranger)?.echoUs(n) ?? null) : null
    if (lengthUs === null || lengthUs > timeoutUs) {
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
    // What is not there is not asked for: a failed look costs more than all others.
    const there = new Set(this.mp.FS.readdir('/'))
    for (const name of FLASH) {
      const data = there.has(name) ? this.reads(name) : null
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
    const text =
      this.kept.get('trial') === undefined
        ? this.kept.get('node.json')
        : (this.kept.get('node.new') ?? this.kept.get('node.json'))
    // Half a file is nobody’s wiring: what is soldered stays.
    if (text !== undefined && isWhole(text))
      this.wiring = solderedFrom(Buffer.from(text, 'latin1').toString('utf8'), {
        tank: this.tank,
        yard: this.yard,
        comings: this.comings,
        random: this.options.random,
        faults: this.faults,
        cellV: () => this.options.cell?.volts() ?? null,
        nowUs: () => this.clockUs,
        driven: (pin) => this.driven(pin),
        pulledLow: (n) => this.pins.get(n)?.level === 0 && this.pins.get(n)?.mode !== 'in',
        unplugged: () => this.faults.unplugged,
        warmed: (n) => this.warm.get(n) ?? 0,
      })
  }
}
