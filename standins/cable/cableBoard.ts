import { randomInt } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import { type Chip, isSmall } from '../../src/core/bundle/chipClass'
import type { CABLE_TROUBLES } from '../../src/wire/deeds'
import type { Reset } from '../board/chip'
import { type BoardOptions, SimulatedBoard } from '../board/board'
import { startsFrom } from './flashStart'
import { RomLoader } from './romLoader'
import { SILICON, type Silicon, type StartWhy } from './silicon'

export type Trouble = (typeof CABLE_TROUBLES)[number]

const FLASH_BYTES = 4 * 1024 * 1024
const PROGRAM_BAUD = 115_200
/** A chip with USB of its own is back after this, ms. */
const BACK_MS = 400
/** From a start until the radio's first burst, which a weak supply does not stand, ms. */
const BURST_MS = 1500

export interface CableOptions {
  chip: Chip
  /** Flash and files; made when it is not there. */
  folder: string
  hardware: string
  trouble: Trouble
  shimDir: string
  sourceDir: string
  board?: Partial<BoardOptions>
  log: (line: string) => void
}

export interface Port {
  say: (bytes: Uint8Array) => void
  gone: (why: string) => void
}

/**
 * A board at the end of a cable: the loader in its chip's ROM, a flash that is empty at first, and, once an interpreter is
 * in it, the simulated board with its prompt. It starts by the control lines as boards with a bridge, or with USB in the
 * chip, do.
 */
export class CableBoard {
  trouble: Trouble
  private readonly silicon: Silicon
  private readonly flash: Uint8Array
  private board: SimulatedBoard | null = null
  private loader: RomLoader | null = null
  private port: Port | null = null
  /** Baud at our end and at the other. */
  private baud = PROGRAM_BAUD
  private heardAt = PROGRAM_BAUD
  private lines = { dtr: false, rts: false }
  private asked = false
  private awayUntil = 0
  private burstAt = Infinity
  private saved = new Map<string, string>()

  private constructor(private readonly o: CableOptions) {
    const silicon = SILICON[o.chip]
    if (!silicon) throw new Error(`${o.chip} is written over a drive`)
    this.silicon = silicon
    this.trouble = o.trouble
    fs.mkdirSync(path.join(o.folder, 'modules'), { recursive: true })
    this.flash = new Uint8Array(FLASH_BYTES).fill(0xff)
    const kept = this.file('flash.bin')
    if (fs.existsSync(kept)) this.flash.set(fs.readFileSync(kept).subarray(0, FLASH_BYTES))
  }

  static async plugIn(o: CableOptions): Promise<CableBoard> {
    const cable = new CableBoard(o)
    cable.board = await SimulatedBoard.start({
      flashDir: o.folder,
      deviceDir: path.join(o.folder, 'modules'),
      sourceDir: o.sourceDir,
      shimDir: o.shimDir,
      random: () => randomInt(2 ** 30) / 2 ** 30,
      log: o.log,
      chip: o.chip,
      hardware: o.hardware,
      ...o.board,
      console: (bytes) => cable.program(bytes),
      starting: (cause) => cable.starts(cause),
      bare: true,
    })
    cable.powerOn('power')
    return cable
  }

  get running(): SimulatedBoard | null {
    return this.loader ? null : this.board
  }

  private file(name: string): string {
    return path.join(this.o.folder, name)
  }

  /** The port is opened; why not, where there is none. */
  open(baud: number, port: Port): string | null {
    if (this.trouble === 'charging only') return 'There is no port: nothing has appeared since the cable went in.'
    if (this.port) return 'Another program has it open.'
    if (Date.now() < this.awayUntil) return 'There is no port now: the board starts anew.'
    if (this.silicon.native && this.board?.asleep && !this.loader) return 'There is no port: the board sleeps.'
    this.port = port
    this.heardAt = baud
    return null
  }

  close(): void {
    this.port = null
    this.lines = { dtr: false, rts: false }
  }

  info(): { usbVendorId?: number; usbProductId?: number } {
    // The number by which USB of the chip's own is known; a bridge has others.
    return this.silicon.native
      ? { usbVendorId: 0x303a, usbProductId: 0x1001 }
      : { usbVendorId: 0x1209, usbProductId: 1 }
  }

  /** The two lines that a bridge ties to reset and to the pin that chooses the loader. */
  signals(dtr: boolean, rts: boolean): void {
    const before = this.lines
    this.lines = { dtr, rts }
    if (this.trouble === 'crossed') return
    if (this.silicon.native) {
      if (dtr && !rts) this.asked = true
      if (before.rts && !rts) {
        this.powerOn(this.asked ? 'download' : 'power', true)
        this.asked = false
      }
      return
    }
    // Two transistors: each line works only while the other does not.
    const held = rts && !dtr
    const wasHeld = before.rts && !before.dtr
    if (wasHeld && !held) this.powerOn(dtr && !rts ? 'download' : 'power', true)
  }

