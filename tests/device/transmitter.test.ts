import { describe, expect, test } from 'vitest'
import { FORMS, trainOf } from '../../standins/world/radioSenders'
import { after, blank } from '../support/designs'
import { modelledBoard, planned } from '../support/modelledBoard'
import { latch } from '../support/trains'

const [ON, OFF, RING] = ['010110100011110001110001', '010110100011110001111110', '110000001111111111100001']
const design = planned(
  after(
    blank('board-c6-32'),
    {
      kind: 'add-part',
      partId: 'voice',
      part: 'transmitter-subghz',
      label: 'Voice',
      signals: [{ id: 'socket', channel: 'send', name: 'Socket', slug: 'socket' }],
    },
    { kind: 'add-signal', partId: 'voice', signal: { id: 'bell', channel: 'send', name: 'Bell', slug: 'bell' } },
    { kind: 'set-part', partId: 'voice', setting: 'permille', value: '10' },
    { kind: 'condition', signalId: 'socket', set: { says: { family: latch, on: ON, off: OFF }, longestOnS: 20 } },
    { kind: 'condition', signalId: 'bell', set: { says: { family: latch, on: RING, off: null } } },
  ),
)
const b = await modelledBoard(design, { deviceDir: 'build/device' })
/** Codes of the frames said since, each as long as an independent description of the make has it, to the microsecond. */
const codesSince = (n: number) =>
  b.said.slice(n).map(({ us }) => {
    const found = [ON, OFF, RING].find((code) =>
      trainOf(FORMS.latch, code, 1, () => 0.5).every((u, i) => i === 49 || u === us[i]),
    )
    expect(us).toHaveLength(50)
    expect(us[49]).toBeGreaterThanOrEqual(10_850)
    return found ?? 'nothing'
  })
const answered = (leaf: string) => b.heard(`${leaf}/done`).length
function ask(leaf: string, value: boolean): Record<string, unknown> {
  const before = answered(leaf)
  b.command(leaf, { id: String(b.now()), value })
  b.until(() => answered(leaf) > before, 5000)
  return JSON.parse(b.heard(`${leaf}/done`).at(-1) ?? '{}') as Record<string, unknown>
}

describe('a node that switches far things by radio', () => {
  test('what may be on from before is switched off first; then as asked, for no longer than allowed', () => {
    b.until(() => b.broker.connected && b.heard('socket').length > 0, 20_000)
    b.pass(1000)
    expect([codesSince(0), b.heard('socket').at(-1)]).toEqual([Array(6).fill(OFF), 'false'])
    let from = b.said.length
    expect(ask('socket', true)).toMatchObject({ result: 'done' })
    b.until(() => b.heard('socket').at(-1) === 'true', 1000)
    b.pass(1000)
    expect(codesSince(from)).toEqual(Array(6).fill(ON))
    from = b.said.length
    const ms = b.until(() => b.heard('socket').at(-1) === 'false', 25_000)
    expect(ms).toBeGreaterThan(17_000)
    b.pass(1000)
    expect(codesSince(from)).toEqual(Array(6).fill(OFF))
    expect(b.heard('fault').some((t) => t.includes('longest on-time'))).toBe(true)
  })

  test('said on again and again it is on for no longer than allowed', () => {
    expect(ask('socket', true)).toMatchObject({ result: 'done' })
    const began = b.now()
    while (b.now() - began < 15_000) {
      b.pass(4000)
      ask('socket', true)
    }
    b.until(() => b.heard('socket').at(-1) === 'false', 8000)
    expect(b.now() - began).toBeLessThan(22_000)
  })

  test('another word takes the place of the one that is being said', () => {
    const from = b.said.length
    b.command('socket', { id: 'a', value: true })
    b.pass(40)
    b.command('socket', { id: 'b', value: false })
    b.pass(1500)
    const codes = codesSince(from)
    expect(codes.slice(-6)).toEqual(Array(6).fill(OFF))
    expect(codes.length).toBeLessThanOrEqual(12)
  })

  test('one code alone is a press: nothing stays on, off is refused, and so is a press within a press', () => {
    const from = b.said.length
    expect(ask('bell', true)).toMatchObject({ result: 'done' })
    expect(ask('bell', true)).toMatchObject({ result: 'refused', reason: 'it is being said already' })
    b.pass(1000)
    expect(b.heard('bell').slice(-2)).toEqual(['true', 'false'])
    expect(codesSince(from)).toEqual(Array(6).fill(RING))
    expect(ask('bell', false)).toMatchObject({ result: 'refused', reason: 'it has no code for off' })
  })

  test('in no hour on the air longer than it may, whoever asks; and what is on goes off all the same', () => {
    b.pass(3_660_000, 500)
    expect(ask('socket', true)).toMatchObject({ result: 'done' })
    let [done, refused] = [0, 0]
    for (let i = 0; i < 1000; i++) {
      if (ask('bell', true).result === 'done') done += 1
      else refused += 1
      b.pass(5000, 250)
      // Off is said after its longest time, and on again as long as there is time for both.
      if (i % 8 === 0) ask('socket', true)
    }
    expect([done > 20, refused > 500]).toEqual([true, true])
    b.pass(25_000)
    expect(b.heard('socket').at(-1)).toBe('false')
    const airMs = (us: readonly number[]) => us.slice(0, 49).reduce((a, u) => a + u, 10_850) / 1000
    let most = 0
    for (const { atMs } of b.said) {
      const hour = b.said.filter((s) => s.atMs > atMs - 3_600_000 && s.atMs <= atMs)
      most = Math.max(
        most,
        hour.reduce((sum, s) => sum + airMs(s.us), 0),
      )
    }
    expect(most).toBeLessThanOrEqual(36_000)
    expect(most).toBeGreaterThan(33_000)
  })
})
