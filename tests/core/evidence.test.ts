import fs from 'node:fs'
import { expect, test } from 'vitest'
import { designSchema } from '../../src/core/model/design'
import { evidenceOf, type Known, type OddSignal } from '../../src/core/publish/evidence'
import { exposureOf } from '../../src/core/publish/exposure'
import { catalog, slipTank } from '../support/designs'

const NOW = 1_800_000_000
const health = { dbm: -60, uptimeS: 5000, freeB: 1, supplyV: null, restart: 'power', revision: 1 }
const there = { status: { is: 'online' as const }, heardAtS: NOW - 2, health, network: 'house' }
const signal: OddSignal = {
  tag: 'L1',
  name: 'level',
  access: 'reading',
  part: 'Ranger',
  terminals: 'TRIG · ECHO',
  value: 412,
  atS: NOW - 1,
  everyS: 1,
  fault: null,
  inFile: true,
}
const known = (over: Partial<Known> = {}, odd: Partial<OddSignal> = {}): Known => ({
  node: { ...there, name: 'slip-tank', runs: 3 },
  others: [there],
  broker: { up: true, why: null },
  carries: 'carried',
  cable: null,
  signal: { ...signal, ...odd },
  ...over,
})
const told = (k: Known) => evidenceOf(k, NOW, (s) => `${Math.round(s)} s`)
const first = (k: Known) => told(k).causes[0]

test('where everything holds nothing is suspected, and every link says what it is known by', () => {
  const { links, causes } = told(known())
  expect(causes).toEqual([])
  expect(links.filter((l) => l.holds === false)).toEqual([])
  expect(links.map((l) => l.known).join('; ')).toMatch(
    /connected.*2 s ago.*online.*1 of 1 others.*revision 3.*yes.*412/,
  )
})

test('the cause that is named is the one that was put there, and the next measurement goes to its place', () => {
  const gone = { ...there, status: { is: 'offline' as const }, name: 'slip-tank', runs: 3 }
  expect(first(known({ broker: { up: false, why: 'refused' } }))?.words).toMatch(/broker itself/)
  expect(first(known({ node: gone, others: [{ ...there, status: { is: 'offline' } }] }))?.words).toMatch(/Every node/)
  const cable = { text: 'The network refuses its password.', wrong: true, next: 'Look at the password.' }
  expect(first(known({ node: gone, cable }))).toEqual({ words: cable.text, next: cable.next })
  expect(first(known({}, { inFile: false, value: undefined, atS: null }))?.next).toMatch(/Send/)
  expect(first(known({}, { fault: { what: 'no echo', atS: NOW - 5 }, value: null }))?.words).toMatch(/no echo/)
  expect(first(known({}, { value: null }))?.next).toMatch(/TRIG · ECHO/)
  expect(first(known({}, { atS: NOW - 60 }))?.words).toMatch(/not told/)
  expect(first(known({}, { access: 'event', value: undefined, atS: null }))?.next).toMatch(/Press it/)
  // A node that is gone explains its signals: none of them is suspected by itself.
  expect(told(known({ node: gone }, { value: null })).causes.every((c) => !c.words.includes('Ranger'))).toBe(true)
})

test('what can hurt is never exposed to voice, what is only read may be asked, presses are no answer', () => {
  const design = slipTank()
  const of = (name: string) =>
    exposureOf([{ id: design.id, design, place: null }], catalog, 'vn').find((e) => e.name.endsWith(name))
  expect(of('level')).toMatchObject({ voice: 'ask', others: 'show' })
  expect(of('press')).toMatchObject({ voice: 'no' })
  const mains = JSON.parse(fs.readFileSync('demo/designs/kiln-vent.json', 'utf8')) as unknown
  const kiln = designSchema.parse(mains)
  const vent = exposureOf([{ id: kiln.id, design: kiln, place: null }], catalog, 'vn').find((e) =>
    e.name.endsWith('extractor'),
  )
  expect(vent).toMatchObject({ voice: 'no', others: 'show' })
})
