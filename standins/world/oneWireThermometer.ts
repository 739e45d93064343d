/** CRC-8 of the one-wire bus: x⁸ + x⁵ + x⁴ + 1, low bit first. Table-free form on bytes. */
export function oneWireCrc(bytes: readonly number[]): number {
  let crc = 0
  for (const byte of bytes) {
    crc ^= byte
    for (let i = 0; i < 8; i++) crc = crc & 1 ? (crc >> 1) ^ 0x8c : crc >> 1
  }
  return crc
}

/** Family, six bytes of its own number, checksum. */
export function addressOf(number: number): number[] {
  const bytes = [0x28, number & 255, (number >> 8) & 255, (number >> 16) & 255, 0x5a, 0x16, 0x03]
  return [...bytes, oneWireCrc(bytes)]
}

const bitsOf = (bytes: readonly number[]) => bytes.flatMap((b) => Array.from({ length: 8 }, (_, i) => (b >> i) & 1))

/**
 * A one-wire thermometer as its data sheet has it, bit by bit: search 0xF0, match 0x55, skip 0xCC, read address 0x33;
 * convert 0x44, read scratchpad 0xBE, 750 ms at 12 bit. A bit it sends is low or left alone: several on one line are
 * and-ed.
 */
export class OneWireThermometer {
  present = true
  private expecting: 'command' | 'match' | 'search' | 'function' | 'nothing' = 'nothing'
  private shifted: number[] = []
  private out: number[] = []
  private at = 0
  /** 0x0550 is what the scratchpad holds after power-up. */
  private raw = 0x0550
  private pending: { raw: number; readyUs: number } | null = null
  private readonly address: number[]

  constructor(
    private readonly temperatureC: () => number,
    private readonly nowUs: () => number,
    readonly rom: readonly number[] = addressOf(1),
  ) {
    this.address = bitsOf(rom)
  }

  reset(): boolean {
    this.expecting = 'command'
    this.shifted = []
    this.out = []
    this.at = 0
    return this.present
  }

  /** A bit the controller writes. */
  put(bit: number): void {
    if (!this.present || this.expecting === 'nothing') return
    if (this.expecting === 'search') {
      // After a bit and its opposite comes the branch that is followed: who has another bit falls silent until the next
      // reset.
      if (this.at % 3 !== 2) return
      if (this.address[(this.at - 2) / 3] !== bit) this.expecting = 'nothing'
      this.at += 1
      return
    }
    if (this.expecting === 'match') {
      if (this.address[this.at] !== bit) this.expecting = 'nothing'
      else if (++this.at === 64) this.expecting = 'function'
      return
    }
    this.shifted.push(bit)
    if (this.shifted.length < 8) return
    const byte = this.shifted.reduce((sum, b, i) => sum | (b << i), 0)
    this.shifted = []
    if (this.expecting === 'command') {
      const searches = byte === 0xf0 ? 'search' : 'nothing'
      const matches = byte === 0x55 ? 'match' : searches
      this.expecting = byte === 0xcc ? 'function' : matches
      if (byte === 0x33) this.out = bitsOf(this.rom)
      return
    }
    this.expecting = 'nothing'
    if (byte === 0x44)
      this.pending = { raw: Math.round(this.temperatureC() * 16) & 0xffff, readyUs: this.nowUs() + 750_000 }
    if (byte === 0xbe) this.out = bitsOf(this.scratchpad())
  }

  /** A bit the controller reads: a line nobody drives is held high by its pull-up. */
  bit(): number {
    if (!this.present) return 1
    if (this.expecting === 'search') {
      const bit = this.address[Math.floor(this.at / 3)] ?? 1
      const middle = this.at % 3 === 1 ? 1 - bit : 1
      const answer = this.at % 3 === 0 ? bit : middle
      if (this.at % 3 !== 2) this.at += 1
      return answer
    }
    return this.out.shift() ?? 1
  }

  private scratchpad(): number[] {
    if (this.pending && this.nowUs() >= this.pending.readyUs) {
      this.raw = this.pending.raw
      this.pending = null
    }
    const bytes = [this.raw & 0xff, this.raw >> 8, 0x4b, 0x46, 0x7f, 0xff, 0x0c, 0x10]
    return [...bytes, oneWireCrc(bytes)]
  }
}

/** Thermometers on one line: they answer together, and any of them pulls it low. */
export class OneWireLine {
  constructor(readonly parts: readonly OneWireThermometer[]) {}

  reset(): boolean {
    return this.parts.map((p) => p.reset()).some(Boolean)
  }

  put(bit: number): void {
    for (const p of this.parts) p.put(bit)
  }

  bit(): number {
    return this.parts.map((p) => p.bit()).reduce((a, b) => a & b, 1)
  }
}
