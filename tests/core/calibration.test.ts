import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { compareModels } from '../../src/core/calibration/compare'
import { curveAt, curveSchema, monotoneSlopes } from '../../src/core/calibration/curve'
import { calibratedReading, fit, type Fit, type FitOptions } from '../../src/core/calibration/fit'
import { fitWorking } from '../../src/core/calibration/fitWorking'
import { levenbergMarquardt } from '../../src/core/calibration/levenbergMarquardt'
import type { ModelName } from '../../src/core/calibration/models'
import type { Pair } from '../../src/core/calibration/pair'
import { studentT, T95 } from '../../src/core/calibration/studentT'
import { fitPairs } from '../../src/cli/fit'
import { exactPolynomial } from '../support/exactPolynomial'
import { normal, seeded } from '../support/chance'

/** NIST StRD linear regression data set “Norris”, x and y, with its certified values. */
const NORRIS: [number, number][] = [
  [0.2, 0.1],
  [337.4, 338.8],
  [118.2, 118.1],
  [884.6, 888],
  [10.1, 9.2],
  [226.5, 228.1],
  [666.3, 668.5],
  [996.3, 998.5],
  [448.6, 449.1],
  [777, 778.9],
  [558.2, 559.2],
  [0.4, 0.3],
  [0.6, 0.1],
  [775.5, 778.1],
  [666.9, 668.8],
  [338, 339.3],
  [447.5, 448.9],
  [11.6, 10.8],
  [556, 557.7],
  [228.1, 228.3],
  [995.8, 998],
  [887.6, 888.8],
  [120.2, 119.6],
  [0.3, 0.3],
  [0.3, 0.6],
  [556.8, 557.6],
  [339.1, 339.3],
  [887.2, 888],
  [999, 998.5],
  [779, 778.9],
  [11.1, 10.2],
  [118.3, 117.6],
  [229.2, 228.9],
  [669.1, 668.4],
  [448.9, 449.2],
  [0.5, 0.2],
]

const made = (model: ModelName, pairs: readonly Pair[], options: FitOptions = {}): Fit => {
  const got = fit(model, pairs, options)
  if (got.kind === 'none') throw new Error(got.reason)
  return got
}
const pairsOf = (list: readonly (readonly number[])[]): Pair[] =>
  list.map(([raw = 0, reference = 0]) => ({ raw, reference }))
const value = (f: Fit, name: string) => f.parameters.find((p) => p.name === name)?.value ?? NaN
const error = (f: Fit, name: string) => f.parameters.find((p) => p.name === name)?.error ?? NaN
/** Correct digits of a number against its certified value. */
const digits = (got: number, certified: number) => -Math.log10(Math.max(1e-16, Math.abs(got / certified - 1)))

