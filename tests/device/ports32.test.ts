import { describe, expect, test } from 'vitest'
import { addressOf } from '../../standins/world/oneWireThermometer'
import { train } from '../../standins/world/radioSenders'
import type { EditBody } from '../../src/core/edits/edit'
import { after, blank } from '../support/designs'
import { modelledBoard, planned } from '../support/modelledBoard'

const probes: EditBody[] = ['t0x', 't1x', 't2x'].flatMap((partId): EditBody[] => [
  {
    kind: 'add-part',
    partId,
    part: 'thermometer-one-wire',
    label: `Probe ${partId}`,
    signals: [{ id: `s${partId}`, channel: 'temperature', slug: partId }],
  },
  { kind: 'set-bus', partId, bus: 'a' },
])
const design = planned(
  after(
    blank('board-c3-16'),
    ...probes,
    {
      kind: 'add-part',
      partId: 'gate',
      part: 'relay-module-low',
      label: 'Gate',
      signals: [{ id: 'sgate', channel: 'switch' }],
    },
    { kind: 'condition', signalId: 'sgate', set: { pulseS: 1 } },
    {
      kind: 'add-part',
      partId: 'air',
      part: 'climate-i2c-two',
      label: 'Air',
      signals: [{ id: 'sair', channel: 'temperature', slug: 'air' }],
    },
    {
      kind: 'add-part',
      partId: 'ear',
      part: 'receiver-subghz',
      label: 'Ear',
      signals: [{ id: 'sear', channel: 'heard' }],
    },
  ),
)
const gate = design.signals.sgate?.slug ?? ''
const NAMES: Record<string, string> = { 'hub.example': '192.0.2.9' }
let seed = 1
const random = () => (seed = (seed * 16_807) % 2_147_483_647) / 2_147_483_647
const b = await modelledBoard(design, { host: 'hub.example', names: NAMES, random })
const online = () => b.broker.connected && b.heard('status').at(-1) === '{"is":"online"}'

