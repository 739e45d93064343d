import { describe, expect, test } from 'vitest'
import { after, blank } from '../support/designs'
import { modelledBoard, planned } from '../support/modelledBoard'

const design = planned(
  after(
    blank('board-32-30'),
    {
      kind: 'add-part',
      partId: 'bell',
      part: 'button-ground',
      label: 'Bell',
      signals: [{ id: 'sbell', channel: 'press' }],
    },
    { kind: 'set-part', partId: 'bell', setting: 'wakes', value: 'yes' },
    { kind: 'sleep', everyS: 900, listenS: 1 },
  ),
)
const b = await modelledBoard(design)
const status = () => b.heard('status').at(-1) ?? ''
const asleep = () => b.board.asleep

describe('a sleeper of the 32-class', () => {
  test('says goodbye before its radio goes off: no last will over “asleep”', () => {
    b.until(asleep, 60_000)
    expect(status()).toMatch(/"is": ?"asleep"/)
    b.pass(300_000, 1000)
    expect(status()).toMatch(/"is": ?"asleep"/)
  })

  test('a press ends the sleep, pulled up while the chip is off, and is told as the press that it is', () => {
    const before = b.heard(design.signals.sbell?.slug ?? '').length
    b.board.press(150, design.signals.sbell?.slug)
    b.until(() => !asleep(), 2000)
    expect(b.board.starts.at(-1)).toBe('woke')
    b.until(() => b.heard(design.signals.sbell?.slug ?? '').length > before, 20_000)
    expect(b.heard(design.signals.sbell?.slug ?? '').at(-1)).toBe('"single"')
    b.until(asleep, 60_000)
    expect(b.heard(design.signals.sbell?.slug ?? '').length).toBe(before + 1)
  })

  test('by its timer it wakes without a word of a press', () => {
    const before = b.heard(design.signals.sbell?.slug ?? '').length
    b.until(() => !asleep(), 950_000, 1000)
    b.until(asleep, 60_000)
    expect(b.heard(design.signals.sbell?.slug ?? '').length).toBe(before)
  })

  test('the control: a radio that goes off at once leaves the will behind', () => {
    b.until(() => !asleep(), 950_000, 1000)
    b.ask('_node.sleep._go(_node) if False else None\nimport vn.mqtt\nvn.mqtt.Client.leave = lambda self, now: None')
    b.until(asleep, 60_000)
    expect(status()).toMatch(/"is": ?"offline"/)
  })
})
