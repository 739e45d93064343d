import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { timeAnswer } from '../../standins/world/timeServer'
import { after, blank } from '../support/designs'
import { modelledBoard, planned } from '../support/modelledBoard'

// The time of day without the product: asked for by SNTP, the broker's word second. No product runs here.
const design = planned(
  after(blank('board-32-30'), {
    kind: 'add-part',
    partId: 'rel',
    part: 'relay-module-high',
    label: 'Relay',
    signals: [{ id: 'srel', channel: 'switch' }],
  }),
)
let answering: readonly string[] = []
const b = await modelledBoard(design, {
  timeServers: () => answering,
  names: { 'time.house': '192.0.2.9' },
  around: {
    place: null,
    network: { name: 'a', hidden: false, band: '2.4', timeServer: 'time.house' },
    told: {},
    air: null,
  },
})
const slug = design.signals.srel?.slug ?? ''
const nowS = () => Math.floor(b.now() / 1000)
const clock = () => JSON.parse(b.heard('health').at(-1) ?? '{}').clock
let n = 0
/** What the node answers to a command that counts until this moment. */
function answer(untilS: number): { result: string; reason?: string } {
  const id = `c${(n += 1)}`
  b.command(slug, { value: true, id, until: untilS })
  b.until(() => b.heard(`${slug}/done`).some((d) => d.includes(id)), 5000)
  return JSON.parse(b.heard(`${slug}/done`).find((d) => d.includes(id)) ?? '{}')
}

describe('a node whose product is stopped', () => {
  test('knows no time while nobody answers for it, and says so', () => {
    b.until(() => b.broker.connected, 60_000)
    b.pass(20_000, 100)
    expect(answer(nowS() + 60)).toMatchObject({ result: 'refused', reason: 'the clock is not set yet' })
    expect(clock()).toBeUndefined()
  })

  test('takes the broker’s word for it, until it has asked by itself', () => {
    b.broker.tell('vn/time', String(nowS()))
    b.until(() => answer(nowS() + 60).result === 'done', 5000)
    b.until(() => clock()?.by === 'broker', 60_000, 100)
    answering = ['192.0.2.9']
    b.until(() => clock()?.by === 'sntp', 600_000, 500)
    expect(answer(nowS() + 5)).toMatchObject({ result: 'done' })
    expect(answer(nowS() - 5)).toMatchObject({ result: 'refused', reason: 'too late' })
    // Somebody else's word an hour off changes nothing any more.
    b.broker.tell('vn/time', String(nowS() - 3600))
    b.pass(2000, 100)
    expect(answer(nowS() - 5)).toMatchObject({ result: 'refused', reason: 'too late' })
  })

  test('asks again every six hours, and says how wrong its clock had gone', () => {
    b.pass(6.2 * 3_600_000, 5000)
    b.until(() => typeof clock()?.ppm === 'number', 120_000, 500)
    expect(Math.abs(clock().ppm)).toBeLessThanOrEqual(50)
    expect(clock().ageS).toBeLessThan(1000)
    expect(answer(nowS() + 3)).toMatchObject({ result: 'done' })
  }, 60_000)
})

describe('an answer for the time', () => {
  /** As the node reads it: seconds since 1970, or null. */
  const read = (bytes: Buffer, mark: Buffer, rtt = 0) =>
    JSON.parse(
      b.ask(
        `import binascii, json\nfrom vn import clock as _c\nprint(json.dumps(_c.answer(binascii.unhexlify('${bytes.toString('hex')}'), binascii.unhexlify('${mark.toString('hex')}'), ${rtt})))`,
      ),
    ) as number | null
  const question = (mark: Buffer) => Buffer.concat([Buffer.from([0x23]), Buffer.alloc(39), mark])
  const mark = Buffer.from('0102030405060708', 'hex')

  test('is read to the nearest second, on both sides of the year in which the count begins anew', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2024-01-01T00:00:00Z'), max: new Date('2099-12-31T23:59:59Z'), noInvalidDate: true }),
        fc.integer({ min: 0, max: 1900 }),
        (at, rtt) => {
          const got = read(timeAnswer(question(mark), at.getTime()) ?? Buffer.alloc(0), mark, rtt)
          expect(Math.abs((got ?? 0) - (at.getTime() + rtt / 2) / 1000)).toBeLessThanOrEqual(0.51)
        },
      ),
      { numRuns: 60 },
    )
    // 2024-01-01 is 45 290 days after 1900-01-01; 2036-02-07 06:28:16 is second 0 of the second count.
    const fixed = Buffer.alloc(48)
    fixed.set([0x24, 1])
    mark.copy(fixed, 24)
    fixed.writeUInt32BE(45_290 * 86_400, 40)
    expect(read(fixed, mark)).toBe(Date.UTC(2024, 0, 1) / 1000)
    fixed.writeUInt32BE(0, 40)
    expect(read(fixed, mark)).toBe(Date.UTC(2036, 1, 7, 6, 28, 16) / 1000)
  })

  test('that is none, answers another question or comes from a clock nobody set, counts for nothing', () => {
    const right = timeAnswer(question(mark), Date.UTC(2026, 10, 27)) ?? Buffer.alloc(0)
    const changed = (at: number, to: number) => {
      const c = Buffer.from(right)
      c[at] = to
      return c
    }
    for (const wrong of [
      right.subarray(0, 47),
      changed(0, 0x23),
      changed(0, 0xe4),
      changed(1, 0),
      changed(1, 16),
      changed(24, 9),
      Buffer.alloc(0),
    ])
      expect(read(wrong, mark)).toBeNull()
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => read(Buffer.from(bytes), mark) === null),
      { numRuns: 40 },
    )
  })
})
