import type { FamilyFigures } from './family'

/** A frame as a receiver cuts it out: lengths in µs, high first, ending with a high, and the gap after it. */
export interface Frame {
  us: readonly number[]
  gapUs: number
}

/** Scale of a frame against its family, in 256ths: base lengths from 0.6 to 1.6 of what was described. */
const [LEAST_SCALE, MOST_SCALE] = [154, 410]

/** The symbols of a frame, `0`, `1` and `f`, or null when it is none of this family or not whole. */
export function decodeFrame(f: FamilyFigures, frame: Frame): string | null {
  const read = readFrame(f, frame)
  return read === null || read.includes('?') ? null : read
}

/**
 * The same with `?` where a symbol is not as long as it must be: stamps that come late spoil some of them. Null when it is
 * none of this family, or more than half is spoilt. The base length is measured in the frame itself. Whole numbers
 * throughout: what runs on a board computes the same, digit by digit.
 */
export const readFrame = (f: FamilyFigures, frame: Frame): string | null => readScaled(f, frame)?.code ?? null

/** The same with its base length against the family's, in 256ths. */
export function readScaled(f: FamilyFigures, { us, gapUs }: Frame): { code: string; scale: number } | null {
  const lead = f.lead ?? []
  const width = f.zero.length
  if (us.length !== lead.length + f.n * width + 1) return null
  const first = firstScale(f, us, lead.length)
  if (first < LEAST_SCALE || first > MOST_SCALE) return null
  // Once more over all pulses: what makes highs longer makes lows shorter.
  let [heard, told] = [0, 0]
  for (let i = 0; i < f.n; i++) {
    const at = lead.length + i * width
    const symbol = nearest(f, us, at, first)
    for (let j = 0; j < width; j++) {
      heard += us[at + j] ?? 0
      told += symbol[j] ?? 0
    }
  }
  const scale = Math.floor((heard * 256) / told)
  if (scale < LEAST_SCALE || scale > MOST_SCALE) return null
  const most = f.tol * scale
  if (lead.some((nominal, j) => offLong(us[j] ?? 0, nominal, scale, most))) return null
  if (offLong(us[us.length - 1] ?? 0, f.high, scale, most)) return null
  if (gapUs * 512 < f.gap * scale) return null
  let code = ''
  let spoilt = 0
  for (let i = 0; i < f.n; i++) {
    const at = lead.length + i * width
    const symbol = nearest(f, us, at, scale)
    const off = symbol.some((nominal, j) => Math.abs((us[at + j] ?? 0) * 256 - nominal * scale) > most)
    code += off ? '?' : letterOf(f, symbol)
    if (off) spoilt += 1
  }
  return spoilt * 2 > f.n ? null : { code, scale }
}

/** Off by more than the tolerance, and by more than a quarter: what is long is said less exactly. */
const offLong = (pulse: number, nominal: number, scale: number, most: number): boolean => {
  const by = Math.abs(pulse * 256 - nominal * scale)
  return by > most && by * 4 > nominal * scale
}

const letterOf = (f: FamilyFigures, symbol: readonly number[]): string => {
  if (symbol === f.zero) return '0'
  return symbol === f.one ? '1' : 'f'
}

/**
 * Scale by what is the same whatever is said: the whole length where all symbols are equally long, otherwise the pulses
 * that do not differ; 256 where there is nothing of the kind.
 */
function firstScale(f: FamilyFigures, us: readonly number[], from: number): number {
  const width = f.zero.length
  const symbols = f.open ? [f.zero, f.one, f.open] : [f.zero, f.one]
  const sum = (s: readonly number[]) => s.reduce((a, b) => a + b, 0)
  const whole = symbols.every((s) => sum(s) === sum(f.zero))
  let [heard, told] = [0, 0]
  for (let j = 0; j < width; j++) {
    const nominal = f.zero[j] ?? 0
    if (!whole && symbols.some((s) => s[j] !== nominal)) continue
    told += f.n * nominal
    for (let i = 0; i < f.n; i++) heard += us[from + i * width + j] ?? 0
  }
  return told === 0 ? 256 : Math.floor((heard * 256) / told)
}

function nearest(f: FamilyFigures, us: readonly number[], at: number, scale: number): readonly number[] {
  let best: readonly number[] = f.zero
  let least = away(f.zero, us, at, scale)
  for (const symbol of f.open ? [f.one, f.open] : [f.one]) {
    const by = away(symbol, us, at, scale)
    if (by < least) [best, least] = [symbol, by]
  }
  return best
}

function away(symbol: readonly number[], us: readonly number[], at: number, scale: number): number {
  let by = 0
  for (let j = 0; j < symbol.length; j++) by += Math.abs((us[at + j] ?? 0) * 256 - (symbol[j] ?? 0) * scale)
  return by
}

/**
 * Which of several families a frame is best read by: makes that differ in base length alone, or in how they group pulses,
 * read each other's frames. The nearest base length, and of equal ones the less spoilt. Null when none reads it.
 */
export function bestReader(families: readonly FamilyFigures[], frame: Frame): { family: number; code: string } | null {
  let best: { family: number; code: string; off: number; spoilt: number } | null = null
  for (const [family, figures] of families.entries()) {
    const read = readScaled(figures, frame)
    if (!read) continue
    const [off, spoilt] = [Math.abs(read.scale - 256), read.code.split('?').length]
    if (!best || off < best.off || (off === best.off && spoilt < best.spoilt))
      best = { family, code: read.code, off, spoilt }
  }
  return best && { family: best.family, code: best.code }
}

/** What a sender of this family says for a code, once: µs, high first, the gap last. */
export function frameOf(f: FamilyFigures, code: string): Frame {
  const symbols: Record<string, readonly number[]> = { '0': f.zero, '1': f.one, f: f.open ?? f.zero }
  const us = [...(f.lead ?? []), ...[...code].flatMap((s) => symbols[s] ?? f.zero), f.high]
  return { us, gapUs: f.gap }
}
