import { expect, test } from 'vitest'
import { trainOf, FORMS } from '../../standins/world/radioSenders'
import { airSource } from '../../src/core/model/airSource'
import { emptyShop } from '../../src/core/shop/shop'
import { surroundings } from '../../src/core/surroundings/surroundings'
import { after, blank } from '../support/designs'
import { modelledBoard, planned } from '../support/modelledBoard'
import { doorSender } from '../support/sendersAround'
import { latch } from '../support/trains'

const KEY = '110000001111111111100001'
const rule = (ruleId: string, from: string, when: boolean | { says: string }, does: boolean | 'toggle') => ({
  kind: 'set-rule' as const,
  ruleId,
  rule: { from, when, forS: 0, to: 'slamp', do: does, works: 'always' as const },
})
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
      partId: 'lamp',
      part: 'relay-module-low',
      label: 'Lamp',
      signals: [{ id: 'slamp', channel: 'switch' }],
    },
    rule('r1x', airSource('door', 'door'), true, true),
    rule('r2x', airSource('door', 'door'), false, false),
    rule('r3x', airSource('keys', 'press'), { says: 'up' }, 'toggle'),
  ),
)
const shop = {
  ...emptyShop('3b5f8d16-6c20-4d7e-a1f9-4e8c7b2d0a65'),
  families: { latch },
  senders: {
    door: doorSender(0, [design.id]),
    keys: {
      ...doorSender(1, [design.id]),
      address: `${KEY.slice(0, 20)}....`,
      signals: { press: { kind: 'event' as const, order: 0, name: 'press', slug: 'press', words: { [KEY]: 'up' } } },
    },
  },
}
const around = surroundings(design, shop, [{ id: design.id, slug: design.slug }])
const b = await modelledBoard(design, { deviceDir: 'build/device', around, host: '192.0.2.9' })

test('a door and a key of a remote switch a lamp on the board that hears them, and no broker is there', () => {
  const say = (code: string) => {
    b.board.hear(trainOf(FORMS.latch, code, 6, () => 0.5))
    b.pass(1500)
  }
  const { on, off } = shop.senders.door.signals.door as { on: string; off: string }
  b.broker.up = false
  b.pass(5000)
  const lamp: boolean[] = []
  // What is said first is where a rule begins to look.
  for (const code of [off, on, off, KEY, KEY, KEY, on, off]) {
    say(code)
    lamp.push(b.board.relayOn())
  }
  expect(lamp).toEqual([false, true, false, true, false, true, true, false])
})
