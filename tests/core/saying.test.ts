import { describe, expect, test } from 'vitest'
import { applyEdit } from '../../src/core/edits/apply'
import { airSource } from '../../src/core/model/airSource'
import { fitsFamily } from '../../src/core/radio/subghz/family'
import { codesOfSender, madeCodes } from '../../src/core/model/codesToSay'
import { compile } from '../../src/core/nodefile/compile'
import { importNodeFile } from '../../src/core/nodefile/importNodeFile'
import { emptyShop, type Shop } from '../../src/core/shop/shop'
import { runChecks } from '../../src/core/checks/runChecks'
import { surroundings } from '../../src/core/surroundings/surroundings'
import { seeded } from '../support/chance'
import { after, blank, catalog } from '../support/designs'
import { planned } from '../support/modelledBoard'
import { doorSender } from '../support/sendersAround'
import { latch, madeUpFamily } from '../support/trains'
import type { EditBody } from '../../src/core/edits/edit'
import type { Design } from '../../src/core/model/design'

const broker = { host: '192.0.2.1', port: 1883, root: 'vn' }
const part = (partId: string, kind: string, channel: string): EditBody => ({
  kind: 'add-part',
  partId,
  part: kind,
  label: partId,
  signals: [{ id: `s${partId}`, channel, slug: partId }],
})
const condition = (signalId: string, set: object): EditBody => ({ kind: 'condition', signalId, set }) as EditBody
const why = (design: Design, edit: EditBody) => {
  const applied = applyEdit(design, edit, catalog)
  return applied.ok ? null : applied.reason
}

describe('what a transmitter says', () => {
  const voice = planned(after(blank('board-c6-32'), part('voice', 'transmitter-subghz', 'send')))
  const [on, off] = ['0'.repeat(24), '1'.repeat(24)]

  test('made-up codes are of their family, differ from each other, and are of no address that is taken', () => {
    const random = seeded(5)
    for (let n = 0; n < 60; n++) {
      const family = madeUpFamily(random, n)
      const taken: string[] = []
      for (let k = 0; k < 20; k++) {
        const codes = madeCodes(family, taken, k % 2 === 0, random)
        const both = [codes.on, ...(codes.off === null ? [] : [codes.off])]
        for (const code of both) expect(fitsFamily(family, code)).toBe(true)
        expect(new Set([...both, ...taken]).size).toBe(both.length + taken.length)
        taken.push(...both)
      }
    }
  })

  test('as a sender that has been learnt says it, where it is known whole', () => {
    expect(codesOfSender(doorSender(1, []))).toEqual([
      {
        words: 'open, closed',
        on: expect.stringMatching(/0001$/) as string,
        off: expect.stringMatching(/1110$/) as string,
      },
    ])
  })

  test('codes that change, of another length, or the same for on and off are refused; so is any other part', () => {
    const says = { family: latch, on, off }
    const set = (of: object) => why(voice, condition('svoice', { says: { ...says, ...of } }))
    expect(set({})).toBeNull()
    expect(set({ family: { ...latch, rolling: true } })).toMatch(/change with every press/)
    expect(set({ on: '01' })).toMatch(/24 bits/)
    expect(set({ on: off })).toMatch(/on and off/)
    const lamp = after(voice, part('lamp', 'relay-module-low', 'switch'))
    expect(why(lamp, condition('slamp', { says }))).toMatch(/no transmitter/)
  })

  test('one transmitter, several things: each compiled with its own codes, in whole µs', () => {
    const design = after(
      voice,
      { kind: 'add-signal', partId: 'voice', signal: { id: 'sbell', channel: 'send', slug: 'bell' } },
      condition('svoice', { says: { family: latch, on, off } }),
      condition('sbell', { says: { family: latch, on: off, off: null } }),
    )
    const made = compile(
      design,
      surroundings(design, emptyShop('3b5f8d16-6c20-4d7e-a1f9-4e8c7b2d0a65')),
      catalog,
      broker,
      1,
    )
    expect(made.ok && made.compiled.file.signals).toMatchObject([
      { slug: 'voice', permille: 100, says: { on, off, repeats: 6, family: { t: 350, high: 350, gap: 10_850 } } },
      { slug: 'bell', says: { on: off } },
    ])
  })
})