describe('the C3-class', () => {
  test('has two timers and no hard interrupt; the broker’s name is found without waiting for it', () => {
    expect(
      b.ask(
        'import machine\ntry:\n  machine.Timer(2)\nexcept ValueError:\n  print("refused")\ntry:\n  machine.Pin(4).irq(print, 2, hard=True)\nexcept TypeError:\n  print("refused")',
      ),
    ).toBe('refused\nrefused')
    b.until(online, 20_000)
    // The port’s own look-up blocks for five seconds.
    expect(b.board.longestModelledMs).toBeLessThan(30)
  })

  test('a name server that is silent: the address from before serves', () => {
    b.broker.setUp(false)
    delete NAMES['hub.example']
    b.pass(2000)
    b.broker.setUp(true)
    b.until(() => b.broker.arrivals.length > 0 && b.broker.connected, 90_000)
    NAMES['hub.example'] = '192.0.2.9'
  })

  test('the network goes: its driver lets nobody begin while it joins again by itself; asked in peace it comes back, without a restart', () => {
    const starts = b.board.starts.length
    b.board.airUp = false
    b.pass(60_000)
    expect(b.broker.connected).toBe(false)
    b.board.airUp = true
    b.until(() => b.broker.connected, 60_000)
    expect(b.board.starts.length).toBe(starts)
    // The control: asked while the driver is at it, it raises.
    b.board.airUp = false
    b.pass(200)
    expect(
      b.ask(
        'import network\nw = network.WLAN(0)\nw.config(reconnects=-1)\nw.disconnect()\nw.connect("a", "b")\ntry:\n  w.connect("a", "b")\nexcept OSError as e:\n  print(e)',
      ),
    ).toMatch(/Wifi Internal Error/)
    b.board.airUp = true
    b.until(() => b.broker.connected, 60_000)
  })

  test('a pulse ends by the timer while the program waits elsewhere, and nothing slow is begun meanwhile', () => {
    b.command(gate, true)
    b.until(() => b.board.relayOn(), 2000)
    const began = b.now()
    const asked = b.ask(
      '_s = [s for s in _node.signals if s.slug == "air"][0]\n_was = _s.step\n_calls = []\ndef _spy(now):\n  _calls.append(now)\n  return _was(now)\n_s.step = _spy',
    )
    expect(asked).toBe('')
    b.pass(800)
    expect(b.ask('print(len(_calls))')).toBe('0')
    b.until(() => !b.board.relayOn(), 2000)
    expect(b.now() - began).toBeLessThan(1150)
    b.pass(1000)
    expect(Number(b.ask('print(len(_calls))'))).toBeGreaterThan(0)
    b.ask('_s.step = _was')
  })

  test('its turns come late: the timer ends the pulse in between', () => {
    b.command(gate, true)
    b.until(() => b.board.relayOn(), 2000)
    // Somebody keeps the program’s own turn from looking; the timer still calls.
    b.ask('_g = [s for s in _node.signals if s.slug == ' + JSON.stringify(gate) + '][0]\n_g.step = lambda now: None')
    const ms = b.until(() => !b.board.relayOn(), 3000)
    expect(ms).toBeLessThan(1150)
    b.board.power()
    b.until(online, 30_000)
  })

  test('thermometers on one wire: unknown without addresses; found, and told apart by a warm hand', () => {
    expect(['t0x', 't1x', 't2x'].map((s) => b.heard(s).at(-1))).toEqual(['null', 'null', 'null'])
    const find = () => {
      const before = b.heard('find/done').length
      b.command('find', { id: `f${before}` })
      b.until(() => b.heard('find/done').length > before, 8000)
      return (JSON.parse(b.heard('find/done').at(-1) ?? '{}') as { found: { rom: string; celsius: number }[] }).found
    }
    const first = find()
    expect(first.map((f) => f.rom).sort()).toEqual(
      [1, 2, 3].map((n) => Buffer.from(addressOf(n)).toString('hex')).sort(),
    )
    b.board.warmByHand(1, 6)
    const second = find()
    const rise = second.map((f) => [f.rom, f.celsius - (first.find((o) => o.rom === f.rom)?.celsius ?? NaN)] as const)
    expect(rise.filter(([, k]) => k > 4).map(([rom]) => rom)).toEqual([Buffer.from(addressOf(2)).toString('hex')])
    expect(b.board.longestModelledMs).toBeLessThan(30)
  })

  test('a build without pins that wake is known for one', () => {
    expect(b.ask('import vn.rest\nprint(vn.rest.can_wake())')).toBe('False')
  })

  test('a bus held by a part that was cut off in the middle of a byte is clocked free', () => {
    b.until(() => Number(b.heard('air').at(-1)) > 0, 20_000)
    b.board.stuckClocks = 7
    b.until(() => b.heard('air').at(-1) === 'null' || b.board.stuckClocks === 0, 20_000)
    b.until(() => b.board.stuckClocks === 0, 20_000)
    const from = b.heard('air').length
    b.until(
      () =>
        b
          .heard('air')
          .slice(from)
          .some((t) => Number(t) > 0) || Number(b.heard('air').at(-1)) > 0,
      30_000,
    )
  })

  test('a code from the air comes through a short queue with late stamps: some repeats are spoilt, and what is lost is counted', () => {
    b.command('rx', { id: 'ears', forS: 60 })
    b.until(() => b.heard('rx/done').length > 0, 5000)
    b.board.hear(train(0x5a3c71, 6, () => 0.4))
    b.pass(400)
    const frames = b.heard('rx/subghz').map((t) => JSON.parse(t) as { us: number[] })
    // The sender is within 4 % of 350 or 1 050 µs; what is farther off came late through the queue.
    const late = frames.flatMap((f) => f.us).filter((us) => Math.min(Math.abs(us - 350), Math.abs(us - 1050)) > 60)
    expect(frames.length).toBeGreaterThan(0)
    expect(late.length).toBeGreaterThan(3)
    const bits = frames.map((f) =>
      Array.from({ length: 24 }, (_, i) => ((f.us[2 * i] ?? 0) > (f.us[2 * i + 1] ?? 0) ? 1 : 0)).reduce<number>(
        (n, x) => n * 2 + x,
        0,
      ),
    )
    expect(bits).toContain(0x5a3c71)
  })

  test('a start that fails switches outputs off first, says why on the console and to the broker, and waits longer each time', () => {
    b.ask("f = open('/secret.json', 'w')\nf.write('{')\nf.close()")
    const starts = b.board.starts.length
    b.board.power()
    b.pass(60_000)
    const tries = b.board.starts.length - starts
    expect(tries).toBeGreaterThan(2)
    expect(tries).toBeLessThan(7)
    expect(b.lines()).toMatch(/Traceback[\s\S]*vn crash 1, again in 2 s[\s\S]*vn crash 2, again in 4 s/)
    b.ask(
      `f = open('/secret.json', 'w')\nf.write(${JSON.stringify(JSON.stringify({ broker: { name: 'n', password: 'p' }, networks: { house: [{ name: 'a', password: 'b' }] }, key: '00'.repeat(48), n: 0 }))})\nf.close()`,
    )
    b.until(() => b.heard('fault').some((t) => t.includes('started again')), 400_000, 100)
  })
})
