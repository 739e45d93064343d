import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { LEVEL_START, levelKnown, levelStep, levelTold } from '../../src/core/conditioning/levels'
import type { Levels } from '../../src/core/catalog/levels'
import { curveAt } from '../../src/core/calibration/curve'
import { fit } from '../../src/core/calibration/fit'
import type { ModelName } from '../../src/core/calibration/models'
import { chainStep, type ChainSettings, startChain } from '../../src/core/conditioning/chain'
import { debounceStep, startDebounce } from '../../src/core/conditioning/debounce'
import { installRuntime } from '../../standins/board/board'
import { isMoment, PATTERNS, type Trigger } from '../../src/core/model/behaviour'
import { RULE_START, ruleStep } from '../../src/core/behaviour/ruleStep'
import { pressLatency, pressStep, startPresses } from '../../src/core/conditioning/presses'
import { oneWireCrc } from '../../standins/world/oneWireThermometer'

const lines: string[] = []
const mp = await loadMicroPython({ stdout: (l) => lines.push(l), linebuffer: true })
installRuntime(mp, { deviceDir: 'device', shimDir: 'standins/board/shims' })
mp.registerJsModule('_world', { chip: '32-class' })
mp.runPython(`
import json, math, struct, binascii
from vn.chain import Chain
from vn.debounce import Debounce
from vn.onewire_bus import crc8
def number(h): return None if h is None else struct.unpack('<d', binascii.unhexlify(h))[0]
def hexed(v): return None if v is None else str(binascii.hexlify(struct.pack('<d', v)), 'utf-8')
def chain(text):
    job = json.loads(text)
    c = Chain({k: number(v) if isinstance(v, str) else v for k, v in job['spec'].items()})
    print(json.dumps([hexed(c.step(number(r), number(s))) for r, s in job['trace']]))
from vn import curve
def bent_chain(text):
    job = json.loads(text)
    c = curve.Chain(job['spec'])
    print(json.dumps([c.step(r, s) for r, s in job['trace']]))
def bent(text):
    job = json.loads(text)
    print(json.dumps([curve.Curve(job['curve']).of(x) for x in job['at']]))
def debounce(text):
    job = json.loads(text)
    d = Debounce(job['first'], job['wait'])
    out = []
    for level, now in job['trace']:
        d.step(level, now)
        out.append(d.stable)
    print(json.dumps(out))

from vn.drivers import levels as made
class Source:
    value = None
    def now_is(self): return self.value
    def known(self): return True
def levels(text):
    job = json.loads(text)
    d = made.Signal({'slug': 'x', 'of': 'y', 'publish': {'everyS': 0}, 'levels': job['levels']})
    d.source = Source()
    out = []
    for value, now, by in job['trace']:
        d.source.value = value
        if by is not None:
            d.command(by, now)
        d.step(now)
        out.append([d.state(), d.now_is()])
    print(json.dumps(out))

from vn.presses import Presses
def presses(text):
    job = json.loads(text)
    p = Presses({'presses': job['times']})
    print(json.dumps([p.look(held, now) for held, now in job['trace']]))

class Single:
    """A number whose every intermediate is rounded to single precision, as boards compute."""
    def __init__(self, v): self.v = struct.unpack('<f', struct.pack('<f', v))[0]
    def __add__(self, o): return Single(self.v + val(o))
    __radd__ = __add__
    def __sub__(self, o): return Single(self.v - val(o))
    def __rsub__(self, o): return Single(val(o) - self.v)
    def __mul__(self, o): return Single(self.v * val(o))
    __rmul__ = __mul__
    def __truediv__(self, o): return Single(self.v / val(o))
    def __rtruediv__(self, o): return Single(val(o) / self.v)
    def __lt__(self, o): return self.v < val(o)
    def __le__(self, o): return self.v <= val(o)
    def __gt__(self, o): return self.v > val(o)
    def __ge__(self, o): return self.v >= val(o)
    def __neg__(self): return Single(-self.v)
class SingleMath:
    @staticmethod
    def exp(x): return Single(math.exp(val(x)))
    @staticmethod
    def log(x): return Single(math.log(val(x)))
    @staticmethod
    def pow(x, y): return Single(math.pow(val(x), val(y)))
def bent_single(text):
    job = json.loads(text)
    one = lambda v: [Single(x) for x in v] if isinstance(v, list) else v if isinstance(v, str) else Single(v)
    how = curve.Curve({k: one(v) for k, v in job['curve'].items()})
    curve.math = SingleMath
    out = []
    for x in job['at']:
        v = how.of(Single(x))
        out.append(None if v is None else v.v)
    curve.math = math
    print(json.dumps(out))
def val(x): return x.v if isinstance(x, Single) else Single(x).v
def single(text):
    job = json.loads(text)
    c = Chain({k: Single(v) if isinstance(v, float) or (isinstance(v, int) and k != 'median') else v for k, v in job['spec'].items()})
    out = []
    for r, s in job['trace']:
        v = c.step(None if r is None else Single(r), Single(s))
        out.append(None if v is None else v.v)
    print(json.dumps(out))

from vn.rules import Rules
class Input:
    def __init__(self): self.value, self.has = None, False
    def known(self): return self.has
    def now_is(self): return self.value
def rules(text):
    job = json.loads(text)
    a, out = Input(), []
    r = Rules([dict(job['rule'], **{'from': 'a', 'to': 'a', 'do': True})], {'a': a})
    for value, told, now in job['trace']:
        a.value, a.has = value, True
        out.append(len(r.step({'a': told} if told else {}, False, now)))
    print(json.dumps(out))
def crc(text): print(crc8(bytes(json.loads(text))))
`)

