/** A part on a two-wire bus, in bytes: what a controller writes to it, and what it gives when it is read. */
export interface BusPart {
  write(bytes: readonly number[]): void
  read(n: number): number[]
}

export interface BusFaults {
  unplugged: boolean
  garbage: boolean
}

/**
 * Parts on one pair of pins. Several at one address all answer: the line is low when any of them pulls it, so their
 * bits are and-ed.
 */
export class Bus {
  readonly parts = new Map<number, BusPart[]>()
  constructor(
    private readonly faults: BusFaults,
    private readonly random: () => number,
  ) {}

  add(address: number, part: BusPart): void {
    this.parts.set(address, [...(this.parts.get(address) ?? []), part])
  }

  /** False when nobody pulls the acknowledge bit. */
  write(address: number, bytes: readonly number[]): boolean {
    const parts = this.at(address)
    for (const p of parts) p.write(bytes)
    return parts.length > 0
  }

  read(address: number, n: number): number[] | null {
    const parts = this.at(address)
    if (parts.length === 0) return null
    const all = parts.map((p) => p.read(n))
    const bytes = Array.from({ length: n }, (_, i) => all.reduce((sum, b) => sum & (b[i] ?? 0xff), 0xff))
    return this.faults.garbage ? bytes.map((b) => (this.random() < 0.5 ? Math.floor(256 * this.random()) : b)) : bytes
  }

  private at(address: number): BusPart[] {
    return this.faults.unplugged ? [] : (this.parts.get(address) ?? [])
  }
}

/**
 * CRC-8 of the climate part: x⁸ + x⁵ + x⁴ + 1, start value 0xFF, high bit first. Its data sheet gives 0x92 for 0xBEEF.
 */
export function climateCrc(bytes: readonly number[]): number {
  return bytes.reduce((crc, byte) => {
    let c = crc ^ byte
    for (let i = 0; i < 8; i++) c = c & 0x80 ? ((c << 1) ^ 0x31) & 0xff : (c << 1) & 0xff
    return c
  }, 0xff)
}

export interface Climate {
  temperatureC: number
  humidity: number
  pressurePa: number
}

/** The part at 0x44: measures on 0x2400, then gives two words, each with its checksum. */
export class Climate44 implements BusPart {
  private out: number[] = []
  constructor(private readonly climate: () => Climate) {}

  write(bytes: readonly number[]): void {
    if (bytes[0] !== 0x24) return
    const { temperatureC, humidity } = this.climate()
    const words = [((temperatureC + 45) / 175) * 65535, (humidity / 100) * 65535].map((w) =>
      Math.max(0, Math.min(65535, Math.round(w))),
    )
    this.out = words.flatMap((w) => [w >> 8, w & 255, climateCrc([w >> 8, w & 255])])
  }

  read(n: number): number[] {
    return Array.from({ length: n }, (_, i) => this.out[i] ?? 0xff)
  }
}

/** A part that is read and written by register number. */
abstract class Registers implements BusPart {
  private pointer = 0
  protected abstract get(register: number): number
  protected set?(register: number, value: number): void

  write(bytes: readonly number[]): void {
    this.pointer = bytes[0] ?? 0
    bytes.slice(1).forEach((value, i) => this.set?.(this.pointer + i, value))
  }

  read(n: number): number[] {
    return Array.from({ length: n }, (_, i) => this.get(this.pointer + i) & 0xff)
  }
}

const T = [27504, 26435, -1000] as const
const P = [36477, -10685, 3024, 2855, 140, -7, 15500, -14600, 6000] as const
const H = { h1: 75, h2: 361, h3: 0, h4: 340, h5: 50, h6: 30 } as const

/**
 * The part at 0x76, with the trimming numbers its data sheet works its example with. Raw counts are sought for the
 * climate it is in.
 */
export class Climate76 extends Registers {
  private data: number[] = [0x80, 0, 0, 0x80, 0, 0, 0x80, 0]
  /** Without humidity it is the pressure part. */
  constructor(
    private readonly climate: () => Climate,
    private readonly humid = true,
  ) {
    super()
  }

  protected get(r: number): number {
    if (r === 0xd0) return this.humid ? 0x60 : 0x58
    if (r >= 0x88 && r < 0xa0) {
      const word = [...T, ...P][(r - 0x88) >> 1] ?? 0
      return r & 1 ? (word >> 8) & 0xff : word & 0xff
    }
    if (r === 0xa1) return H.h1
    if (r >= 0xe1 && r <= 0xe7)
      return [H.h2 & 255, H.h2 >> 8, H.h3, H.h4 >> 4, (H.h4 & 15) | ((H.h5 & 15) << 4), H.h5 >> 4, H.h6][r - 0xe1] ?? 0
    return r >= 0xf7 && r <= 0xfe ? (this.data[r - 0xf7] ?? 0) : 0
  }

