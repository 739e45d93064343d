import { expect, test } from 'vitest'
import { goneReasons, isGone, type Silence } from '../../src/core/publish/gone'

const NOW = 1_800_000_000
const UP = { up: true, why: null }
const health = { dbm: -60, uptimeS: 5000, freeB: 1, supplyV: null, restart: 'power', revision: 1 }
const node = (over: Partial<Silence> = {}): Silence => ({
  status: { is: 'offline' },
  heardAtS: NOW - 240,
  health,
  network: 'house',
  ...over,
})
const online = node({ status: { is: 'online' } })
const first = (n: Silence, others: Silence[] = [online], broker = UP) => goneReasons(n, others, broker, NOW)[0]?.words

test('gone is who was cut off or overslept, not who never came, is here or sleeps as said', () => {
  const asleep = (back: number) => node({ status: { is: 'asleep', for: 600, back } })
  expect(
    [node(), asleep(NOW - 61), asleep(NOW - 59), online, node({ status: null })].map((n) => isGone(n, NOW)),
  ).toEqual([true, true, false, false, false])
})

test('the likeliest reason comes first: broker, network, supply, radio, sleep, and the cut line last', () => {
  const weak = { ...health, dbm: -86 }
  expect(first(node(), [online], { up: false, why: 'refused' } as never)).toMatch(/broker itself.*refused/)
  expect(first(node({ health: weak }), [node(), node()])).toMatch(/Every node of network “house”/)
  expect(first(node({ health: weak }), [node({ network: 'yard' }), online])).toMatch(/−86 dBm/)
  expect(first(node({ health: { ...weak, uptimeS: 40 } }))).toMatch(/power for only 40 s/)
  expect(first(node({ health: { ...health, restart: 'watchdog' } }))).toMatch(/stood still or crashed/)
  expect(first(node({ status: { is: 'asleep', for: 60, back: NOW - 600 } }))).toMatch(/has not come back/)
  expect(first(node())).toMatch(/without a goodbye/)
  expect(goneReasons(online, [], UP, NOW)).toEqual([])
  expect(goneReasons(node({ health: weak }), [online], UP, NOW)).toHaveLength(2)
})
