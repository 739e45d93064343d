import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { overlap, senderFault } from '../../src/core/model/sender'
import { senderFrom } from '../../src/core/model/senderFrom'
import { cadenceOf, isSilent } from '../../src/core/radio/cadence'
import { addressOf, inTheAir } from '../../src/core/radio/candidates'
import { changingCodes } from '../../src/core/radio/changing'
import { Hearing } from '../../src/core/radio/hearing'
import { judge } from '../../src/core/radio/learning'
import { Bursts } from '../../src/core/radio/subghz/bursts'
import { decodeFrame } from '../../src/core/radio/subghz/decode'
import { type Family, familyFigures, familySchema } from '../../src/core/radio/subghz/family'
import { proposeFamily } from '../../src/core/radio/subghz/propose'
import { emptyShop, type Shop } from '../../src/core/shop/shop'
import { airOf } from '../../src/core/surroundings/airOf'
import { softly } from '../../standins/board/edges'
import { FORMS, SENDERS, trainOf } from '../../standins/world/radioSenders'
import { normal, seeded } from '../support/chance'
import { played, session } from '../support/learningSessions'
import { doorSender } from '../support/sendersAround'
import { codeOf, cut, heardAs, inARow, latch, madeUpFamily, said } from '../support/trains'

const burstOf = (family: Family, code: string, random: () => number, sigmaUs: number, scale = 1) =>
  Array.from({ length: family.repeats }, () => heardAs(said(family, code, scale), random, sigmaUs))

