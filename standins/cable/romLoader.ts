import { createHash } from 'node:crypto'
import { createInflate, type Inflate } from 'node:zlib'
import type { Silicon } from './silicon'

/** Answers before the stub runs carry four bytes of state, two on the smallest chip; the stub's carry two. */
const FAILED = [1, 5]
const USR = 1 << 18

const OP = {
  flashBegin: 0x02,
  flashData: 0x03,
  flashEnd: 0x04,
  memBegin: 0x05,
  memEnd: 0x06,
  memData: 0x07,
  sync: 0x08,
  writeReg: 0x09,
  readReg: 0x0a,
  setParams: 0x0b,
  attach: 0x0d,
  baud: 0x0f,
  deflBegin: 0x10,
  deflData: 0x11,
  deflEnd: 0x12,
  md5: 0x13,
  security: 0x14,
  eraseFlash: 0xd0,
  eraseRegion: 0xd1,
} as const

/** One command, with what may be answered. */
interface Call {
  data: Uint8Array
  /** Sum its sender made of what it carries. */
  sum: number
  /** Word `n` of its content. */
  word: (n: number) => number
  fine: () => void
  bad: () => void
  gives: (value: number, data?: readonly number[] | Uint8Array) => void
}

export interface LoaderOptions {
  silicon: Silicon
  mac: readonly number[]
  flash: Uint8Array
  /** Says bytes on the line. */
  say: (bytes: Uint8Array) => void
  /** From the next byte on. */
  baud: (baud: number) => void
  /** Everything is gone: whoever keeps files in the flash loses them. */
  erased: () => void
  /** Runs what is in the flash. */
  run: () => void
}

/**
 * The loader in a chip's ROM, and the stub that is put into its memory over it: frames with escapes, checksums, registers,
 * compressed blocks into the flash. What it is told it does; what it does not know it refuses eight times, as the ROM does.
 */
export class RomLoader {
  private frame: number[] = []
  private escaped = false
  private stub = false
  private readonly registers = new Map<number, number>()
  private memory = { left: 0, checked: true }
  private writing: { inflate: Inflate | null; seq: number; next: number } | null = null
  private work: Promise<void> = Promise.resolve()

  constructor(private readonly o: LoaderOptions) {
    const { silicon, mac } = o
    this.registers.set(0x40001000, silicon.magic)
    for (const [at, value] of silicon.mac(mac)) this.registers.set(at, value)
  }

  /** Bytes from the line; frames are done one after the other. */
  hear(bytes: Uint8Array): void {
    for (const byte of bytes) {
      if (byte === 0xc0) {
        // The end of one is as good as the beginning of the next: what stands between makes no sense and is left.
        const packet = Uint8Array.from(this.frame)
        this.frame = []
        this.escaped = false
        if (packet.length > 0) this.work = this.work.then(() => this.does(packet)).catch(() => undefined)
      } else {
        if (this.escaped) {
          this.frame.push(byte === 0xdc ? 0xc0 : 0xdb)
          this.escaped = false
        } else if (byte === 0xdb) this.escaped = true
        else this.frame.push(byte)
      }
    }
  }

  private slip(bytes: readonly number[] | Uint8Array): void {
    const out = [0xc0]
    for (const b of bytes) {
      if (b === 0xc0) out.push(0xdb, 0xdc)
      else if (b === 0xdb) out.push(0xdb, 0xdd)
      else out.push(b)
    }
    out.push(0xc0)
    this.o.say(Uint8Array.from(out))
  }

  private answer(
    op: number,
    value: number,
    data: readonly number[] | Uint8Array = [],
    state: readonly number[] = [0, 0],
  ): void {
    const tail = !this.stub && this.o.silicon.chipId !== null ? [...state, 0, 0] : [...state]
    const length = data.length + tail.length
    const head = [
      1,
      op,
      length & 0xff,
      length >> 8,
      value & 0xff,
      (value >>> 8) & 0xff,
      (value >>> 16) & 0xff,
      value >>> 24,
    ]
    this.slip([...head, ...data, ...tail])
  }

  private async does(packet: Uint8Array): Promise<void> {
    const view = new DataView(packet.buffer, packet.byteOffset)
    if (packet.length < 8 || packet[0] !== 0) return
    const op = packet[1] ?? 0
    const call: Call = {
      data: packet.subarray(8, 8 + view.getUint16(2, true)),
      sum: view.getUint32(4, true) & 0xff,
      word: (n) => (8 + 4 * n + 4 <= packet.length ? view.getUint32(8 + 4 * n, true) : 0),
      fine: () => this.answer(op, 0),
      bad: () => this.answer(op, 0, [], FAILED),
      gives: (value, data) => this.answer(op, value, data),
    }
    const does = this.rom[op] ?? (this.stub ? this.ofStub[op] : undefined)
    if (does && !(op === OP.security && this.o.silicon.chipId === null)) return does(call)
    // A command it does not know, said eight times under no command's number.
    for (let i = 0; i < 8; i++) this.answer(0xff, 0, [], FAILED)
  }

