import { describe, expect, test } from 'vitest'
import { train } from '../../standins/world/radioSenders'
import { after, blank } from '../support/designs'
import { modelledBoard, planned } from '../support/modelledBoard'

const design = planned(
  after(
    blank('board-rp2040-40'),
    {
      kind: 'add-part',
      partId: 'ear',
      part: 'receiver-subghz',
      label: 'Ear',
      signals: [{ id: 'sear', channel: 'heard' }],
    },
    {
      kind: 'add-part',
      partId: 'pump',
      part: 'relay-module-low',
      label: 'Pump',
      signals: [{ id: 'spump', channel: 'switch' }],
    },
    { kind: 'condition', signalId: 'spump', set: { longestOnS: 3600 } },
  ),
)
const b = await modelledBoard(design, { deviceDir: 'build/device' })
const up = () => b.broker.connected && b.heard('status').at(-1) === '{"is":"online"}'
const slug = design.signals.spump?.slug ?? ''

describe('the RP2040', () => {
  test('refuses a watchdog beyond 8 388 ms and a timer with a number; the node has both right', () => {
    expect(
      b.ask(
        'import machine\ntry:\n  machine.WDT(timeout=8389)\nexcept ValueError:\n  print("refused")\ntry:\n  machine.Timer(0)\nexcept ValueError:\n  print("refused")',
      ),
    ).toBe('refused\nrefused')
    b.until(up, 20_000)
  })

  test('edges are timed by its state machine, to the microsecond, whatever the program does', () => {
    b.command('rx', { id: 'ears', forS: 60 })
    b.until(() => b.heard('rx/done').length > 0, 5000)
    b.board.hear(train(0x1b90c4, 6, () => 0.4))
    b.pass(400)
    const frames = b.heard('rx/subghz').map((t) => JSON.parse(t) as { us: number[] })
    expect(frames.length).toBeGreaterThanOrEqual(4)
    const sent = train(0x1b90c4, 1, () => 0.4).slice(0, 49)
    for (const f of frames) f.us.forEach((us, i) => expect(Math.abs(us - (sent[i] ?? 0))).toBeLessThanOrEqual(6))
  })

  test('a hang with the pump on ends the pump: the watchdog starts the chip anew, and the node says why', () => {
    b.command(slug, true)
    b.until(() => b.board.relayOn(), 3000)
    b.board.hangs = true
    const ms = b.until(() => !b.board.relayOn(), 9000)
    expect(ms).toBeGreaterThan(7000)
    b.until(() => b.heard('fault').some((t) => t.includes('its watchdog started it again')), 30_000)
    expect(b.board.starts.at(-1)).toBe('watchdog')
  })

  test('a restart of its own is told as one, though the chip reports its watchdog', () => {
    b.ask('def _broken(now): raise ZeroDivisionError("boom")\n_node.step = _broken')
    b.until(() => b.board.starts.at(-1) === 'program', 20_000)
    b.until(() => b.heard('fault').some((t) => t.includes('ZeroDivisionError: boom')), 30_000)
    b.until(() => b.heard('health').at(-1)?.includes('"restart": "program"') ?? false, 40_000)
    expect(b.lines()).toMatch(/./)
  })
})