/** Runs a function of the device's code on JSON and reads what it prints. */
function onBoard(name: string, job: unknown): unknown {
  const call: unknown = mp.globals.get(name)
  if (typeof call !== 'function') throw new Error(`no ${name}`)
  lines.length = 0
  call(JSON.stringify(job))
  return JSON.parse(lines.join(''))
}

const hex = (v: number) => {
  const b = Buffer.alloc(8)
  b.writeDoubleLE(v)
  return b.toString('hex')
}
const number = fc.double({ min: -5, max: 5, noNaN: true })

test('the chain on the board and in the core give the same numbers to the last bit', () => {
  const settings = fc.record({
    min: fc.constant(-4),
    max: fc.constant(4),
    median: fc.constantFrom(1, 3, 5, 7, 9),
    averageS: fc.oneof(fc.constant(0), fc.double({ min: 0.1, max: 100, noNaN: true })),
    mountM: fc.option(fc.double({ min: 0, max: 3, noNaN: true })),
    gain: fc.double({ min: 0.5, max: 2, noNaN: true }),
    offset: number,
  })
  const trace = fc.array(fc.tuple(fc.option(number, { freq: 6 }), fc.double({ min: 0.01, max: 3, noNaN: true })), {
    maxLength: 60,
  })
  fc.assert(
    fc.property(settings, trace, (spec: ChainSettings, readings) => {
      let state = startChain()
      const core = readings.map(([reading, since]) => {
        const step = chainStep(spec, state, reading, since)
        state = step.state
        return step.value === null ? null : hex(step.value)
      })
      const sent = Object.fromEntries(
        Object.entries(spec).map(([k, v]) => [k, typeof v === 'number' && k !== 'median' ? hex(v) : v]),
      )
      expect(
        onBoard('chain', { spec: sent, trace: readings.map(([r, s]) => [r === null ? null : hex(r), hex(s)]) }),
      ).toEqual(core)
    }),
    { numRuns: 150 },
  )
})

test('the debounce on the board and in the core agree on any trace', () => {
  fc.assert(
    fc.property(
      fc.boolean(),
      fc.integer({ min: 0, max: 60 }),
      fc.array(fc.tuple(fc.boolean(), fc.integer({ min: 1, max: 40 })), { maxLength: 60 }),
      (first, wait, steps) => {
        let now = 0
        const trace = steps.map(([level, gap]) => [level, (now += gap)] as const)
        let state = startDebounce(first)
        const core = trace.map(([level, at]) => (state = debounceStep(state, level, at, wait)).stable)
        expect(onBoard('debounce', { first, wait, trace })).toEqual(core)
      },
    ),
    { numRuns: 150 },
  )
})