describe('straight line', () => {
  test('agrees with certified regression values to nine digits', () => {
    const f = made('line', pairsOf(NORRIS))
    expect(digits(f.gain, 1.00211681802045)).toBeGreaterThan(9)
    expect(digits(f.offset, -0.262323073774029)).toBeGreaterThan(9)
    expect(digits(f.residual ?? 0, 0.884796396144373)).toBeGreaterThan(9)
    expect(digits(error(f, 'gain'), 0.000429796848199937)).toBeGreaterThan(9)
    expect(digits(error(f, 'offset'), 0.232818234301152)).toBeGreaterThan(9)
  })

  test('agrees with the worked thermometer of the GUM, H.3', () => {
    const read = [21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.01, 26.511]
    const off = [-0.171, -0.169, -0.166, -0.159, -0.164, -0.165, -0.156, -0.157, -0.159, -0.161, -0.16]
    const f = made('line', pairsOf(read.map((t, i) => [t - 20, off[i] ?? 0])))
    expect(f.offset).toBeCloseTo(-0.1712, 4)
    expect(error(f, 'offset')).toBeCloseTo(0.0029, 4)
    expect(f.gain).toBeCloseTo(0.00218, 5)
    expect(error(f, 'gain')).toBeCloseTo(0.00067, 5)
    expect(f.residual).toBeCloseTo(0.0035, 4)
    expect(f.corrected(10)).toBeCloseTo(-0.1494, 4)
    // Its 0.0041 is the line alone; a corrected reading scatters about the line as well.
    const line = Math.sqrt(((f.expanded95(10) ?? 0) / T95(9)) ** 2 - (f.residual ?? 0) ** 2)
    expect(line).toBeCloseTo(0.0041, 4)
  })

  test('two pairs give gain and offset exactly, no estimate of error, and the working says so', () => {
    const pairs = pairsOf([
      [0.394, 0.41],
      [0.512, 0.53],
    ])
    const f = made('line', pairs)
    expect(f.gain).toBeCloseTo(0.12 / 0.118, 12)
    expect(f.offset).toBeCloseTo(0.41 - (0.12 / 0.118) * 0.394, 12)
    expect([f.residual, f.expanded95(0.4), f.parameters[0]?.error]).toEqual([null, null, null])
    const working = fitWorking(pairs, f, 1000, 'mm', 1)
    expect(working.source).toMatch(/no estimate of error/)
    expect(working.steps.map((s) => s.result)).toEqual(['× 1.0169', '+9.3 mm'])
  })

  test('pairs that are none, unfinished or too close give no line and a reason', () => {
    expect(fit('line', [])).toMatchObject({ kind: 'none' })
    expect(
      fit(
        'line',
        pairsOf([
          [1, 1],
          [1.01, 1],
        ]),
        { closest: 0.02 },
      ),
    ).toMatchObject({
      kind: 'none',
      reason: expect.stringContaining('close'),
    })
    expect(fit('offset', pairsOf([[NaN, 1]]))).toMatchObject({ kind: 'none' })
    expect(made('offset', pairsOf([[2, 2.5]]))).toMatchObject({ gain: 1, offset: 0.5, residual: null })
  })
})

describe('against exact rational arithmetic', () => {
  const chance = seeded(7)
  /** Readings far from zero and close together: their powers all look alike. */
  const sets = Array.from({ length: 20 }, (_, i) => {
    const from = 10 ** (2 + (i % 4))
    return Array.from({ length: 8 + i }, (__, k) => [
      from + k + Math.round(chance() * 8) / 8,
      Math.round(chance() * 1000) / 8,
    ])
  })
  test('lines to nine digits, standard errors too', () => {
    for (const set of sets) {
      const exact = exactPolynomial(set, 1)
      const f = made('line', pairsOf(set))
      for (const [i, name] of ['offset', 'gain'].entries()) {
        expect(digits(value(f, name), exact.coefficients[i] ?? 0)).toBeGreaterThan(9)
        expect(digits(error(f, name), exact.errors[i] ?? 0)).toBeGreaterThan(9)
      }
    }
  })
  test('second orders to eight', () => {
    for (const set of sets) {
      const exact = exactPolynomial(set, 2)
      const f = made('quadratic', pairsOf(set))
      for (const [i, name] of ['1', 'x', 'x²'].entries()) {
        expect(digits(value(f, name), exact.coefficients[i] ?? 0)).toBeGreaterThan(8)
        expect(digits(error(f, name), exact.errors[i] ?? 0)).toBeGreaterThan(8)
      }
    }
  })
})

