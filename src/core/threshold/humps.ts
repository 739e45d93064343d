/** A heap of values about a middle. */
export interface Hump {
  mean: number
  sd: number
  /** Of all samples. */
  share: number
}

export interface Humps {
  humps: Hump[]
  /** Where two neighbours are equally likely, rising. */
  cuts: number[]
  /** Samples that would be taken for those of another hump. */
  mistaken: number
  words: string
}

const MOST_SAMPLES = 2000
const ROUNDS = 200

/**
 * One, two or three humps in the values of a trace that nobody has marked, by mixtures of normal distributions (EM) and
 * the Bayesian information criterion, and the cuts between them. Null with fewer than twenty known values.
 */
export function humpsOf(values: ArrayLike<number>): Humps | null {
  const known = Float64Array.from(Array.from(values).filter((v) => v === v)).sort()
  if (known.length < 20) return null
  const n = Math.min(MOST_SAMPLES, known.length)
  const some = Float64Array.from({ length: n }, (_, i) => known[Math.floor(((i + 0.5) * known.length) / n)] ?? 0)
  const mixtures = [1, 2, 3].map((k) => mixture(some, k))
  const best = mixtures.reduce((a, b) => (b.bic < a.bic - 10 && apart(b.humps) ? b : a))
  const cuts = best.humps.slice(1).map((h, i) => between(best.humps[i] as Hump, h))
  const mistaken = mistakenOf(best.humps, cuts)
  return { humps: best.humps, cuts, mistaken, words: wordsOf(best.humps.length, mistaken) }
}

function wordsOf(n: number, mistaken: number): string {
  if (n === 1) return 'One hump: nothing in the values alone parts them. Mark when it is so and when it is not.'
  const percent = mistaken < 0.001 ? 'less than 0.1' : (mistaken * 100).toPrecision(2)
  const sure = ['Sure', 'Fairly sure', 'Unsure'][Number(mistaken > 0.005) + Number(mistaken > 0.05)] ?? ''
  return `${sure}: ${n === 2 ? 'two' : 'three'} humps; ${percent} % of single values lie on the wrong side.`
}

/** Neighbours that touch within their own widths are one hump with a bend in it. */
const apart = (humps: readonly Hump[]): boolean =>
  humps.every((h, i) => i === 0 || h.mean - (humps[i - 1]?.mean ?? 0) > 2 * Math.max(h.sd, humps[i - 1]?.sd ?? 0)) &&
  humps.every((h) => h.share > 0.005)

const density = (x: number, { mean, sd, share }: Hump): number =>
  (share * Math.exp(-(((x - mean) / sd) ** 2) / 2)) / (sd * Math.sqrt(2 * Math.PI))

function mixture(x: Float64Array, k: number): { humps: Hump[]; bic: number } {
  const n = x.length
  const wide = (x[n - 1] ?? 0) - (x[0] ?? 0)
  // Quantised readings must not make a hump of no width.
  const least = Math.max(wide * 1e-3, 1e-12)
  let humps: Hump[] = parted(x, k).map((part) => momentsOf(part, n, least))
  let likely = -Infinity
  for (let round = 0; round < ROUNDS; round++) {
    const mass = humps.map(() => ({ w: 0, x: 0, xx: 0 }))
    let sum = 0
    for (const v of x) {
      const p = humps.map((h) => density(v, h))
      const all = p.reduce((a, b) => a + b, 0) + 1e-300
      sum += Math.log(all)
      p.forEach((q, i) => {
        const m = mass[i] as { w: number; x: number; xx: number }
        m.w += q / all
        m.x += (q / all) * v
        m.xx += (q / all) * v * v
      })
    }
    humps = mass.map((m) => ({
      mean: m.x / m.w,
      sd: Math.max(least, Math.sqrt(Math.max(0, m.xx / m.w - (m.x / m.w) ** 2))),
      share: m.w / n,
    }))
    if (sum - likely < 1e-6 * n) break
    likely = sum
  }
  return { humps: humps.sort((a, b) => a.mean - b.mean), bic: (3 * k - 1) * Math.log(n) - 2 * likely }
}

/** Sorted values in `k` parts at their widest gaps of means (Lloyd). */
function parted(x: Float64Array, k: number): Float64Array[] {
  const at = (share: number) => x[Math.floor(share * (x.length - 1))] ?? 0
  const [low, high] = [at(0.005), at(0.995)]
  let middles = Array.from({ length: k }, (_, i) => low + ((i + 0.5) * (high - low)) / k)
  let parts: Float64Array[] = [x]
  for (let round = 0; round < 50; round++) {
    const near = (v: number) =>
      middles.reduce((b, m, i) => (Math.abs(v - m) < Math.abs(v - (middles[b] ?? 0)) ? i : b), 0)
    parts = middles.map((_, i) => x.filter((v) => near(v) === i))
    if (parts.some((p) => p.length === 0))
      return middles.map((_, i) => x.slice((i * x.length) / k, ((i + 1) * x.length) / k))
    middles = parts.map((p) => p.reduce((a, b) => a + b, 0) / p.length)
  }
  return parts
}

function momentsOf(part: Float64Array, n: number, least: number): Hump {
  const mean = part.reduce((a, b) => a + b, 0) / part.length
  const sd = Math.sqrt(part.reduce((s, v) => s + (v - mean) ** 2, 0) / part.length)
  return { mean, sd: Math.max(sd, least), share: part.length / n }
}

/** Where two neighbours are equally likely, by bisection between their means. */
function between(a: Hump, b: Hump): number {
  let [low, high] = [a.mean, b.mean]
  for (let i = 0; i < 60; i++) {
    const mid = (low + high) / 2
    if (density(mid, a) > density(mid, b)) low = mid
    else high = mid
  }
  return (low + high) / 2
}

function mistakenOf(humps: readonly Hump[], cuts: readonly number[]): number {
  return humps.reduce((sum, h, i) => {
    const [low, high] = [cuts[i - 1], cuts[i]]
    return (
      sum +
      h.share *
        ((low === undefined ? 0 : below((low - h.mean) / h.sd)) +
          (high === undefined ? 0 : below((h.mean - high) / h.sd)))
    )
  }, 0)
}

/** Share of a normal distribution below z (Abramowitz and Stegun 7.1.26, to 1.5e-7). */
function below(z: number): number {
  const x = Math.abs(z) / Math.SQRT2
  const t = 1 / (1 + 0.3275911 * x)
  const poly = t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))))
  const erf = 1 - poly * Math.exp(-x * x)
  return z < 0 ? (1 - erf) / 2 : (1 + erf) / 2
}