describe('rules that wait for a sender', () => {
  const bench = (board = 'board-c6-32') =>
    planned(after(blank(board), part('ear', 'receiver-subghz', 'heard'), part('pump', 'relay-module-low', 'switch')))
  const shop = (receivers: string[]): Shop => ({
    ...emptyShop('3b5f8d16-6c20-4d7e-a1f9-4e8c7b2d0a65'),
    families: { latch },
    senders: {
      door: doorSender(0, receivers),
      keys: {
        ...doorSender(1, receivers),
        signals: {
          press: { kind: 'event', order: 0, name: 'press', slug: 'press', words: { ['1'.repeat(24)]: 'up' } },
        },
      },
    },
  })
  const rule = (from: string, when: object | boolean | null): EditBody =>
    ({
      kind: 'set-rule',
      ruleId: 'r1x',
      rule: { from, when, forS: 0, to: 'spump', do: 'toggle', works: 'always' },
    }) as EditBody
  const compiled = (design: Design, receivers = [design.id]) =>
    compile(design, surroundings(design, shop(receivers)), catalog, broker, 1)
  const reasons = (design: Design, receivers?: string[]) => {
    const made = compiled(design, receivers)
    return made.ok ? [] : made.reasons
  }
  const opens = after(bench(), rule(airSource('door', 'door'), true))

  test('are in the file as SENDER/SIGNAL, follow the sender’s name, and come back from an edited file', () => {
    const press = after(bench(), rule(airSource('keys', 'press'), { says: 'up' }))
    for (const [design, from, when] of [
      [opens, 'door-0/door', true],
      [press, 'door-1/press', 'up'],
    ] as const) {
      const made = compiled(design)
      expect(made.ok && made.compiled.file.rules).toEqual([{ from, when, to: 'pump', do: 'toggle' }])
      if (!made.ok) continue
      const edited = made.compiled.text.replace('"do":"toggle"', '"do":true')
      const back = importNodeFile(edited, design, surroundings(design, shop([design.id])), catalog, broker)
      expect(back.ok && Object.values(back.design.rules)).toEqual([{ ...design.rules.r1x, do: true }])
    }
  })

  test('of a sender that is not carried, forgotten, or never says that, and on a board too small: said, not left out', () => {
    expect(reasons(opens, [])).toEqual([expect.stringMatching(/does not carry/)])
    expect(reasons(after(bench(), rule(airSource('gone', 'door'), true)))).toEqual([expect.stringMatching(/not carry/)])
    expect(reasons(after(bench(), rule(airSource('keys', 'press'), { says: 'down' })))).toEqual([
      expect.stringMatching(/never says: it says up/),
    ])
    expect(reasons(after(bench(), rule(airSource('keys', 'press'), true)))).toEqual([
      expect.stringMatching(/never says/),
    ])
    expect(reasons(after(bench('board-8266-16'), rule(airSource('door', 'door'), true)))).toEqual([
      expect.stringMatching(/no memory to understand one/),
    ])
    expect(why(bench(), rule(airSource('door', 'door'), { above: 3 }))).toMatch(/never does that/)
  })

  test('a node that is named as receiver and cannot be one is told, and so is a transmitter at the smallest board', () => {
    const said = (rule: string, design: Design, receivers: string[] = []) =>
      runChecks(design, catalog, undefined, surroundings(design, shop(receivers)))
        .filter((f) => f.rule === rule)
        .map((f) => f.sentence)
    const [small, deaf] = [
      bench('board-8266-16'),
      planned(after(blank('board-c6-32'), part('pump', 'relay-module-low', 'switch'))),
    ]
    expect(said('senders-not-carried', small, [small.id])).toEqual([expect.stringMatching(/no memory/)])
    expect(said('senders-not-carried', deaf, [deaf.id])).toEqual([expect.stringMatching(/it has none/)])
    expect(said('senders-not-carried', bench(), [bench().id])).toEqual([])
    expect(said('senders-not-carried', small)).toEqual([])
    const voice = after(blank('board-8266-16'), part('voice', 'transmitter-subghz', 'send'))
    expect(said('cannot-say', voice)).toEqual([expect.stringMatching(/no room/)])
    expect(said('cannot-say', after(blank(), part('voice', 'transmitter-subghz', 'send')))).toEqual([])
  })

  test('go with the output they act on, and stay when a signal beside them goes', () => {
    expect(after(opens, { kind: 'remove-signal', signalId: 'sear' }).rules).toHaveProperty('r1x')
    expect(after(opens, { kind: 'remove-signal', signalId: 'spump' }).rules).toEqual({})
  })
})