describe('certified non-linear sets, from both of their starts', () => {
  interface Certified {
    name: string
    x: number[]
    y: number[]
    f: (p: readonly number[], x: number) => number
    starts: [number[], number[]]
    values: number[]
    errors: number[]
  }
  const SETS: Certified[] = [
    {
      name: 'DanWood',
      x: [1.309, 1.471, 1.49, 1.565, 1.611, 1.68],
      y: [2.138, 3.421, 3.597, 4.34, 4.882, 5.66],
      f: ([a = 0, b = 0], x) => a * x ** b,
      starts: [
        [1, 5],
        [0.7, 4],
      ],
      values: [0.76886226176, 3.8604055871],
      errors: [0.01828197386, 0.051726610913],
    },
    {
      name: 'Misra1a',
      x: [77.6, 114.9, 141.1, 190.8, 239.9, 289, 332.8, 378.4, 434.8, 477.3, 536.8, 593.1, 689.1, 760],
      y: [10.07, 14.73, 17.94, 23.93, 29.61, 35.18, 40.02, 44.82, 50.76, 55.05, 61.01, 66.4, 75.47, 81.78],
      f: ([a = 0, b = 0], x) => a * (1 - Math.exp(-b * x)),
      starts: [
        [500, 0.0001],
        [250, 0.0005],
      ],
      values: [238.94212918, 0.00055015643181],
      errors: [2.7070075241, 7.2668688436e-6],
    },
    {
      name: 'MGH10',
      x: Array.from({ length: 16 }, (_, i) => 50 + 5 * i),
      y: [34780, 28610, 23650, 19630, 16370, 13720, 11540, 9744, 8261, 7030, 6005, 5147, 4427, 3820, 3307, 2872],
      f: ([a = 0, b = 0, c = 0], x) => a * Math.exp(b / (x + c)),
      starts: [
        [2, 400000, 25000],
        [0.02, 4000, 250],
      ],
      values: [0.005609636471, 6181.3463463, 345.22363462],
      errors: [0.00015687892471, 23.309021107, 0.78486103508],
    },
  ]
  const cases = SETS.flatMap((s) => s.starts.map((start, i) => ({ ...s, start, from: i + 1 })))
  test.each(cases)('$name, start $from', ({ x, y, f, start, values, errors }) => {
    const slope = (p: readonly number[], at: number, i: number) => {
      // Central differences of fourth order: the derivatives are not the product's either.
      const h = 1e-3 * Math.abs(p[i] ?? 1)
      const to = (k: number) =>
        f(
          p.map((v, j) => (j === i ? v + k * h : v)),
          at,
        )
      return (8 * (to(1) - to(-1)) - (to(2) - to(-2))) / (12 * h)
    }
    const found = levenbergMarquardt(
      {
        residuals: (p) => x.map((at, i) => (y[i] ?? 0) - f(p, at)),
        jacobian: (p) => x.map((at) => p.map((_, i) => slope(p, at, i))),
      },
      start,
    )
    if (!found) throw new Error('no minimum')
    const sum = x.reduce((s, at, i) => s + ((y[i] ?? 0) - f(found.p, at)) ** 2, 0)
    values.forEach((v, i) => {
      expect(digits(found.p[i] ?? 0, v)).toBeGreaterThan(8)
      const se = Math.sqrt((sum / (x.length - values.length)) * (found.inverse[i]?.[i] ?? 0))
      expect(digits(se, errors[i] ?? 0)).toBeGreaterThan(6)
    })
  })

  test('the power law of the product is the certified one', () => {
    const { x, y, values, errors } = SETS[0] as Certified
    const f = made('power', pairsOf(x.map((v, i) => [v, y[i] ?? 0])))
    expect(digits(value(f, 'a'), values[0] ?? 0)).toBeGreaterThan(8)
    expect(digits(value(f, 'b'), values[1] ?? 0)).toBeGreaterThan(8)
    expect(digits(error(f, 'a'), errors[0] ?? 0)).toBeGreaterThan(7)
    expect(digits(error(f, 'b'), errors[1] ?? 0)).toBeGreaterThan(7)
  })
})

describe("Student's t", () => {
  test('agrees with published tables to four digits, and with closed forms', () => {
    // Two-sided 90, 95 and 99 %.
    for (const [freedom, ...points] of [
      [1, 6.3138, 12.7062, 63.6567],
      [2, 2.92, 4.3027, 9.9248],
      [3, 2.3534, 3.1824, 5.8409],
      [4, 2.1318, 2.7764, 4.6041],
      [5, 2.015, 2.5706, 4.0321],
      [10, 1.8125, 2.2281, 3.1693],
      [20, 1.7247, 2.086, 2.8453],
      [30, 1.6973, 2.0423, 2.75],
      [60, 1.6706, 2.0003, 2.6603],
      [120, 1.6577, 1.9799, 2.6174],
      [Infinity, 1.6449, 1.96, 2.5758],
    ] as const)
      for (const [i, share] of [0.9, 0.95, 0.99].entries())
        expect(studentT(share, freedom)).toBeCloseTo(points[i] ?? NaN, 4)
    expect(T95(1)).toBeCloseTo(Math.tan(0.475 * Math.PI), 9)
    expect(T95(2)).toBeCloseTo(0.95 * Math.sqrt(2 / (1 - 0.95 ** 2)), 9)
  })

  test('at degrees of freedom that are not whole it holds its share of the density', () => {
    for (const freedom of [1.3, 2.5, 3.7, 7.77, 41.2]) {
      const t = T95(freedom)
      const density = (x: number) => (1 + (x * x) / freedom) ** (-(freedom + 1) / 2)
      // Simpson over x = tan φ, which takes the tails along.
      const over = (to: number) => {
        const n = 20_000
        const h = to / n
        let sum = 0
        for (let i = 0; i <= n; i++) {
          const φ = i * h
          const cos = Math.max(Math.cos(φ), 1e-9)
          sum += (i === 0 || i === n ? 1 : 2 + 2 * (i % 2)) * (density(Math.tan(φ)) / (cos * cos))
        }
        return (sum * h) / 3
      }
      expect(over(Math.atan(t)) / over(Math.PI / 2 - 1e-6)).toBeCloseTo(0.95, 3)
    }
  })
})

