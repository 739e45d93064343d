import { describe, expect, test } from 'vitest'
import { train } from '../../standins/world/radioSenders'
import { after, blank } from '../support/designs'
import { modelledBoard, planned } from '../support/modelledBoard'

// The smallest chip class, as its interpreter documents itself: what is missing there is missing here.
const design = planned(
  after(
    blank('board-8266-16'),
    { kind: 'add-part', partId: 'lid', part: 'contact-reed', label: 'Lid', signals: [{ id: 'slid', channel: 'open' }] },
    {
      kind: 'add-part',
      partId: 'level',
      part: 'thermistor',
      label: 'Oven',
      signals: [{ id: 'slevel', channel: 'temperature' }],
    },
    {
      kind: 'add-component',
      componentId: 'rr1',
      component: { type: 'pull', line: 'level.a', names: ['R1'], level: 'high', ohm: 10_000, tolerance: 0.01 },
    },
    { kind: 'add-part', partId: 'lamp', part: 'led-pwm', label: 'Lamp', signals: [{ id: 'slamp', channel: 'light' }] },
    {
      kind: 'add-part',
      partId: 'ear',
      part: 'receiver-subghz',
      label: 'Ear',
      signals: [{ id: 'sear', channel: 'heard' }],
    },
  ),
)
const b = await modelledBoard(design, { deviceDir: 'build/device-small' })
const up = () => b.broker.connected && b.heard('status').at(-1) === '{"is":"online"}'

describe('the 8266-class', () => {
  test('has no pull-down, one analog input without a number, one argument less for its watchdog; the node comes up all the same', () => {
    expect(b.ask('import machine\nprint(hasattr(machine.Pin, "PULL_DOWN"), hasattr(machine.ADC, "ATTN_11DB"))')).toBe(
      'False False',
    )
    expect(
      b.ask(
        'import machine\ntry:\n  machine.ADC(machine.Pin(17))\nexcept TypeError as e:\n  print("refused")\ntry:\n  machine.WDT(timeout=8000)\nexcept TypeError as e:\n  print("refused")',
      ),
    ).toBe('refused\nrefused')
    b.until(up, 20_000)
    b.pass(4000)
    // Every input is alive, the analog one too.
    for (const leaf of ['slid', 'slevel', 'slamp'].map((id) => design.signals[id]?.slug ?? ''))
      expect(b.heard(leaf).at(-1), leaf).not.toMatch(/^(undefined|null)$/)
  })

  test('its own access point is off', () => expect(b.board.accessPoint).toBe(false))

  test('a lamp full on is really full on, and its outputs were begun without a wrong period', () => {
    b.command('light', 100)
    b.until(() => b.board.shareOf('light') === 1, 3000)
    b.command('light', 50)
    b.until(() => Math.abs(b.board.shareOf('light') - 0.5) < 0.01, 3000)
    b.command('light', 0)
    b.until(() => b.board.shareOf('light') === 0, 3000)
    expect(b.board.blips).toBe(0)
  })

  test('a burst from the air arrives whole through the hard interrupt, which asks for no memory', () => {
    const before = b.heard('rx/subghz').length
    b.command('rx', { id: 'ears', forS: 60 })
    b.until(() => b.heard('rx/done').length > 0, 5000)
    b.board.hear(train(0x5a3c71, 6, () => 0.4))
    b.pass(400)
    const frames = b
      .heard('rx/subghz')
      .slice(before)
      .map((t) => JSON.parse(t) as { us: number[] })
    expect(frames.length).toBeGreaterThanOrEqual(4)
    const sent = train(0x5a3c71, 1, () => 0.4).slice(0, 49)
    for (const f of frames) f.us.forEach((us, i) => expect(Math.abs(us - (sent[i] ?? 0))).toBeLessThan(30))
    expect(b.lines()).not.toMatch(/MemoryError/)
  })

  test('with that interrupt taken for a soft one it would not have been told apart: the handler without memory is what is tested', () => {
    expect(
      b.ask(
        'import micropython\ndef f(p):\n  return [1, 2, 3]\nmicropython.heap_lock()\ntry:\n  f(1)\n  print("no")\nexcept MemoryError:\n  print("refused")\nfinally:\n  micropython.heap_unlock()'
          .replace(/^/gm, '  ')
          .replace(/^/, 'def g():\n')
          .concat('\ng()'),
      ),
    ).toBe('refused')
  })

  test('its sleep is no longer than it counts: 80 minutes would wrap to 8', () => {
    b.ask('import vn.rest\ntry:\n  vn.rest.sleep(80 * 60000)\nexcept BaseException:\n  pass')
    const minutes = b.until(() => !b.board.asleep, 80 * 60_000, 10_000) / 60_000
    expect(minutes).toBeGreaterThan(70)
    expect(minutes).toBeLessThanOrEqual(71.1)
  })

  test('why it started, by this port’s own numbers', () => {
    b.board.power('button')
    b.until(() => b.heard('health').some((t) => t.includes('reset button')), 40_000)
    b.board.power('watchdog')
    b.until(() => b.heard('health').some((t) => t.includes('"watchdog"')), 60_000)
    b.until(() => b.heard('fault').some((t) => t.includes('its watchdog started it again')), 5000)
  })
})
