/** CRC-8 of the one-wire bus: x⁸ + x⁵ + x⁴ + 1, low bit first. Table-free form on bytes. */
export function oneWireCrc(bytes: readonly number[]): number {
  let crc = 0
  for (const byte of bytes) {
    crc ^= byte
    for (let i = 0; i < 8; i++) crc = crc & 1 ? (crc >> 1) ^ 0x8c : crc >> 1
  }
  return crc
}

/** A one-wire thermometer as its data sheet has it: skip address 0xCC, convert 0x44, read scratchpad 0xBE, 750 ms at 12 bit. */
export class OneWireThermometer {
  present = true
  private expecting: 'address' | 'function' | 'data' = 'address'
  private out: number[] = []
  /** 0x0550 is what the scratchpad holds after power-up. */
  private raw = 0x0550
  private pending: { raw: number; readyUs: number } | null = null

  constructor(private readonly temperatureC: () => number, private readonly nowUs: () => number) {}

  reset(): boolean {
    this.expecting = 'address'
    this.out = []
    return this.present
  }

  write(byte: number): void {
    if (!this.present) return
    if (this.expecting === 'address') this.expecting = byte === 0xcc ? 'function' : 'data'
    else if (this.expecting === 'function') {
      if (byte === 0x44) this.pending = { raw: Math.round(this.temperatureC() * 16) & 0xffff, readyUs: this.nowUs() + 750_000 }
      if (byte === 0xbe) this.out = this.scratchpad()
      this.expecting = 'data'
    }
  }

  /** A line nobody drives is held high by its pull-up. */
  read(): number {
    return this.present ? this.out.shift() ?? 0xff : 0xff
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