/** `CALIBRATIONS=10000` is the long form. */
const ROUNDS = Number(process.env.CALIBRATIONS ?? 2000)
describe('how far a corrected reading can be trusted', () => {
  const share = (
    n: number,
    u: { own: number; common: number; each?: readonly number[] },
    model: ModelName = 'line',
  ) => {
    const chance = seeded(11)
    let inside = 0
    const at = Array.from({ length: n }, (_, i) => i / (n - 1))
    for (let round = 0; round < ROUNDS; round++) {
      const together = u.common * normal(chance)
      // The reading is x; what is true is 2x + 1, which nobody knows better than references say.
      const pairs = at.map((raw, i): Pair => {
        const own = u.each?.[i] ?? u.own
        return { raw, reference: 2 * raw + 1 + together + own * normal(chance), ...(u.each ? { u: own } : {}) }
      })
      const f = made(model, pairs, { common: u.common })
      const raw = chance()
      // One reading more, that scatters as the pairs did: what is true lies so far from the corrected one.
      const off = 2 * raw + 1 + u.own * normal(chance) - f.corrected(raw)
      if (Math.abs(off) <= (f.expanded95(raw) ?? 0)) inside += 1
    }
    return inside / ROUNDS
  }
  test.each([
    ['scatter alone', 5, { own: 0.1, common: 0 }],
    ['three pairs', 3, { own: 0.1, common: 0 }],
    ['a class that all references share', 6, { own: 0.1, common: 0.1 }],
    ['mostly the shared class', 4, { own: 0.05, common: 0.2 }],
    ['each reference states its own', 6, { own: 0.1, common: 0, each: [0.1, 0.1, 0.1, 0.1, 0.1, 0.1] }],
    ['two pairs that state their own', 2, { own: 0.1, common: 0.05, each: [0.1, 0.1] }],
  ] as const)(
    '95 %% bands hold 93 to 97 %% of simulated calibrations: %s',
    (_, n, u) => {
      const held = share(n, u)
      expect(held).toBeGreaterThan(0.93)
      expect(held).toBeLessThan(0.97)
    },
    60_000,
  )

  test('what all references share is never made less by more pairs', () => {
    const many = pairsOf(NORRIS)
    expect(made('line', many, { common: 50 }).expanded95(500)).toBeGreaterThan(1.95 * 50)
  })

  test('leave-one-out and studentised residuals are what refitting without the pair says', () => {
    const pairs = pairsOf([
      [0, 0.1],
      [1, 1.2],
      [2, 1.9],
      [3, 3.4],
      [4, 3.9],
      [5, 9],
    ])
    const whole = made('line', pairs)
    let sum = 0
    pairs.forEach((q, i) => {
      const others = made(
        'line',
        pairs.filter((_, k) => k !== i),
      )
      const missed = q.reference - others.corrected(q.raw)
      sum += missed ** 2
      expect(whole.studentised[i]).toBeCloseTo(missed / ((others.expanded95(q.raw) ?? 0) / T95(3)), 9)
    })
    expect(whole.leftOut).toBeCloseTo(Math.sqrt(sum / pairs.length), 12)
    expect(whole.strangers).toEqual([5])
  })

  test('weights: a poor reference pulls less, by its variance', () => {
    // Mean of two values with u 1 and 2 is (4·y₁ + y₂) / 5.
    const f = made('offset', [
      { raw: 0, reference: 1, u: 1 },
      { raw: 0, reference: 2, u: 2 },
    ])
    expect(f.offset).toBeCloseTo(6 / 5, 12)
  })
})