describe('decoding', () => {
  test('a frame worked out by hand, bit by bit', () => {
    // 0101 1010 0011 1100 0111 0001: a high of T and a low of 3 T is nought, the other way round is one.
    const bits = '010110100011110001110001'
    const us = [...bits].flatMap((b) => (b === '0' ? [350, 1050] : [1050, 350]))
    expect(decodeFrame(familyFigures(latch), { us: [...us, 350], gapUs: 10_850 })).toBe(bits)
    expect(Number.parseInt(bits, 2)).toBe(0x5a3c71)
  })

  test('made-up families with a tenth of a base length of jitter and other base lengths: nearly every burst, no wrong code', () => {
    const random = seeded(22)
    let [bursts, right] = [0, 0]
    for (let n = 0; n < 150; n++) {
      const family = madeUpFamily(random, n)
      const hearing = new Bursts(familyFigures(family))
      for (let k = 0; k < 6; k++) {
        const code = codeOf(family, random)
        const scale = 0.8 + 0.4 * random()
        const told = burstOf(family, code, random, 0.1 * family.baseUs * scale, scale).flatMap(
          (f, i) => hearing.hear(f, 5000 * (n * 6 + k) + 60 * i) ?? [],
        )
        bursts += 1
        expect(told.length).toBeLessThanOrEqual(1)
        if (told[0]) expect(told[0]).toBe(code)
        right += told.length
      }
    }
    expect(right / bursts).toBeGreaterThanOrEqual(0.99)
  })

  test('one frame alone is no burst; what is said on and on is one; after a pause it is another', () => {
    const bursts = new Bursts(familyFigures(latch))
    const frame = said(latch, '0'.repeat(12) + '1'.repeat(12))
    expect(bursts.hear(frame, 0)).toBeNull()
    expect(bursts.hear(frame, 700)).toBeNull()
    const told = Array.from({ length: 40 }, (_, i) => bursts.hear(frame, 760 + 60 * i)).filter((b) => b !== null)
    expect(told).toHaveLength(1)
    expect([bursts.hear(frame, 9000), bursts.hear(frame, 9060)]).toEqual([
      null,
      frame && '0'.repeat(12) + '1'.repeat(12),
    ])
  })

  test('two senders whose frames come in turn are both heard, and nothing that is half of each', () => {
    fc.assert(
      fc.property(fc.nat(2 ** 24 - 1), fc.nat(2 ** 24 - 1), fc.nat(), (a, b, seed) => {
        fc.pre(a !== b)
        const random = seeded(seed)
        const codes = [a, b].map((n) => n.toString(2).padStart(24, '0'))
        const bursts = new Bursts(familyFigures(latch))
        const told = Array.from({ length: 12 }, (_, i) =>
          bursts.hear(heardAs(said(latch, codes[i % 2] ?? ''), random, 20), 50 * i),
        ).flatMap((t) => t ?? [])
        expect([...told].sort()).toEqual([...codes].sort())
      }),
      { numRuns: 100 },
    )
  })

  test('stamps that come late through a soft interrupt spoil most frames, and still nearly every burst is read, none wrongly', () => {
    const random = seeded(9)
    const figures = familyFigures(latch)
    let [whole, voted, frames] = [0, 0, 0]
    for (let n = 0; n < 200; n++) {
      const code = codeOf(latch, random)
      const lengths: number[] = []
      let [us, level, last] = [0, 0 as 0 | 1, 0]
      const edges = trainOf(FORMS.latch, code, 6, random).map((length) => {
        level = level ? 0 : 1
        const edge = { us, level }
        us += length
        return edge
      })
      softly([...edges, { us, level: 1 }], random, (at) => {
        if (last > 0) lengths.push(Math.round(at - last))
        last = at
      })
      const bursts = new Bursts(figures)
      const heard = cut(lengths)
      frames += heard.length
      whole += heard.filter((f) => decodeFrame(figures, f) !== null).length
      const told = heard.flatMap((f, i) => bursts.hear(f, 45 * i) ?? [])
      for (const t of told) expect(t).toBe(code)
      voted += Math.min(1, told.length)
    }
    expect(whole / frames).toBeLessThan(0.5)
    expect(voted / 200).toBeGreaterThan(0.9)
  })

  test('makes that read each other’s frames: the nearer one is told, in whatever order they are known', () => {
    const triad = familySchema.parse({
      ...latch,
      name: 'triad',
      baseUs: 420,
      zero: [1, 3, 1, 3],
      one: [3, 1, 3, 1],
      open: [1, 3, 3, 1],
      bits: 12,
    })
    const code = '01f0f10f1100'
    const frame = said(triad, code)
    // Each by itself makes something of it.
    expect(decodeFrame(familyFigures(latch), frame)).toHaveLength(24)
    for (const families of [
      [latch, triad],
      [triad, latch],
    ]) {
      const hearing = new Hearing(families)
      const told = [0, 60, 120].flatMap((at) => hearing.hear('one', frame, at) ?? [])
      expect(told.map((a) => [a.family.name, a.code])).toEqual([['triad', code]])
    }
  })

  test('noise is no code', () => {
    const random = seeded(4)
    const families = Array.from({ length: 12 }, (_, n) => familyFigures(madeUpFamily(random, n)))
    const lengths = families.map((f) => (f.lead ?? []).length + f.n * f.zero.length + 1)
    const all = families.map((f) => new Bursts(f))
    for (let i = 0; i < 30_000; i++) {
      const us = Array.from({ length: lengths[i % 12] ?? 49 }, () => 80 + Math.floor(3400 * random() ** 2))
      const frame = { us, gapUs: 3500 + 20_000 * random() }
      for (const bursts of all) expect(bursts.hear(frame, 40 * i)).toBeNull()
    }
  })

  test('a family whose symbols could be taken for one another, or whose gap is none, is refused with the reason', () => {
    const wrong = (change: Partial<Family>) => familySchema.safeParse({ ...latch, ...change }).error?.issues[0]?.message
    expect(wrong({ one: [1, 3] })).toMatch(/nearer to each other/)
    expect(wrong({ sync: [1, 5] })).toMatch(/gap of at least 3605 µs; this is 1750/)
    expect(wrong({ bits: 8 })).toMatch(/24 to 132 pulses; this has 17/)
    expect(wrong({ lead: [12, 2] })).toMatch(/taken for the gap/)
  })
})