  private readonly rom: Record<number, (call: Call) => void | Promise<void>> = {
    [OP.sync]: ({ gives }) => {
      for (let i = 0; i < 8; i++) gives(this.stub ? 0 : 0x20120707)
    },
    [OP.readReg]: ({ word, gives }) => gives(this.registers.get(word(0)) ?? 0),
    [OP.writeReg]: ({ data, word, fine }) => {
      for (let n = 0; n * 16 < data.length; n++) this.write(word(4 * n), word(4 * n + 1))
      fine()
    },
    [OP.security]: ({ gives }) =>
      gives(0, [...Array<number>(12).fill(0), this.o.silicon.chipId ?? 0, 0, 0, 0, 0, 0, 0, 0]),
    [OP.memBegin]: ({ word, fine }) => {
      this.memory = { left: word(0), checked: true }
      fine()
    },
    [OP.memData]: ({ data, sum, fine, bad }) => {
      const part = data.subarray(16)
      this.memory.left -= part.length
      this.memory.checked &&= sumOf(part) === sum
      if (this.memory.checked) fine()
      else bad()
    },
    [OP.memEnd]: ({ word, fine, bad }) => {
      if (this.memory.left > 0 || !this.memory.checked) return bad()
      fine()
      if (word(0) !== 0) return
      this.stub = true
      this.slip([...Buffer.from('OHAI')])
    },
    [OP.attach]: ({ fine }) => fine(),
    [OP.setParams]: ({ fine }) => fine(),
    [OP.baud]: ({ word, fine }) => {
      fine()
      // What is on its way is still said at the old one.
      setImmediate(() => this.o.baud(word(0)))
    },
    [OP.md5]: ({ word, gives }) => {
      const digest = createHash('md5')
        .update(this.o.flash.subarray(word(0), word(0) + word(1)))
        .digest()
      gives(0, this.stub ? digest : Buffer.from(digest.toString('hex')))
    },
    [OP.flashBegin]: (call) => this.begin(call, false),
    [OP.deflBegin]: (call) => this.begin(call, true),
    [OP.flashData]: (call) => this.block(call),
    [OP.deflData]: (call) => this.block(call),
    [OP.flashEnd]: (call) => this.finish(call),
    [OP.deflEnd]: (call) => this.finish(call),
  }

  private readonly ofStub: Record<number, (call: Call) => void> = {
    [OP.eraseFlash]: ({ fine }) => {
      this.o.flash.fill(0xff)
      this.o.erased()
      fine()
    },
    [OP.eraseRegion]: ({ word, fine }) => {
      this.o.flash.fill(0xff, word(0), word(0) + word(1))
      fine()
    },
  }

  private async begin({ word, fine }: Call, compressed: boolean): Promise<void> {
    await this.end()
    const writing = { inflate: compressed ? createInflate() : null, seq: 0, next: word(3) }
    writing.inflate?.on('data', (part: Buffer) => this.put(part))
    writing.inflate?.on('error', () => {
      this.writing = null
    })
    this.writing = writing
    fine()
  }

  private async block({ data, word, sum, fine, bad }: Call): Promise<void> {
    const part = data.subarray(16)
    const { writing } = this
    // Said again because its answer came late: it is in already.
    if (writing !== null && writing.seq > 0 && word(1) === writing.seq - 1) return fine()
    if (writing === null || word(1) !== writing.seq || sumOf(part) !== sum) return bad()
    writing.seq += 1
    if (writing.inflate) await new Promise<void>((r) => writing.inflate?.write(part, () => r()))
    else this.put(part)
    fine()
  }

  private async finish({ word, fine }: Call): Promise<void> {
    await this.end()
    fine()
    if (word(0) === 0) this.o.run()
  }

  private put(part: Uint8Array): void {
    const { writing } = this
    if (!writing) return
    this.o.flash.set(
      part.subarray(0, Math.max(0, this.o.flash.length - writing.next)),
      Math.min(writing.next, this.o.flash.length),
    )
    writing.next += part.length
  }

  private async end(): Promise<void> {
    const inflate = this.writing?.inflate
    if (inflate) await new Promise<void>((r) => inflate.end(() => r()))
    this.writing = null
  }

  /** The flash's own registers: what is sent to it comes back as its number when that is what was asked. */
  private write(at: number, value: number): void {
    const { spi } = this.o.silicon
    this.registers.set(at, value)
    if (at !== spi.base || (value & USR) === 0) return
    this.registers.set(spi.base, 0)
    const asked = (this.registers.get(spi.base + spi.usr2) ?? 0) & 0xff
    if (asked === 0x9f) this.registers.set(spi.base + spi.w0, (Math.log2(this.o.flash.length) << 16) | 0x40c8)
  }
}

const sumOf = (part: Uint8Array): number => part.reduce((s, b) => s ^ b, 0xef)