describe('which model', () => {
  const chance = seeded(3)
  const noisy = (f: (x: number) => number, s: number) =>
    pairsOf(Array.from({ length: 9 }, (_, i) => [i + 1, f(i + 1) + s * normal(chance)]))
  const mostly = (f: (x: number) => number, s: number) => {
    const chosen = Array.from({ length: 40 }, () => compareModels(noisy(f, s)).proposed)
    const count = (m: ModelName | null) => chosen.filter((c) => c === m).length
    return [...new Set(chosen)].sort((a, b) => count(b) - count(a))[0]
  }
  test('a line stays a line, a bend is earned, a law is found', () => {
    expect(mostly((x) => 2 * x + 5, 0.1)).toBe('line')
    expect(mostly((x) => 2 * x + 5 + 0.3 * x * x, 0.1)).toBe('quadratic')
    expect(mostly((x) => 3 * x ** 1.7, 0.05)).toBe('power')
    expect(mostly((x) => 3 * Math.exp(0.4 * x), 0.05)).toBe('exponential')
    expect(mostly((x) => x + 3, 0.1)).toBe('offset')
    expect(compareModels(pairsOf([[1, 2]])).proposed).toBe('offset')
    expect(
      compareModels(
        pairsOf([
          [1, 2],
          [2, 5],
        ]),
      ).proposed,
    ).toBe('line')
  })

  test('what does not suit is refused in words', () => {
    const reason = (m: ModelName, p: number[][], o: FitOptions = {}) => {
      const f = fit(m, pairsOf(p), o)
      return f.kind === 'none' ? f.reason : 'taken'
    }
    expect(
      reason('power', [
        [0, 1],
        [1, 2],
      ]),
    ).toMatch(/above zero/)
    expect(
      reason('exponential', [
        [0, -1],
        [1, 2],
      ]),
    ).toMatch(/one sign/)
    expect(
      reason('table', [
        [0, 0],
        [1, 3],
        [2, 2],
      ]),
    ).toMatch(/neither rise nor fall/)
    expect(
      reason('beta', [
        [0, 0],
        [1, 3],
      ]),
    ).toMatch(/thermistor/)
    expect(
      reason('quadratic', [
        [0, 0],
        [1, 3],
      ]),
    ).toMatch(/3 pairs/)
    expect(reason('gain', [[0, 0]])).toMatch(/zero/)
  })
})