describe('a family found from what was heard', () => {
  const sameFamily = (a: Family, b: Family) =>
    Math.abs(a.baseUs / b.baseUs - 1) < 0.08 &&
    JSON.stringify([a.bits, a.zero, a.one, a.open, a.lead.length]) ===
      JSON.stringify([b.bits, b.zero, b.one, b.open, b.lead.length])
  test('base length, rule and width of made-up families, from three presses with jitter and a receiver that lengthens highs', () => {
    const random = seeded(31)
    const missed: string[] = []
    for (let n = 0; n < 80; n++) {
      const family = madeUpFamily(random, n)
      const address = codeOf({ ...family, bits: family.bits - 3 }, random)
      const frames = (family.open ? ['f01', '10f', '110'] : ['001', '010', '111']).flatMap((end) => {
        const burst = Array.from({ length: family.repeats }, () =>
          heardAs(said(family, address + end), random, 0.05 * family.baseUs, 20),
        )
        return cut(inARow([...burst.slice(0, -1), { ...burst[0], us: burst.at(-1)?.us ?? [], gapUs: 99_999 }]))
      })
      const found = proposeFamily(frames)
      if (!found || !sameFamily(found.family, family))
        missed.push(`${JSON.stringify(family)} ${JSON.stringify(found?.family)}`)
    }
    expect(missed).toEqual([])
  })
  test('noise makes no family', () => {
    const random = seeded(5)
    for (let n = 0; n < 300; n++) {
      const frames = Array.from({ length: 6 }, () => ({
        us: Array.from({ length: 49 }, () => 80 + Math.floor(3000 * random())),
        gapUs: 12_000,
      }))
      expect(proposeFamily(frames)).toBeNull()
    }
  })
  test('what no family reads makes its own, and the same sender is heard by it from then on', () => {
    const random = seeded(6)
    const hearing = new Hearing([latch])
    const foreign = SENDERS.find((s) => s.form === 'foreign')
    const code = foreign?.codes[0] ?? ''
    const heard = [0, 8000, 16_000].flatMap((at) =>
      cut(trainOf(FORMS.foreign, code, 9, random)).flatMap((f, i) => hearing.hear('one', f, at + 30 * i) ?? []),
    )
    expect(heard.map((a) => [a.found, a.code])).toEqual([
      [true, code],
      [true, code],
      [true, code],
    ])
    expect(Math.abs((hearing.found[0]?.baseUs ?? 0) / 230 - 1)).toBeLessThan(0.08)
  })
})

describe('catching the right one', () => {
  test('simulated sessions with neighbours: no wrong sender, and mostly no more than seven presses', () => {
    const random = seeded(71)
    const wrong: number[] = []
    let [right, heard, few] = [0, 0, 0]
    for (let n = 0; n < 200; n++) {
      const s = session(random)
      const end = played(s)
      if (s.meant) heard += 1
      if (end && end.winner !== s.meant) wrong.push(n)
      if (end && end.winner === s.meant) right += 1
      if (end && end.winner === s.meant && end.after <= 7) few += 1
    }
    expect(wrong).toEqual([])
    expect(right / heard).toBeGreaterThan(0.95)
    expect(few / heard).toBeGreaterThan(0.8)
  })
  test('the first that is heard is not taken, and of two that answer alike neither is', () => {
    const presses = [10, 17, 26, 31, 40].map((s) => ({ atMs: 1000 * s, step: 0 }))
    const answer = (id: string) => ({ id, arrivals: presses.map((p) => ({ atMs: p.atMs + 400, code: 'x' })) })
    const one = judge(presses.slice(0, 1), [answer('door')], 0, 14_000)
    expect(one.winner).toBeNull()
    expect(judge(presses, [answer('door')], 0, 44_000).winner).toBe('door')
    const both = judge(presses, [answer('door'), answer('motion')], 0, 44_000)
    expect([both.winner, both.more]).toEqual([null, null])
  })
})

describe('a sender from what was learnt', () => {
  const learnt = {
    becomes: 'two codes' as const,
    name: 'Store door',
    slug: 'store-door',
    tag: 'Z4',
    order: 3,
    place: null,
    family: { id: 'latch', family: latch },
    codes: ['010110100011110001110001', '010110100011110001111110'],
    endS: 86_400,
    said: { on: 'open', off: 'closed' },
    receivers: [],
  }
  test('its address is what its codes share, its two codes are the two states, and nothing stands against it', () => {
    const sender = senderFrom(learnt)
    expect(sender.address).toBe('01011010001111000111....')
    expect(sender.signals.it).toMatchObject({
      kind: 'state',
      on: learnt.codes[0],
      off: learnt.codes[1],
      then: 'unknown',
    })
    expect(senderFault(sender, latch)).toBeNull()
    expect(senderFault(sender, { ...latch, bits: 12 })?.refused).toMatch(/12 bits/)
  })
  test('a sender of one code is known by all of it, and a neighbour’s that shares twenty bits is not it', () => {
    const bell = senderFrom({ ...learnt, becomes: 'event', codes: [learnt.codes[0] ?? ''] })
    expect(bell.address).toBe(learnt.codes[0])
    expect(overlap(bell.address, learnt.codes[1] ?? '')).toBe(false)
  })
  test('no two codes of one signal overlap, whatever was learnt', () => {
    const code = fc.nat(4095).map((n) => `010110100011${n.toString(2).padStart(12, '0')}`)
    fc.assert(
      fc.property(fc.uniqueArray(code, { minLength: 2, maxLength: 8 }), (codes) => {
        expect(senderFault(senderFrom({ ...learnt, becomes: 'keys', codes }), latch)).toBeNull()
      }),
    )
  })
})

