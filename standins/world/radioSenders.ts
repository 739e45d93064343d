/** How a make of sender says its bits: base length µs, pulses in base lengths, high and low in turn. */
export interface Form {
  t: number
  lead: readonly number[]
  symbols: Readonly<Record<string, readonly number[]>>
  /** High and gap after the last bit. */
  end: readonly [number, number]
  repeats: number
}

/** Made-up makes of the yard and its neighbours. */
export const FORMS = {
  /** 24 bits; short and long, or long and short. */
  latch: { t: 350, lead: [], symbols: { '0': [1, 3], '1': [3, 1] }, end: [1, 31], repeats: 12 },
  /** Twelve switches of three positions. */
  triad: {
    t: 420,
    lead: [],
    symbols: { '0': [1, 3, 1, 3], '1': [3, 1, 3, 1], f: [1, 3, 3, 1] },
    end: [1, 31],
    repeats: 5,
  },
  /** A long beginning, and gaps that are short or long. */
  pacer: { t: 300, lead: [9, 5], symbols: { '0': [1, 2], '1': [1, 4] }, end: [1, 18], repeats: 7 },
  /** A neighbour’s, of a make nobody here has described. */
  foreign: { t: 230, lead: [], symbols: { '0': [2, 1], '1': [5, 1] }, end: [2, 40], repeats: 9 },
} as const satisfies Record<string, Form>
export type FormId = keyof typeof FORMS

export interface Sender {
  id: string
  form: FormId
  /** What it can say; a deed names one by its place. */
  codes: string[]
  /** Sends by itself about this often, s, one code after the other; 0: only when somebody does something. */
  everyS: number
  regular?: boolean
  /** How much of a burst each room’s receiver gets, by the name of the node: 1 all, 0 nothing. */
  heard: Readonly<Record<string, number>>
}

const NEAR = { 'yard-bridge': 0.97 }
const ACROSS = { 'yard-bridge': 0.75, 'wheel-panel': 0.92 }
const FAR = { 'yard-bridge': 0.7, 'wheel-panel': 0.5 }

const bits = (code: number, width = 24): string => code.toString(2).padStart(width, '0')

/** Who sends in the yard and around it. */
export const SENDERS: readonly Sender[] = [
  { id: 'store door', form: 'latch', codes: [bits(0x5a3c71), bits(0x5a3c7e)], everyS: 210, heard: NEAR },
  { id: 'glaze cupboard', form: 'latch', codes: [bits(0x1b90c4)], everyS: 80, heard: NEAR },
  {
    id: 'hand-held',
    form: 'triad',
    codes: ['01f0f10f1100', '01f0f10f0011', '01f0f10f0110', '01f0f10f1001'],
    everyS: 0,
    heard: ACROSS,
  },
  { id: 'yard motion', form: 'pacer', codes: ['101101110010100110100110000100000011'], everyS: 95, heard: ACROSS },
  { id: 'a neighbour’s bell', form: 'latch', codes: [bits(0xc0ffe1)], everyS: 140, heard: FAR },
  { id: 'a neighbour’s door', form: 'latch', codes: [bits(0x5a3d71), bits(0x5a3d7e)], everyS: 170, heard: FAR },
  {
    id: 'a neighbour’s thermometer',
    form: 'foreign',
    codes: ['10011100101011110001101001011010'],
    everyS: 31,
    regular: true,
    heard: FAR,
  },
]

/** Lengths of a train in µs, high and low in turn, beginning high, ending with the gap. */
export function trainOf(form: Form, code: string, repeats: number, random: () => number): number[] {
  const near = (m: number) => Math.round(form.t * m * (0.96 + 0.08 * random()))
  return Array.from({ length: repeats }, () => [
    ...form.lead.map(near),
    ...[...code].flatMap((symbol) => (form.symbols[symbol] ?? []).map(near)),
    near(form.end[0]),
    near(form.end[1]),
  ]).flat()
}

/** A number of 24 bits as the first make says it. */
export const train = (code: number, repeats: number, random: () => number): number[] =>
  trainOf(FORMS.latch, bits(code), repeats, random)

/** A burst on its way: its train as it is sent, and how much of it each receiver gets. */
export interface Sent {
  sender: Sender
  train: number[]
}

/** Who sends when, for all receivers of the yard alike. */
export class Air {
  private readonly leftS: number[]
  private readonly turn = SENDERS.map(() => 0)
  private waiting: { sender: Sender; code: string; inS: number }[] = []

  constructor(private readonly random: () => number) {
    this.leftS = SENDERS.map((s) => (s.everyS > 0 ? s.everyS * (0.1 + 0.4 * random()) : Infinity))
  }

  /** Bursts sent in this time. */
  step(dtS: number): Sent[] {
    SENDERS.forEach((sender, i) => {
      const left = (this.leftS[i] ?? Infinity) - dtS
      this.leftS[i] = left
      if (left > 0) return
      this.leftS[i] = sender.everyS * (sender.regular ? 1 : 0.5 + this.random())
      const n = this.turn[i] ?? 0
      this.turn[i] = n + 1
      this.waiting.push({ sender, code: sender.codes[n % sender.codes.length] ?? '', inS: 0 })
    })
    for (const w of this.waiting) w.inS -= dtS
    const due = this.waiting.filter((w) => w.inS <= 0)
    this.waiting = this.waiting.filter((w) => w.inS > 0)
    return due.map(({ sender, code }) => {
      const form = FORMS[sender.form]
      return { sender, train: trainOf(form, code, form.repeats, this.random) }
    })
  }

  /** Somebody does what makes it send: at once, or as soon as a hand gets there. */
  trigger(id: string, which: number, inS: number): boolean {
    const sender = SENDERS.find((s) => s.id === id)
    const code = sender?.codes[which % sender.codes.length]
    if (!sender || code === undefined) return false
    const i = SENDERS.indexOf(sender)
    // What it would have sent by itself comes later: nobody opens a door that has just been opened.
    this.leftS[i] = Math.max(this.leftS[i] ?? 0, 40 + 20 * this.random())
    this.turn[i] = which + 1
    this.waiting.push({ sender, code, inS })
    return true
  }
}

/** A train as a receiver in some room gets it: repeats that are lost there are noise in its place. */
export function inRoom(train: readonly number[], share: number, random: () => number): number[] {
  const frames: number[][] = []
  let frame: number[] = []
  for (const [i, us] of train.entries()) {
    frame.push(us)
    if (i % 2 === 1 && us > 3500) {
      frames.push(frame)
      frame = []
    }
  }
  return frames.flatMap((f) =>
    random() < share
      ? f
      : f.map((us, i) => (i < f.length - 1 && random() < 0.3 ? 60 + 900 * random() : us)).map(Math.round),
  )
}
