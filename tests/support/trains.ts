import type { Frame } from '../../src/core/radio/subghz/decode'
import { type Family, familySchema } from '../../src/core/radio/subghz/family'
import { normal } from './chance'

/** The commonest make: a short high for nought, a long one for one. */
export const latch: Family = familySchema.parse({
  name: 'latch',
  baseUs: 350,
  zero: [1, 3],
  one: [3, 1],
  sync: [1, 31],
  bits: 24,
  repeats: 6,
})

/**
 * What a sender of a family says, written from its description alone: lengths in µs, high first, with none of the
 * product’s own tables.
 */
export function said(family: Family, code: string, scale = 1): { us: number[]; gapUs: number } {
  const t = family.baseUs * scale
  const us = family.lead.map((m) => m * t)
  for (const letter of code) {
    const symbol = letter === '0' ? family.zero : letter === '1' ? family.one : (family.open ?? [])
    for (const m of symbol) us.push(m * t)
  }
  us.push(family.sync[0] * t)
  return { us, gapUs: family.sync[1] * t }
}

/** A frame as a receiver hears it: every pulse off by σ (µs), highs longer and lows shorter by `bias` (µs). */
export function heardAs(f: Frame, random: () => number, sigmaUs: number, biasUs = 0): Frame {
  return {
    us: f.us.map((u, i) => Math.max(40, Math.round(u + sigmaUs * normal(random) + (i % 2 === 0 ? biasUs : -biasUs)))),
    gapUs: Math.max(3500, Math.round(f.gapUs + sigmaUs * normal(random) - biasUs)),
  }
}

/** Bits or symbols at random. */
export const codeOf = (f: Pick<Family, 'bits' | 'open'>, random: () => number): string =>
  Array.from({ length: f.bits }, () => (f.open ? '01f' : '01')[Math.floor(random() * (f.open ? 3 : 2))]).join('')

/** Frames one after the other until a gap, as in the air: all pulses in one list, the gaps among them. */
export const inARow = (frames: readonly Frame[]): number[] => frames.flatMap((f) => [...f.us, f.gapUs])

/** Cuts a train into frames where a gap is long enough, as the receiver’s documentation says. */
export function cut(train: readonly number[], gapUs = 3500): Frame[] {
  const out: Frame[] = []
  let us: number[] = []
  for (const [i, length] of train.entries()) {
    if (i % 2 === 1 && length >= gapUs) {
      if (us.length > 0) out.push({ us, gapUs: length })
      us = []
    } else us.push(length)
  }
  return out
}

/** A family nobody has thought of: base, ratio, width, rule, lead, gap and repeats at random within what exists. */
export function madeUpFamily(random: () => number, n: number): Family {
  const pick = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)] as T
  for (;;) {
    const kind = pick(['pairs', 'pairs', 'gaps', 'pulses', 'three states'])
    const baseUs = 120 + Math.floor(random() * 500)
    const [a, b] = pick([
      [1, 2],
      [1, 3],
      [1, 4],
      [2, 5],
      [1, 3],
    ])
    const c = pick([1, 2])
    const [s, l] = [a ?? 1, b ?? 3]
    const zero = kind === 'gaps' ? [c, s] : kind === 'pulses' ? [s, c] : [s, l]
    const one = kind === 'gaps' ? [c, l] : kind === 'pulses' ? [l, c] : [l, s]
    const three = kind === 'three states'
    const made = familySchema.safeParse({
      name: `made up ${n}`,
      baseUs,
      lead: random() < 0.25 ? [8 + Math.floor(random() * 3), 7 + Math.floor(random() * 2)] : [],
      zero: three ? [...zero, ...zero] : zero,
      one: three ? [...one, ...one] : one,
      open: three ? [...zero, ...one] : null,
      sync: [c, 14 + Math.floor(random() * 26)],
      bits: three ? 9 + Math.floor(random() * 6) : 12 + Math.floor(random() * 29),
      repeats: 4 + Math.floor(random() * 9),
      tolerance: Math.min(0.5, (l - s) / 2 - 0.02),
    })
    if (made.success) return made.data
  }
}
