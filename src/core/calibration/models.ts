import { curveAt, type Curve, logOhm, monotoneSlopes } from './curve'
import type { Pair } from './pair'
import { leastSquares } from './leastSquares'

/** A thermistor as sold: resistance at 25 °C and β. */
export interface Nominal {
  ohm25: number
  betaK: number
}

/** Where a model is written around, so that its numbers are of one size. */
export interface Frame {
  centre: number
  scale: number
  nominal: Nominal
  pairs: readonly Pair[]
}

/** A coefficient as it is told; times the variance, `factor` is its own variance. Null where it has none. */
export interface Named {
  name: string
  value: number
  factor: number | null
}

export interface Model {
  title: string
  /** What it is for, and what it cannot do. */
  use: string
  /** Different readings it needs at least. */
  least: number
  most?: number
  /** It is linear in its parameters. */
  linear?: boolean
  /** It goes through its points, whatever they are: nothing is left to estimate an error from. */
  exact?: boolean
  /** It needs a thermistor's values as sold. */
  ofResistance?: boolean
  /** Part of the corrected reading that no parameter has a say in. */
  fixed?: (raw: number) => number
  refuses?: (pairs: readonly Pair[], nominal: Nominal | null) => string | null
  frame: (pairs: readonly Pair[], nominal: Nominal | null) => Frame
  start: (pairs: readonly Pair[], frame: Frame) => number[] | null
  at: (p: readonly number[], raw: number, frame: Frame) => number
  /** ∂at/∂p. */
  gradient: (p: readonly number[], raw: number, frame: Frame) => number[]
  carried: (p: readonly number[], frame: Frame) => { gain: number; offset: number } | { curve: Curve }
  named: (p: readonly number[], inverse: readonly (readonly number[])[], frame: Frame) => Named[]
}

const AS_SOLD: Nominal = { ohm25: 10_000, betaK: 3950 }
const of = (list: readonly number[], i: number): number => list[i] ?? 0
const own = (inverse: readonly (readonly number[])[], i: number): number => inverse[i]?.[i] ?? 0

/** Variance factor of a number made of the parameters, by its gradient. */
const factorOf = (g: readonly number[], inverse: readonly (readonly number[])[]): number =>
  g.reduce((s, a, i) => s + g.reduce((t, b, j) => t + a * b * (inverse[i]?.[j] ?? 0), 0), 0)

function middle(pairs: readonly Pair[], nominal: Nominal | null): Frame {
  const raws = pairs.map((q) => q.raw)
  const [low, high] = [Math.min(...raws), Math.max(...raws)]
  return { centre: (low + high) / 2, scale: (high - low) / 2 || 1, nominal: nominal ?? AS_SOLD, pairs }
}

/** Lines and parabolas in u, which is −1 at the lowest reading and 1 at the highest. */
const powers =
  (n: number) =>
  (_: readonly number[], raw: number, { centre, scale }: Frame): number[] => {
    const u = (raw - centre) / scale
    return Array.from({ length: n }, (__, i) => u ** i)
  }
const sumOf = (p: readonly number[], g: readonly number[]): number => g.reduce((s, v, i) => s + v * of(p, i), 0)

const kelvin = 273.15
const thermistor = (
  terms: (u: number) => number[],
): Pick<Model, 'start' | 'at' | 'gradient' | 'ofResistance' | 'refuses'> => ({
  ofResistance: true,
  refuses: (pairs, nominal) => {
    if (nominal === null) return 'it is for thermistors, and needs their values as sold'
    return pairs.some((q) => q.reference <= -kelvin || q.raw <= -kelvin) ? 'a temperature is below absolute zero' : null
  },
  start: (pairs, { nominal }) => {
    const rows = pairs.map((q) => terms(logOhm(nominal, q.raw)).map((t) => t * (q.reference + kelvin) ** 2))
    return (
      leastSquares(
        rows,
        pairs.map((q) => q.reference + kelvin),
      )?.x ?? null
    )
  },
  at: (p, raw, { nominal }) => 1 / sumOf(p, terms(logOhm(nominal, raw))) - kelvin,
  gradient: (p, raw, { nominal }) => {
    const t = terms(logOhm(nominal, raw))
    const k = 1 / sumOf(p, t)
    return t.map((v) => -v * k * k)
  },
})