test('one-wire checksum: the example of the application note, and both sides alike on anything', () => {
  // Address 02 1C B8 01 00 00 00 has checksum A2.
  const example = [0x02, 0x1c, 0xb8, 0x01, 0x00, 0x00, 0x00]
  expect(oneWireCrc(example)).toBe(0xa2)
  expect(onBoard('crc', [...example, 0xa2])).toBe(0)
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 255 }), { maxLength: 16 }), (bytes) => {
      expect(onBoard('crc', bytes)).toBe(oneWireCrc(bytes))
    }),
  )
})

test('in single precision, as boards compute, the chain stays within half of the published step', () => {
  // Level in m published in whole mm; warmth in °C with one decimal; pressure in Pa published in hPa with one.
  const kinds = [
    { low: 0, high: 5, step: 0.001, mount: true },
    { low: -40, high: 85, step: 0.1, mount: false },
    { low: 30_000, high: 110_000, step: 10, mount: false },
  ]
  const job = fc.constantFrom(...kinds).chain((kind) =>
    fc.record({
      kind: fc.constant(kind),
      spec: fc.record({
        min: fc.constant(kind.low),
        max: fc.constant(kind.high),
        median: fc.constantFrom(1, 3, 5, 9),
        averageS: fc.oneof(fc.constant(0), fc.double({ min: 1, max: 60, noNaN: true })),
        mountM: kind.mount ? fc.double({ min: 0, max: 5, noNaN: true }) : fc.constant(null),
        gain: fc.double({ min: 0.9, max: 1.1, noNaN: true }),
        offset: fc.double({ min: -kind.step * 20, max: kind.step * 20, noNaN: true }),
      }),
      trace: fc.array(
        fc.tuple(
          fc.option(fc.double({ min: kind.low, max: kind.high, noNaN: true }), { freq: 8 }),
          fc.double({ min: 0.02, max: 3, noNaN: true }),
        ),
        { minLength: 1, maxLength: 80 },
      ),
    }),
  )
  fc.assert(
    fc.property(job, ({ kind, spec, trace }) => {
      let state = startChain()
      const exact = trace.map(([reading, since]) => {
        const step = chainStep(spec, state, reading, since)
        state = step.state
        return step.value
      })
      const board = onBoard('single', { spec, trace }) as (number | null)[]
      board.forEach((v, i) => {
        const wanted = exact[i] ?? null
        if (v === null || wanted === null) expect(v).toBe(wanted)
        else expect(Math.abs(v - wanted)).toBeLessThan(kind.step / 2)
      })
    }),
    { numRuns: 120 },
  )
})