describe('what a node is given', () => {
  const [one, two] = ['3b5f8d16-6c20-4d7e-a1f9-4e8c7b2d0a63', '3b5f8d16-6c20-4d7e-a1f9-4e8c7b2d0a64']
  const shop: Shop = {
    ...emptyShop('3b5f8d16-6c20-4d7e-a1f9-4e8c7b2d0a65'),
    families: { latch },
    senders: { s1: doorSender(1, [two, one]) },
  }
  const nodes = [
    { id: one, slug: 'one' },
    { id: two, slug: 'two' },
  ]
  test('its rank and the others by their names; who is gone leaves no gap; who carries nothing gets nothing', () => {
    expect(airOf(one, shop, nodes)?.senders).toMatchObject([{ slug: 'door-1', rank: 1, others: ['two'] }])
    expect(airOf(two, shop, nodes)?.senders[0]?.rank).toBeUndefined()
    expect(airOf(one, shop, nodes.slice(0, 1))?.senders[0]).not.toHaveProperty('others')
    expect(airOf('3b5f8d16-6c20-4d7e-a1f9-4e8c7b2d0a66', shop, nodes)).toBeNull()
  })
})

test('a burst two gateways heard is one arrival, and codes of one address are one sender', () => {
  const codes = ['010110100011110001110001', '010110100011110001111110']
  const heard = inTheAir([
    { atMs: 1000, by: 'a', family: latch, code: codes[0] ?? '' },
    { atMs: 1300, by: 'b', family: latch, code: codes[0] ?? '' },
    { atMs: 9000, by: 'b', family: latch, code: codes[1] ?? '' },
  ])
  expect(heard).toMatchObject([{ address: addressOf(latch, codes[0] ?? ''), by: { a: 1, b: 2 }, codes }])
  expect(heard[0]?.arrivals.map((a) => a.atMs)).toEqual([1000, 9000])
})

describe('codes that change with every press', () => {
  test('are told as such after four presses, whatever neighbours say meanwhile', () => {
    const random = seeded(12)
    const other = { ...latch, name: 'foreign', bits: 32 }
    for (let n = 0; n < 40; n++) {
      const presses = Array.from({ length: 4 + (n % 4) }, (_, i) => ({
        atMs: 20_000 + 6000 * i + 2000 * random(),
        step: 0,
      }))
      const neighbours = Array.from({ length: 6 }, (_, i) => ({
        atMs: 90_000 * random(),
        by: 'a',
        family: latch,
        code: (0x5a3c71 + (i % 3) * 4096).toString(2).padStart(24, '0'),
      }))
      const answers = presses.map((p) => ({
        atMs: p.atMs + 300 * random(),
        by: 'a',
        family: other,
        code: codeOf(other, random),
      }))
      const found = changingCodes(presses, inTheAir([...neighbours, ...answers]), 90_000)
      expect(found).toEqual({ family: 'foreign', answered: presses.length })
      expect(changingCodes(presses.slice(0, 3), inTheAir([...neighbours, ...answers]), 90_000)).toBeNull()
      expect(changingCodes(presses, inTheAir(neighbours), 90_000)).toBeNull()
    }
  })

  test('are not seen where a sender says the same each time, or where others come and go', () => {
    const random = seeded(13)
    const presses = Array.from({ length: 6 }, (_, i) => ({ atMs: 20_000 + 6000 * i, step: 0 }))
    const same = presses.map((p) => ({ atMs: p.atMs + 200, by: 'a', family: latch, code: '0101'.repeat(6) }))
    expect(changingCodes(presses, inTheAir(same), 90_000)).toBeNull()
    const busy = Array.from({ length: 40 }, () => ({
      atMs: 60_000 * random(),
      by: 'a',
      family: latch,
      code: codeOf(latch, random),
    }))
    expect(changingCodes(presses, inTheAir(busy), 90_000)).toBeNull()
  })
})

test('a cadence is the middle of the intervals; silence is judged by the long ones, or by what was said', () => {
  const random = seeded(8)
  const times: number[] = []
  for (let at = 0; times.length < 200; at += 60_000 + 5000 * normal(random)) times.push(at)
  const cadence = cadenceOf(times)
  expect(Math.abs((cadence.usualS ?? 0) - 60)).toBeLessThan(2)
  const last = times.at(-1) ?? 0
  expect(isSilent(last, 0, cadence, last + 150_000)).toBe(false)
  expect(isSilent(last, 0, cadence, last + 250_000)).toBe(true)
  expect(isSilent(last, 100, cadence, last + 101_000)).toBe(true)
  expect(cadenceOf([1, 2, 3])).toEqual({ usualS: null, mostlyS: null })
})