  protected override set(register: number, value: number): void {
    if (register !== 0xf4 || (value & 3) === 0) return
    const { temperatureC, humidity, pressurePa } = this.climate()
    const rawT = seek((raw) => fineOf(raw) / 5120, temperatureC, 0, 0xfffff)
    const fine = fineOf(rawT)
    const rawP = seek((raw) => -pressureOf(raw, fine), -pressurePa, 0, 0xfffff)
    const rawH = seek((raw) => humidityOf(raw, fine), humidity, 0, 0xffff)
    this.data = [
      rawP >> 12,
      (rawP >> 4) & 255,
      (rawP & 15) << 4,
      rawT >> 12,
      (rawT >> 4) & 255,
      (rawT & 15) << 4,
      rawH >> 8,
      rawH & 255,
    ]
  }
}

function fineOf(raw: number): number {
  const a = raw / 16384 - T[0] / 1024
  const b = raw / 131072 - T[0] / 8192
  return a * T[1] + b * b * T[2]
}

/** Compensation as the data sheet has it in floating point, written apart from the runtime's. */
function pressureOf(raw: number, fine: number): number {
  let v1 = fine / 2 - 64000
  let v2 = (v1 * v1 * P[5]) / 32768
  v2 += v1 * P[4] * 2
  v2 = v2 / 4 + P[3] * 65536
  v1 = ((P[2] * v1 * v1) / 524288 + P[1] * v1) / 524288
  v1 = (1 + v1 / 32768) * P[0]
  let p = 1048576 - raw
  p = ((p - v2 / 4096) * 6250) / v1
  v1 = (P[8] * p * p) / 2147483648
  v2 = (p * P[7]) / 32768
  return p + (v1 + v2 + P[6]) / 16
}

function humidityOf(raw: number, fine: number): number {
  let v = fine - 76800
  v =
    (raw - (H.h4 * 64 + (H.h5 / 16384) * v)) *
    ((H.h2 / 65536) * (1 + (H.h6 / 67108864) * v * (1 + (H.h3 / 67108864) * v)))
  return v * (1 - (H.h1 * v) / 524288)
}

/** Raw count whose rising function comes nearest the wanted value. */
function seek(value: (raw: number) => number, wanted: number, low: number, high: number): number {
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (value(middle) < wanted) low = middle
    else high = middle
  }
  return wanted - value(low) < value(high) - wanted ? low : high
}

/** The light part: a measurement on command 0x20, two bytes of lx · 1.2. */
export class Light23 implements BusPart {
  private raw = 0
  constructor(private readonly lx: () => number) {}

  write(bytes: readonly number[]): void {
    if (bytes[0] === 0x20) this.raw = Math.max(0, Math.min(65535, Math.round(this.lx() * 1.2)))
  }

  read(n: number): number[] {
    return Array.from({ length: n }, (_, i) => (i === 0 ? this.raw >> 8 : this.raw & 255))
  }
}

/** The four-input converter: configuration chooses the input, register 0 holds the result. */
export class Adc48 extends Registers {
  private config = 0
  constructor(private readonly volts: (input: number) => number) {
    super()
  }

  protected get(r: number): number {
    const code = Math.round((this.volts(((this.config >> 12) & 7) - 4) / 4.096) * 32768) & 0xffff
    return r === 0 ? code >> 8 : code & 255
  }

  protected override set(register: number, value: number): void {
    if (register === 1) this.config = (this.config & 0xff) | (value << 8)
  }
}

/** Eight rows of 128 columns, a bit for each point, top bit low. */
export class Display implements BusPart {
  readonly points = new Uint8Array(1024)
  on = false
  private column = 0
  private page = 0

  write(bytes: readonly number[]): void {
    if (bytes[0] === 0x40) {
      for (const b of bytes.slice(1)) this.points[(this.page & 7) * 128 + (this.column++ & 127)] = b
      return
    }
    bytes.forEach((b, i) => {
      if (b === 0xaf) this.on = true
      if (b === 0x21) this.column = bytes[i + 1] ?? 0
      if (b === 0x22) this.page = bytes[i + 1] ?? 0
    })
  }

  read(n: number): number[] {
    return Array.from({ length: n }, () => 0)
  }
}

/** Sixteen lines that read high until a key pulls one low. */
export class Expander implements BusPart {
  constructor(private readonly held: (bit: number) => boolean) {}
  write(): void {
    /* all lines are inputs */
  }
  read(n: number): number[] {
    return Array.from({ length: n }, (_, byte) =>
      Array.from({ length: 8 }, (_2, bit) => (this.held(byte * 8 + bit) ? 0 : 1 << bit)).reduce((a, b) => a | b, 0),
    )
  }
}

/** Branches behind one address: the byte written to it opens them. */
export class Multiplexer implements BusPart {
  open = 0
  write(bytes: readonly number[]): void {
    this.open = bytes[0] ?? 0
  }

  read(n: number): number[] {
    return Array.from({ length: n }, () => this.open)
  }
}

/** A part that is only there while its branch is open. */
export function behind(mux: Multiplexer, branch: number, part: BusPart): BusPart {
  return {
    write: (b) => {
      if (mux.open & (1 << branch)) part.write(b)
    },
    read: (n) => (mux.open & (1 << branch) ? part.read(n) : Array.from({ length: n }, () => 0xff)),
  }
}