test('every model of calibration gives the same on the board, and in single precision within half of the published step', () => {
  const near = (low: number, high: number) => fc.double({ min: low, max: high, noNaN: true })
  // A part that is off by a few per cent, and the pairs somebody takes of it.
  const job = fc
    .constantFrom(
      {
        model: 'quadratic',
        low: 0,
        high: 50,
        step: 0.1,
        true: (x: number, k: number) => x * (1 + 0.05 * k) + 0.001 * x * x,
      },
      { model: 'power', low: 0.2, high: 4, step: 0.01, true: (x: number, k: number) => 3 * Math.pow(x, 1.4 + 0.1 * k) },
      {
        model: 'exponential',
        low: 0,
        high: 3,
        step: 0.01,
        true: (x: number, k: number) => 2 * Math.exp((0.4 + 0.1 * k) * x),
      },
      { model: 'beta', low: -20, high: 80, step: 0.1, true: (x: number, k: number) => x + 1 + 2 * k },
      { model: 'steinhart', low: -20, high: 80, step: 0.1, true: (x: number, k: number) => x + 1 + 2 * k + 0.01 * x },
      { model: 'table', low: 0, high: 4, step: 0.001, true: (x: number, k: number) => (x + k) ** 3 / 40 + x },
    )
    .chain((kind) =>
      fc.record({
        kind: fc.constant(kind),
        k: near(0, 1),
        raws: fc.uniqueArray(fc.integer({ min: 0, max: 40 }), { minLength: 4, maxLength: 9 }),
        at: fc.array(near(0, 1), { minLength: 1, maxLength: 20 }),
      }),
    )
  fc.assert(
    fc.property(job, ({ kind, k, raws, at }) => {
      const over = (share: number) => kind.low + share * (kind.high - kind.low)
      const pairs = raws.map((n) => ({ raw: over(n / 40), reference: kind.true(over(n / 40), k) }))
      const made = fit(kind.model as ModelName, pairs, { nominal: { ohm25: 10_000, betaK: 3950 } })
      if (made.kind === 'none' || made.curve === null) throw new Error(made.kind === 'none' ? made.reason : 'no curve')
      const { curve } = made
      const x = at.map((share) => made.span.min + share * (made.span.max - made.span.min))
      const exact = x.map((v) => curveAt(curve, v))
      const board = onBoard('bent', { curve, at: x }) as number[]
      const single = onBoard('bent_single', { curve, at: x }) as number[]
      exact.forEach((v, i) => {
        expect(Math.abs((board[i] ?? NaN) - v)).toBeLessThan(1e-12 * (1 + Math.abs(v)))
        expect(Math.abs((single[i] ?? NaN) - v), kind.model).toBeLessThan(kind.step / 2)
      })
    }),
    { numRuns: 200 },
  )
  // A whole chain with a curve at its end, as a node file has it.
  const spec = {
    min: 0,
    max: 50,
    median: 3,
    averageS: 2,
    mountM: null,
    curve: { kind: 'exponential' as const, at: 10, a: 3, b: 0.05 },
  }
  const steps = [1, 40, null, 7, 9, 60, 12, 13].map((v) => [v, 0.5] as const)
  let state = startChain()
  const core = steps.map(([v, since]) => {
    const step = chainStep({ ...spec, gain: 1, offset: 0 }, state, v, since)
    state = step.state
    return step.value
  })
  const chained = onBoard('bent_chain', { spec, trace: steps }) as (number | null)[]
  chained.forEach((v, i) => (core[i] === null ? expect(v).toBeNull() : expect(v).toBeCloseTo(core[i] ?? NaN, 9)))
  // Where a curve says nothing, neither does the board.
  expect(onBoard('bent', { curve: { kind: 'power', at: 1, a: 2, b: 0.5 }, at: [-1, 0, 4] })).toEqual([null, null, 4])
  expect(onBoard('bent', { curve: { kind: 'exponential', at: 0, a: 1, b: 5 }, at: [1000] })).toEqual([null])
})

const times = fc.record({
  used: fc.uniqueArray(fc.constantFrom(...PATTERNS), { minLength: 1 }),
  gapMs: fc.integer({ min: 100, max: 500 }),
  longMs: fc.integer({ min: 200, max: 900 }),
  repeatMs: fc.integer({ min: 50, max: 400 }),
})

test('press patterns on the board and in the core agree on any fingers', () => {
  fc.assert(
    fc.property(
      times,
      fc.array(fc.tuple(fc.boolean(), fc.integer({ min: 5, max: 400 })), { maxLength: 60 }),
      (how, steps) => {
        let now = 0
        const trace = steps.map(([held, gap]) => [held, (now += gap)] as const)
        let state = startPresses()
        const core = trace.map(([held, at]) => {
          const step = pressStep(how, state, held, at)
          state = step.state
          return step.told
        })
        expect(onBoard('presses', { times: how, trace })).toEqual(core)
      },
    ),
    { numRuns: 200 },
  )
})