describe('curves', () => {
  test('a thermistor’s A, B and C come back from temperatures they give', () => {
    // 10 kΩ at 25 °C; resistance from the cubic by bisection, and the reading by the β on its bag.
    const [A, B, C] = [1.129241e-3, 2.341077e-4, 8.775468e-8]
    const nominal = { ohm25: 10_000, betaK: 3950 }
    const celsius = (ohm: number) => 1 / (A + B * Math.log(ohm) + C * Math.log(ohm) ** 3) - 273.15
    const reads = (ohm: number) => 1 / (1 / 298.15 + Math.log(ohm / nominal.ohm25) / nominal.betaK) - 273.15
    expect(celsius(32650)).toBeCloseTo(0, 1)
    expect(celsius(10000)).toBeCloseTo(25, 1)
    const of = (list: number[]) => list.map((ohm) => ({ raw: reads(ohm), reference: celsius(ohm) }))
    for (const ohms of [
      [32650, 10000, 3603],
      [90000, 32650, 10000, 3603, 1000],
    ]) {
      const f = made('steinhart', of(ohms), { nominal })
      expect(digits(value(f, 'A'), A)).toBeGreaterThan(7)
      expect(digits(value(f, 'B'), B)).toBeGreaterThan(7)
      expect(digits(value(f, 'C'), C)).toBeGreaterThan(6)
      expect(calibratedReading(f, reads(5000))).toBeCloseTo(celsius(5000), 6)
    }
    const two = made('beta', of([32650, 3603]), { nominal })
    const [t1, t2] = [celsius(32650) + 273.15, celsius(3603) + 273.15]
    expect(value(two, 'β, K')).toBeCloseTo(Math.log(32650 / 3603) / (1 / t1 - 1 / t2), 6)
  })

  test('every fit is carried by the design as it was made', () => {
    const pairs = fc.uniqueArray(fc.tuple(fc.integer({ min: 1, max: 400 }), fc.integer({ min: 1, max: 90 })), {
      selector: ([x]) => x,
      minLength: 3,
      maxLength: 12,
    })
    fc.assert(
      fc.property(
        pairs,
        fc.constantFrom<ModelName>('offset', 'gain', 'line', 'quadratic', 'power', 'exponential'),
        (p, m) => {
          const f = fit(m, pairsOf(p.map(([x, y]) => [x / 10, y / 10])))
          if (f.kind === 'none') return
          if (f.curve) expect(curveSchema.parse(f.curve)).toEqual(f.curve)
          for (const { raw } of pairsOf(p.map(([x]) => [x / 10, 0])))
            expect(calibratedReading(f, raw)).toBeCloseTo(f.corrected(raw), 8)
        },
      ),
      { numRuns: 200 },
    )
  })

  test('a table goes through its points, never turns between them, and has no kink', () => {
    const rising = fc.uniqueArray(fc.integer({ min: 0, max: 1000 }), { minLength: 2, maxLength: 12 })
    fc.assert(
      fc.property(rising, rising, fc.boolean(), (a, b, falls) => {
        const n = Math.min(a.length, b.length)
        const x = [...a].sort((p, q) => p - q).slice(0, n)
        const y = [...b].sort((p, q) => (falls ? q - p : p - q)).slice(0, n)
        const table = { kind: 'table' as const, x, y, slope: monotoneSlopes(x, y) }
        const at = (v: number) => curveAt(table, v)
        x.forEach((v, i) => expect(at(v)).toBeCloseTo(y[i] ?? 0, 9))
        let before = at((x[0] ?? 0) - 10)
        for (let v = (x[0] ?? 0) - 10; v <= (x[n - 1] ?? 0) + 10; v += 0.5) {
          expect((at(v) - before) * (falls ? -1 : 1)).toBeGreaterThan(-1e-9)
          before = at(v)
        }
        for (const v of x) {
          const left = (at(v) - at(v - 1e-7)) / 1e-7
          const right = (at(v + 1e-7) - at(v)) / 1e-7
          expect(Math.abs(left - right)).toBeLessThan(1e-2 * (1 + Math.abs(left)))
        }
      }),
      { numRuns: 100 },
    )
  })
})

describe('on the command line', () => {
  const rows = NORRIS.map(([raw, reference]) => `${raw};${reference}`).join('\n')
  test('pairs out of a file give what they give, as text and as JSON', () => {
    const told = fitPairs(`Raw;Reference\n${rows}\n`, { model: 'line' })
    expect(told).toMatch(/gain: 1\.00212 ± 0\.000429797/)
    expect(told).toMatch(/offset: -0\.262323 ± 0\.232818/)
    expect(JSON.parse(fitPairs(`raw;reference\n${rows}\n`, { json: true }))).toMatchObject({
      model: expect.any(String),
      bands: expect.arrayContaining([{ raw: 0.2, corrected: expect.any(Number), expanded95: expect.any(Number) }]),
    })
  })
  test.each([
    ['x,y\n1,2\n', {}, /columns raw and reference/],
    ['raw,reference\n1,two\n', {}, /line 2/],
    ['raw,reference,uncertainty\n1,2,-1\n', {}, /below zero/],
    ['raw,reference\n1,2\n', { model: 'spline' }, /no model “spline”/],
    ['raw,reference\n1,2\n', { model: 'line' }, /2 pairs/],
    ['raw,reference\n', {}, /no pair/],
  ])('refuses %j with the reason', (text, asked, why) => {
    expect(() => fitPairs(text, asked)).toThrow(why)
  })
})
