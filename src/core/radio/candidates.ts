import type { Candidate } from './learning'
import { type Family, positionsOf } from './subghz/family'

/** A burst as it reaches the screen: when, by whom, of which family, and what it said. */
export interface AirBurst {
  atMs: number
  by: string
  family: Family
  code: string
}

/** Something in the air, with all that has been heard of it. */
export interface InTheAir extends Candidate {
  family: Family
  /** Its code with dots where its bits say what is meant. */
  address: string
  codes: string[]
  /** Bursts each gateway has heard of it. */
  by: Record<string, number>
}

/** Several gateways hear the same burst within this, ms. */
const SAME_MS = 900

/** The part of a code that says who it is. */
export function addressOf(family: Family, code: string): string {
  const own = new Set(positionsOf(family, 'address'))
  return [...code].map((bit, i) => (own.has(i) ? bit : '.')).join('')
}

/** Bursts put together by who said them, in order of first hearing; a burst two gateways heard is one. */
export function inTheAir(bursts: readonly AirBurst[]): InTheAir[] {
  const found = new Map<string, InTheAir & { arrivals: { atMs: number; code: string }[] }>()
  for (const { atMs, by, family, code } of [...bursts].sort((a, b) => a.atMs - b.atMs)) {
    const address = addressOf(family, code)
    const id = `${family.name} ${address}`
    const known = found.get(id) ?? { id, family, address, codes: [], by: {}, arrivals: [] }
    found.set(id, known)
    known.by[by] = (known.by[by] ?? 0) + 1
    if (!known.codes.includes(code)) known.codes.push(code)
    const last = known.arrivals.at(-1)
    if (last?.code !== code || atMs - last.atMs > SAME_MS) known.arrivals.push({ atMs, code })
  }
  return [...found.values()]
}

/** What to build a sender of from learnt codes: its address, and how its codes differ. */
export interface Learnt {
  address: string
  codes: string[]
  /** Bits that are not the same in all of its codes, counted from nought. */
  differing: number[]
}

export function learntFrom(codes: readonly string[]): Learnt {
  const [first = ''] = codes
  const differing = [...first].flatMap((_, i) => (codes.some((c) => c[i] !== first[i]) ? [i] : []))
  return {
    address: [...first].map((bit, i) => (differing.includes(i) ? '.' : bit)).join(''),
    codes: [...codes],
    differing,
  }
}

/** Bits an address of this family is worth; a symbol of three states is worth more than one. */
export const addressBits = (family: Family): number =>
  Math.floor(positionsOf(family, 'address').length * Math.log2(family.open ? 3 : 2))

/** How probable it is that another sender within earshot has the same address: `bits` of own, `senders` heard. */
export function clash(bits: number, senders: number): number {
  return 1 - (1 - 2 ** -bits) ** Math.max(0, senders)
}
