/**
 * Parts that speak by themselves. Each gives the bytes of the time that has passed; frames as their data sheets have
 * them.
 */
export interface Speaker {
  step(dtS: number): number[]
}

class EveryFrame implements Speaker {
  private leftS = 0
  constructor(
    private readonly everyS: number,
    private readonly frame: () => number[],
  ) {}

  step(dtS: number): number[] {
    this.leftS -= dtS
    if (this.leftS > 0) return []
    this.leftS = this.everyS
    return this.frame()
  }
}

const low = (n: number) => n & 0xff
const high = (n: number) => (n >> 8) & 0xff

export function dustFrame(fine: number): number[] {
  const words = [8, fine, fine + 3, 8, fine, fine + 3, 900, 260, 40, 8, 2, 1, 0x9700]
  const bytes = [0x42, 0x4d, 0, 28, ...words.flatMap((w) => [high(w), low(w)])]
  const sum = bytes.reduce((a, b) => a + b, 0)
  return [...bytes, high(sum), low(sum)]
}

export function rangeFrame(millimetres: number): number[] {
  const bytes = [0xff, high(millimetres), low(millimetres)]
  return [...bytes, low(bytes.reduce((a, b) => a + b, 0))]
}

export function presenceFrame(state: 0 | 1 | 2 | 3, centimetres: number): number[] {
  return [
    0xf4,
    0xf3,
    0xf2,
    0xf1,
    13,
    0,
    2,
    0xaa,
    state,
    low(centimetres),
    high(centimetres),
    60,
    0,
    0,
    0,
    low(centimetres),
    high(centimetres),
    0x55,
    0,
    0xf8,
    0xf7,
    0xf6,
    0xf5,
  ]
}

/**
 * A telegram as IEC 62056-21 has it: identification, data lines, end, and the check character over what lies between.
 */
export function meterTelegram(watts: number): number[] {
  const data = `1-0:1.8.0(000123.456*kWh)\r\n1-0:1.7.0(${(watts / 1000).toFixed(4).padStart(8, '0')}*kW)\r\n!\r\n`
  const body = [...Buffer.from(data, 'latin1'), 3]
  return [...Buffer.from('/VND5METER\r\n', 'latin1'), 2, ...body, body.reduce((a, b) => a ^ b, 0)]
}

export const speakers = {
  dust: (fine: () => number): Speaker => new EveryFrame(1, () => dustFrame(Math.round(fine()))),
  ranger: (metres: () => number): Speaker => new EveryFrame(0.1, () => rangeFrame(Math.round(metres() * 1000))),
  meter: (watts: () => number): Speaker => new EveryFrame(1, () => meterTelegram(watts())),
  presence: (there: () => boolean, metres: () => number): Speaker =>
    new EveryFrame(0.1, () => presenceFrame(there() ? 2 : 0, Math.round(metres() * 100))),
}