test('each pattern that is used is told once when it is made, at the earliest moment it is certain', () => {
  const base = { gapMs: 300, longMs: 600, repeatMs: 300 }
  // Alone, a press is told on its way down; with double beside it, only when the gap is over; with long, when it ends.
  expect(pressLatency({ ...base, used: ['single'] }, 'single')).toBe(0)
  expect(pressLatency({ ...base, used: ['single', 'double'] }, 'single')).toBe(120 + 300)
  expect(pressLatency({ ...base, used: ['single', 'double'] }, 'double')).toBe(240)
  expect(pressLatency({ ...base, used: ['single', 'long'] }, 'single')).toBe(120)
  expect(pressLatency({ ...base, used: ['single', 'long'] }, 'long')).toBe(600)
  fc.assert(
    fc.property(times, fc.integer({ min: 40, max: 90 }), (how, strokeMs) => {
      for (const p of how.used) {
        if (p === 'long-release' || p === 'repeat') continue
        expect(pressLatency(how, p, strokeMs), p).not.toBeNull()
      }
    }),
    { numRuns: 60 },
  )
})

test('a local rule acts on the board when it acts in the core: first values, unknown, bands, times, long steps', () => {
  const times = fc.array(fc.oneof({ weight: 9, arbitrary: fc.constantFrom(50, 400) }, fc.constant(2500)), {
    minLength: 40,
    maxLength: 40,
  })
  const trace = <T>(value: fc.Arbitrary<T>) =>
    fc.record({ values: fc.array(value, { minLength: 40, maxLength: 40 }), times })
  const lasting = fc.constantFrom(0, 0, 0.3, 1)
  const readings = fc.record({
    when: fc.constantFrom<Trigger[]>(
      null,
      'gone',
      { above: 2 },
      { below: 2 },
      { above: 2, band: 1 },
      { below: 2, band: 1.5 },
    ),
    forS: lasting,
    of: trace(fc.constantFrom(null, 0, 1, 1.5, 2, 2.5, 3, 4)),
  })
  const states = fc.record({
    when: fc.constantFrom<Trigger[]>(true, false, null),
    forS: lasting,
    of: trace(fc.constantFrom(null, true, false)),
  })
  const words = fc.record({
    when: fc.constantFrom<Trigger[]>({ is: 'cut' }, { is: 'open' }, null),
    forS: lasting,
    of: trace(fc.constantFrom(null, 'open', 'closed', 'cut')),
  })
  const events = fc.record({
    when: fc.constantFrom<Trigger[]>('single', 'long'),
    forS: fc.constant(0),
    of: trace(fc.constantFrom('single', 'long', '')),
  })
  let acted = 0
  fc.assert(
    fc.property(fc.oneof(readings, states, words, events), ({ when, forS, of }) => {
      let now = 0
      const steps = of.values.map((v, i) => {
        now += of.times[i] ?? 50
        return typeof v === 'string' && isMoment(when) ? ([null, v, now] as const) : ([v, '', now] as const)
      })
      let state = RULE_START
      const core = steps.map(([value, told, at]) => {
        const next = ruleStep(state, { when, forS }, { value, told }, at)
        state = next.state
        return Number(next.acts)
      })
      acted += core.filter(Boolean).length
      expect(onBoard('rules', { rule: { when, forS }, trace: steps })).toEqual(core)
    }),
    { numRuns: 300 },
  )
  expect(acted).toBeGreaterThan(300)
})

test('first values never act, leaving unknown is a new beginning, a band counts once, a time is waited for', () => {
  const acts = (rule: { when: Trigger; forS: number }, values: (number | boolean | null)[], stepMs = 1000) => {
    let state = RULE_START
    return values.flatMap((value, i) => {
      const next = ruleStep(state, rule, { value }, i * stepMs)
      state = next.state
      return next.acts ? [i] : []
    })
  }
  expect(acts({ when: { above: 2 }, forS: 0 }, [3, 3, 1, 3])).toEqual([3])
  expect(acts({ when: { above: 2 }, forS: 0 }, [1, null, 3, 1, 3])).toEqual([4])
  expect(acts({ when: { above: 2, band: 1 }, forS: 0 }, [1, 2.1, 1.9, 2.1, 0.9, 2.1])).toEqual([1, 5])
  expect(acts({ when: false, forS: 3 }, [true, false, false, true, false, false, false, false, false])).toEqual([7])
  expect(acts({ when: null, forS: 0 }, [null, null, 1, null, null])).toEqual([3])
  expect(acts({ when: true, forS: 0 }, [false, true], 2001)).toEqual([])
})