/** What pairs can be made into. */
export const MODELS = {
  offset: {
    title: 'offset',
    use: 'One true value: everything is off by the same amount. It cannot tell whether the step of the part is right.',
    least: 1,
    linear: true,
    fixed: (raw) => raw,
    frame: middle,
    start: () => [0],
    at: (p, raw) => raw + of(p, 0),
    gradient: () => [1],
    carried: (p) => ({ gain: 1, offset: of(p, 0) }),
    named: (p, inverse) => [{ name: 'offset', value: of(p, 0), factor: own(inverse, 0) }],
  },
  gain: {
    title: 'gain',
    use: 'Zero is right and stays right; the step is not: flow by pulses, a current clamp, a divider.',
    least: 1,
    linear: true,
    refuses: (pairs) =>
      pairs.every((q) => Math.abs(q.raw) < 1e-12) ? 'readings of zero tell nothing of a gain' : null,
    frame: middle,
    start: () => [1],
    at: (p, raw) => raw * of(p, 0),
    gradient: (_, raw) => [raw],
    carried: (p) => ({ gain: of(p, 0), offset: 0 }),
    named: (p, inverse) => [{ name: 'gain', value: of(p, 0), factor: own(inverse, 0) }],
  },
  line: {
    title: 'straight line',
    use: 'Offset and gain: what most parts need. Two pairs give it exactly and no estimate of its error; take a third.',
    least: 2,
    linear: true,
    frame: middle,
    start: () => [0, 1],
    at: (p, raw, frame) => sumOf(p, powers(2)(p, raw, frame)),
    gradient: powers(2),
    carried: (p, { centre, scale }) => {
      const gain = of(p, 1) / scale
      return { gain, offset: of(p, 0) - gain * centre }
    },
    named: (p, inverse, { centre, scale }) => {
      const gain = of(p, 1) / scale
      return [
        { name: 'gain', value: gain, factor: own(inverse, 1) / (scale * scale) },
        { name: 'offset', value: of(p, 0) - gain * centre, factor: factorOf([1, -centre / scale], inverse) },
      ]
    },
  },
  quadratic: {
    title: 'second order',
    use: 'A part that bends: worth it only where each pair is foretold better by it than by a line. Never beyond its pairs.',
    least: 3,
    linear: true,
    frame: middle,
    start: () => [0, 1, 0],
    at: (p, raw, frame) => sumOf(p, powers(3)(p, raw, frame)),
    gradient: powers(3),
    carried: (p, { centre, scale }) => ({
      curve: { kind: 'quadratic', centre, scale, c0: of(p, 0), c1: of(p, 1), c2: of(p, 2) },
    }),
    named: (p, inverse, { centre, scale }) => {
      const k = centre / scale
      const told = (name: string, g: number[]): Named => ({ name, value: sumOf(p, g), factor: factorOf(g, inverse) })
      return [
        told('x²', [0, 0, 1 / scale ** 2]),
        told('x', [0, 1 / scale, (-2 * k) / scale]),
        told('1', [1, -k, k * k]),
      ]
    },
  },
  beta: {
    title: 'thermistor by β',
    use: 'A thermistor with two or more true temperatures: its resistance at 25 °C and its β as they are, not as sold.',
    least: 2,
    frame: middle,
    ...thermistor((u) => [1, u]),
    carried: (p, { nominal }) => ({ curve: { kind: 'thermistor', ...nominal, a: of(p, 0), b: of(p, 1), c: 0 } }),
    named: (p, inverse) => {
      const [a, b] = [of(p, 0), of(p, 1)]
      const ln = (1 / 298.15 - a) / b
      const ohm = Math.exp(ln)
      return [
        { name: 'β, K', value: 1 / b, factor: own(inverse, 1) / b ** 4 },
        { name: 'at 25 °C, Ω', value: ohm, factor: factorOf([-ohm / b, (-ohm * ln) / b], inverse) },
      ]
    },
  },
  steinhart: {
    title: 'thermistor by Steinhart and Hart',
    use: 'A thermistor over a wide span, from three true temperatures far apart.',
    least: 3,
    frame: middle,
    ...thermistor((u) => [1, u, u ** 3]),
    carried: (p, { nominal }) => ({
      curve: { kind: 'thermistor', ...nominal, a: of(p, 0), b: of(p, 1), c: of(p, 2) },
    }),
    named: (p, inverse) => ['A', 'B', 'C'].map((name, i) => ({ name, value: of(p, i), factor: own(inverse, i) })),
  },
  power: {
    title: 'power law',
    use: 'Readings above zero that go with a power: gas by resistance, light by resistance, flow over an edge.',
    least: 2,
    refuses: (pairs) =>
      pairs.some((q) => !(q.raw > 0 && q.reference > 0)) ? 'it takes readings and references above zero' : null,
    frame: (pairs, nominal) => {
      const log = pairs.reduce((s, q) => s + Math.log(q.raw), 0) / pairs.length
      return { ...middle(pairs, nominal), centre: Math.exp(log) }
    },
    start: (pairs, { centre }) => {
      const line = leastSquares(
        pairs.map((q) => [q.reference, q.reference * Math.log(q.raw / centre)]),
        pairs.map((q) => q.reference * Math.log(q.reference)),
      )
      return line && [Math.exp(of(line.x, 0)), of(line.x, 1)]
    },
    at: (p, raw, { centre }) => (raw > 0 ? of(p, 0) * Math.pow(raw / centre, of(p, 1)) : NaN),
    gradient: (p, raw, { centre }) => {
      const to = raw > 0 ? Math.pow(raw / centre, of(p, 1)) : NaN
      return [to, of(p, 0) * to * Math.log(raw / centre)]
    },
    carried: (p, { centre }) => ({ curve: { kind: 'power', at: centre, a: of(p, 0), b: of(p, 1) } }),
    named: (p, inverse, { centre }) => {
      const [a, b] = [of(p, 0), of(p, 1)]
      const one = a * Math.pow(centre, -b)
      return [
        { name: 'a', value: one, factor: factorOf([one / a, -one * Math.log(centre)], inverse) },
        { name: 'b', value: b, factor: own(inverse, 1) },
      ]
    },
  },
  exponential: {
    title: 'exponential',
    use: 'References of one sign that grow or fall by the same share with each step of the reading.',
    least: 2,
    refuses: (pairs) =>
      pairs.every((q) => q.reference > 0) || pairs.every((q) => q.reference < 0)
        ? null
        : 'it takes references of one sign, none of them zero',
    frame: middle,
    start: (pairs, { centre }) => {
      const line = leastSquares(
        pairs.map((q) => [Math.abs(q.reference), Math.abs(q.reference) * (q.raw - centre)]),
        pairs.map((q) => Math.abs(q.reference) * Math.log(Math.abs(q.reference))),
      )
      return line && [Math.sign(pairs[0]?.reference ?? 1) * Math.exp(of(line.x, 0)), of(line.x, 1)]
    },
    at: (p, raw, { centre }) => of(p, 0) * Math.exp(of(p, 1) * (raw - centre)),
    gradient: (p, raw, { centre }) => {
      const to = Math.exp(of(p, 1) * (raw - centre))
      return [to, of(p, 0) * to * (raw - centre)]
    },
    carried: (p, { centre }) => ({ curve: { kind: 'exponential', at: centre, a: of(p, 0), b: of(p, 1) } }),
    named: (p, inverse, { centre }) => {
      const [a, b] = [of(p, 0), of(p, 1)]
      const zero = a * Math.exp(-b * centre)
      return [
        { name: 'a', value: zero, factor: factorOf([zero / a, -zero * centre], inverse) },
        { name: 'b', value: b, factor: own(inverse, 1) },
      ]
    },
  },
  table: {
    title: 'table',
    use: 'A shape nobody has a formula for, like litres in a lying tank. It goes through every pair, right or wrong.',
    least: 2,
    most: 24,
    exact: true,
    refuses: (pairs) => {
      const sorted = [...pairs].sort((a, b) => a.raw - b.raw)
      if (sorted.some((q, i) => i > 0 && q.raw === sorted[i - 1]?.raw)) return 'two pairs have the same reading'
      const steps = sorted.slice(1).map((q, i) => Math.sign(q.reference - (sorted[i]?.reference ?? 0)))
      return steps.every((s) => s > 0) || steps.every((s) => s < 0)
        ? null
        : 'the references neither rise nor fall all along: two readings would mean the same'
    },
    frame: middle,
    start: (pairs) => pairs.map((q) => q.reference),
    at: (_, raw, { pairs }) => curveAt(tableOf(pairs), raw),
    gradient: () => [],
    carried: (_, { pairs }) => ({ curve: tableOf(pairs) }),
    named: () => [],
  },
} as const satisfies Record<string, Model>

export type ModelName = keyof typeof MODELS
export const MODEL_NAMES = Object.keys(MODELS) as ModelName[]

function tableOf(pairs: readonly Pair[]): Extract<Curve, { kind: 'table' }> {
  const sorted = [...pairs].sort((a, b) => a.raw - b.raw)
  const x = sorted.map((q) => q.raw)
  const y = sorted.map((q) => q.reference)
  return { kind: 'table', x, y, slope: monotoneSlopes(x, y) }
}
