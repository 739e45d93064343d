/** Base length of a code's pulses, µs. */
const T = 350
const GAP = 31

export interface Sender {
  name: string
  codes: number[]
  everyS: number
}

/** Contacts of the glaze store and a neighbour's bell: 24 bits, on-off keyed, said six times. */
export const SENDERS: Sender[] = [
  { name: 'store door', codes: [0x5a3c71, 0x5a3c7e], everyS: 45 },
  { name: 'glaze cupboard', codes: [0x1b90c4], everyS: 80 },
  { name: 'a neighbour’s bell', codes: [0xc0ffe1], everyS: 140 },
]

/**
 * Lengths of a train in µs, high and low in turn, beginning high: bit 0 is T and 3T, bit 1 is 3T and T, then T and a
 * gap of 31T.
 */
export function train(code: number, repeats: number, random: () => number): number[] {
  const near = (t: number) => Math.round(T * t * (0.96 + 0.08 * random()))
  return Array.from({ length: repeats }, () => [
    ...Array.from({ length: 24 }, (_, i) => ((code >> (23 - i)) & 1 ? [near(3), near(1)] : [near(1), near(3)])).flat(),
    near(1),
    near(GAP),
  ]).flat()
}

/** Who sends when. */
export class Air {
  private leftS = SENDERS.map((s) => s.everyS * 0.3)
  private turn = SENDERS.map(() => 0)
  private waiting: number[] = []

  constructor(private readonly random: () => number) {}

  /** Codes sent in this time. */
  step(dtS: number): number[] {
    const sent = this.waiting.splice(0)
    SENDERS.forEach((s, i) => {
      this.leftS[i] = (this.leftS[i] ?? 0) - dtS
      if ((this.leftS[i] ?? 0) > 0) return
      this.leftS[i] = s.everyS * (0.5 + this.random())
      const n = this.turn[i] ?? 0
      this.turn[i] = n + 1
      sent.push(s.codes[n % s.codes.length] ?? 0)
    })
    return sent
  }

  send(code: number): void {
    this.waiting.push(code)
  }
}