test('a state made of a reading is the same on the board and in the core on any trace', () => {
  const words = ['a', 'b', 'c', 'd']
  const levelsOf = fc
    .tuple(fc.uniqueArray(fc.integer({ min: -20, max: 20 }), { minLength: 1, maxLength: 3 }), fc.nat(4), fc.nat(1))
    .chain(([cuts, band, on]) =>
      fc.record({
        words: fc.constant(words.slice(0, cuts.length + 1)),
        cuts: fc.constant([...cuts].sort((a, b) => a - b)),
        band: fc.constant(band),
        holdS: fc.array(fc.constantFrom(0, 0, 0.5, 3), { minLength: cuts.length + 1, maxLength: cuts.length + 1 }),
        unknown: fc.option(fc.nat(cuts.length)),
        on: fc.constant(on),
        shift: fc.constant(6),
      }),
    )
  const trace = fc.array(
    fc.tuple(
      fc.option(fc.double({ min: -25, max: 25, noNaN: true }), { freq: 8 }),
      fc.constantFrom(5, 200, 900, 4000),
      // Somebody shifts the cuts, now and then by more than may be.
      fc.option(fc.integer({ min: -8, max: 8 }), { freq: 1 }).map((by) => (by === null || by % 2 ? by : null)),
    ),
    { minLength: 1, maxLength: 60 },
  )
  let changes = 0
  fc.assert(
    fc.property(levelsOf, trace, (levels, steps) => {
      let [now, state] = [0, LEVEL_START]
      const timed = steps.map(([v, ms, by]) => [v, (now += ms), by] as const)
      let shifted = 0
      const core = timed.map(([v, at, by]) => {
        if (by !== null && Math.abs(by) <= levels.shift) shifted = by
        const next = levelStep(levels, state, v, at, shifted)
        changes += Number(next.at !== state.at)
        state = next
        return [levelTold(levels, next), levelKnown(levels, next)]
      })
      expect(onBoard('levels', { levels, trace: timed })).toEqual(core)
    }),
    { numRuns: 300 },
  )
  expect(changes).toBeGreaterThan(400)
})

test('words of a reading by hand: a loop with its resistor, a room with its minute, unknown', () => {
  const told = (levels: Levels, values: (number | null)[], stepMs = 1000) => {
    let state = LEVEL_START
    return values.map((v, i) => levelTold(levels, (state = levelStep(levels, state, v, i * stepMs))))
  }
  // 3.3 V over 5.6 kΩ to 5.6 kΩ: 1.65 V closed, 0 V across the contact, 3.3 V when nothing flows.
  const loop: Levels = {
    words: ['open', 'closed', 'cut'],
    cuts: [0.8, 2.5],
    band: 0.2,
    holdS: [0, 0, 2],
    unknown: null,
    on: 1,
  }
  expect(told(loop, [1.65, 0.02, 0.85, 0.95, 3.3, 3.3, 3.3, null, 3.3])).toEqual([
    'closed',
    'open',
    'open',
    'closed',
    'closed',
    'closed',
    'cut',
    null,
    'cut',
  ])
  // Somebody nearer than 1.2 m at once; nobody only after three seconds of it; unknown counts as somebody.
  const room: Levels = {
    words: ['somebody', 'nobody'],
    cuts: [1.2],
    band: 0.2,
    holdS: [0, 3],
    unknown: 0,
    on: 0,
  }
  expect(told(room, [2, 1.15, 1.05, 1.25, 2, 2, 1, 2, 2, 2, 2, null])).toEqual([
    false,
    false,
    true,
    true,
    true,
    true,
    true,
    true,
    true,
    true,
    false,
    true,
  ])
  // A lost echo counts as nobody, but only after those seconds of it: the room does not go dark.
  const lost = { ...room, unknown: 1 }
  expect(told(lost, [1, null, 1, null, null, null, null, 1])).toEqual([true, true, true, true, true, true, false, true])
})
