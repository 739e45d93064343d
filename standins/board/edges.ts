/** An edge as it arrives at a pin: when, µs, and the level from then on. */
export interface Edge {
  us: number
  level: 0 | 1
}
type Call = (us: number, level: number) => void

/** Calls of a soft interrupt that may wait at a time. */
const QUEUE = 8
const HANDLER_US = 90

/**
 * Edges through a soft interrupt: each call waits in a short queue until the interpreter is between two instructions,
 * later still while it is in a long call of its own. What finds the queue full is lost without a word; time and level
 * are those of the call, not of the edge.
 */
export function softly(edges: readonly Edge[], random: () => number, call: Call): { lost: number } {
  const waiting: number[] = []
  let freeUs = edges[0]?.us ?? 0
  let lost = 0
  const levelAt = (us: number): number => {
    let level: number = 0
    for (const e of edges) {
      if (e.us > us) break
      level = e.level
    }
    return level
  }
  const runUntil = (us: number) => {
    for (;;) {
      const first = waiting[0]
      if (first === undefined) return
      const start = Math.max(first, freeUs)
      if (start >= us) return
      waiting.shift()
      call(start, levelAt(start))
      freeUs = start + HANDLER_US
    }
  }
  for (const e of edges) {
    runUntil(e.us)
    // One edge in forty meets a call of the interpreter that does not come back for a while.
    if (random() < 1 / 40) freeUs = Math.max(freeUs, e.us) + 300 + 1700 * random()
    if (waiting.length >= QUEUE) lost += 1
    else waiting.push(e.us + 10 + 40 * random())
  }
  runUntil(Infinity)
  return { lost }
}

/** Edges through a hard interrupt: at once, but for the few microseconds of entering it. */
export function hardly(edges: readonly Edge[], random: () => number, call: Call): void {
  for (const e of edges) call(e.us + 1 + Math.floor(4 * random()), e.level)
}

/** A silence longer than this ends no count: there is a new burst. */
const LONGEST_GAP_US = 40_000

interface Instruction {
  op: string
  a: string
  b: string
}

/** A state machine beside the processor, executed instruction by instruction: the few that timing a pin takes. */
export class StateMachine {
  private readonly code: Instruction[]
  private readonly labels: Record<string, number>
  private pc = 0
  private x = 0
  private isr = 0
  private fifo: number[] = []
  private atUs = 0
  handler: ((us: number, ...words: number[]) => void) | null = null
  active = false

  constructor(
    program: string,
    private readonly hz: number,
    readonly pin: number,
  ) {
    const [lines = '', labels = ''] = program.split('|')
    this.code = lines.split('\n').map((l) => {
      const [op = '', a = '', b = ''] = l.split(' ')
      return { op, a, b }
    })
    if (this.code.length > 32) throw new Error('a program of a state machine has 32 instructions at most')
    this.labels = Object.fromEntries(
      labels.split(',').map((l) => {
        const [name = '', at = ''] = l.split('=')
        return [name, Number(at)]
      }),
    )
  }

  /** Runs through these edges and a while beyond them; the level before the first is low. */
  feel(edges: readonly Edge[], random: () => number): void {
    const [first, last] = [edges[0], edges.at(-1)]
    if (!this.active || !first || !last) return
    const cycle = 1e6 / this.hz
    let [level, next, callAt]: [0 | 1, number, number] = [0, 0, Infinity]
    // It counts on through the gap between two frames.
    const from = first.us - this.atUs < LONGEST_GAP_US ? this.atUs : first.us - 200
    for (let us = Math.max(this.atUs, from); us < last.us + 200; us += cycle) {
      while (next < edges.length && (edges[next]?.us ?? 0) <= us) level = edges[next++]?.level ?? 0
      if (this.step(level)) callAt = Math.min(callAt, us + 4 + 20 * random())
      if (us >= callAt) {
        callAt = Infinity
        const words = this.fifo.splice(0)
        if (words.length > 0) this.handler?.(us, ...words)
      }
      this.atUs = us
    }
    const words = this.fifo.splice(0)
    if (words.length > 0) this.handler?.(this.atUs, ...words)
  }

  /** One cycle; true when it calls for the processor. */
  private step(level: 0 | 1): boolean {
    const { op, a, b } = this.code[this.pc] ?? { op: 'halt', a: '', b: '' }
    let to = this.pc === this.labels['@wrap'] ? (this.labels['@target'] ?? 0) : this.pc + 1
    let calls = false
    if (op === 'jmp') {
      const left = a === 'x--' ? this.x !== 0 : true
      const taken = a === 'pin' ? level === 1 : left
      if (a === 'x--') this.x = (this.x - 1) >>> 0
      if (taken) to = this.labels[b] ?? 0
    } else if (op === 'mov') {
      const xValue = b === 'x' ? this.x : 0
      const notValue = b === '~x' ? ~this.x >>> 0 : xValue
      const source = b === '~null' ? 0xffffffff : notValue
      if (a === 'x') this.x = source
      else this.isr = source
    } else if (op === 'push') {
      if (this.fifo.length < 8) this.fifo.push(this.isr)
    } else if (op === 'irq') calls = true
    else throw new Error(`the simulated state machine has no “${op}”`)
    this.pc = to
    return calls
  }
}