  hear(bytes: Uint8Array): void {
    if (this.trouble === 'crossed') return
    if (!this.silicon.native && this.heardAt !== this.baud) return
    if (this.loader) this.loader.hear(bytes)
    else this.board?.type(bytes)
  }

  /** The cable is pulled and plugged in again, or the supply taken away and given back. */
  pull(): void {
    const { port } = this
    this.port = null
    port?.gone('The device has been lost.')
    this.powerOn('power')
  }

  step(): void {
    if (this.loader || !this.board) return
    const cause = this.board.asleep
    this.board.step()
    if (this.silicon.native && this.board.asleep && !cause) this.leave()
    if (this.trouble === 'weak supply' && Date.now() >= this.burstAt && !this.board.atPrompt) {
      // The smallest class has nothing that would say so: it starts anew as if power had come on.
      const says = !isSmall(this.o.chip)
      if (says) this.program(Buffer.from('\r\nBrownout detector was triggered\r\n\r\n'))
      this.cause = says ? 'brownout' : 'power'
      this.board.power('watchdog')
    }
  }

  stop(): void {
    this.keep()
    this.port?.gone('The device has been lost.')
    this.board?.stop()
  }

  /** What is in the flash goes to the disk: a board keeps it without power. */
  keep(): void {
    fs.writeFileSync(this.file('flash.bin'), this.flash)
    if (!this.board) return
    const now = this.board.modules
    for (const name of this.saved.keys())
      if (!now.has(name)) fs.rmSync(path.join(this.o.folder, 'modules', name), { force: true })
    for (const [name, bytes] of now) {
      const to = path.join(this.o.folder, 'modules', name)
      fs.mkdirSync(path.dirname(to), { recursive: true })
      fs.writeFileSync(to, bytes)
    }
    this.saved = new Map([...now.keys()].map((n) => [n, n]))
  }

  private cause: StartWhy['cause'] | null = null

  /** Power, or reset with the pin that chooses the loader as it is. */
  private powerOn(how: 'power' | 'download', byLines = false): void {
    if (how === 'download' || this.trouble === 'strap held') {
      this.loader = new RomLoader({
        silicon: this.silicon,
        mac: [...Buffer.from(this.o.hardware, 'hex')],
        flash: this.flash,
        say: (bytes) => this.say(bytes),
        baud: (baud) => {
          this.baud = baud
        },
        erased: () => this.board?.wipe(),
        run: () => this.powerOn('power'),
      })
      this.baud = PROGRAM_BAUD
      this.line(this.silicon.text({ cause: 'power', mode: 'download' }), this.silicon.baud)
      return
    }
    const wrote = this.loader !== null
    this.loader = null
    if (wrote) this.keep()
    if (!byLines && this.silicon.native) this.leave()
    this.board?.power('power')
  }

  /** The chip starts: its loader says why, and hands on to what is in the flash. */
  private starts(cause: Reset): boolean {
    this.baud = PROGRAM_BAUD
    this.burstAt = Date.now() + BURST_MS
    const why = this.cause ?? (cause === 'button' ? 'power' : cause)
    this.cause = null
    if (cause !== 'power' && this.silicon.native) this.leave()
    const mode = this.trouble === '12 high' ? 'flash at 1.8 V' : 'flash'
    this.line(this.silicon.text({ cause: why, mode }), this.silicon.baud)
    const said =
      mode === 'flash'
        ? startsFrom(this.flash, this.o.chip, this.silicon.at)
        : 'flash read err, 1000\r\nets_main.c 371 \r\n'
    if (said !== null) this.line(said, this.silicon.baud)
    return said === null
  }

  /** Its USB goes away with the reset, and comes back. */
  private leave(): void {
    const { port } = this
    this.awayUntil = Date.now() + BACK_MS
    if (!port) return
    this.port = null
    port.gone('The device has been lost.')
  }

  private line(text: string, baud: number): void {
    this.say(Buffer.from(text, 'latin1'), baud)
  }

  private program(bytes: Uint8Array): void {
    if (!this.loader) this.say(bytes, PROGRAM_BAUD)
  }

  private say(bytes: Uint8Array, baud = this.baud): void {
    if (this.trouble === 'crossed') return
    // At another baud bits are read where none are.
    const wrong = !this.silicon.native && this.heardAt !== baud
    this.port?.say(wrong ? bytes.map((b, i) => ((b * 167 + i * 59) & 0x7f) | 0x80) : new Uint8Array(bytes))
  }
}
