import { type Family } from '../../src/core/radio/subghz/family'
import type { Sender } from '../../src/core/model/sender'
import type { Shop } from '../../src/core/shop/shop'

/** A sender of 24 bits with an open and a closed code, the n-th of its kind. */
export function doorSender(n: number, receivers: string[]): Sender {
  const address = (0x5a000 + 7919 * n).toString(2).padStart(20, '0').slice(-20)
  return {
    order: n,
    name: `Door ${n}`,
    slug: `door-${n}`,
    tag: `Z${n + 1}`,
    place: null,
    medium: 'subghz',
    family: 'latch',
    address: `${address}....`,
    everyS: 0,
    receivers,
    signals: {
      door: {
        kind: 'state',
        order: 0,
        name: 'door',
        slug: 'door',
        on: `${address}0001`,
        off: `${address}1110`,
        endS: 86_400,
        then: 'unknown',
        said: { on: 'open', off: 'closed' },
      },
    },
  }
}

/** The shop with so many door contacts, all heard by these nodes and nothing else. */
export function shopWithSenders(shop: Shop, receivers: string | string[], count: number): Shop {
  const { latch } = shop.families as { latch: Family }
  const senders = Array.from({ length: count }, (_, n) => [`d${n}x`, doorSender(n, [receivers].flat())] as const)
  return { ...shop, families: { latch }, senders: Object.fromEntries(senders) }
}
