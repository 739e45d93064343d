import Ajv from 'ajv'
import Ajv2020 from 'ajv/dist/2020'
import addFormats from 'ajv-formats'
import fc from 'fast-check'
import fs from 'node:fs'
import { createHash } from 'node:crypto'
import { createRequire } from 'node:module'
import { describe as group, expect, test } from 'vitest'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import { sha256Hex } from '../../src/core/hash/sha256Hex'
import { compile, packageText } from '../../src/core/nodefile/compile'
import { describe } from '../../src/core/publish/describe'
import { isOverdue, parseScalar } from '../../src/core/publish/payload'
import { splitTopic, topicsOf } from '../../src/core/publish/topics'
import { isCovered, matches } from '../../src/core/publish/topicFilter'
import { mayForward, mayPublish, maySubscribe } from '../../src/broker/access'
import { addPart, after, blank, catalog, PARTS, slipTank } from '../support/designs'
import { formats, rulesPage } from '../../scripts/formats'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

const broker = { host: '127.0.0.1', port: 1883, root: 'vn' }
const require = createRequire(import.meta.url)
const tdSchema: object = JSON.parse(
  fs.readFileSync(require.resolve('wot-thing-description-types/schema/td-json-schema-validation.json'), 'utf8'),
)
const designs = fc
  .array(fc.constantFrom(...PARTS), { maxLength: 6 })
  .map((kinds) => after(blank(), ...kinds.map((k, i) => addPart(`p${i}`, k))))

interface Form {
  href: string
  op: string
  'mqv:controlPacket': string
  'mqv:filter'?: string
  'mqv:topic'?: string
  'mqv:qos': string
  'mqv:retain': boolean
}
interface Described {
  id: string
  properties: Record<string, { forms: Form[]; unit?: string }>
  events?: Record<string, { forms: Form[] }>
}

group('the announcement', () => {
  const ajv = new Ajv({ strict: false, allErrors: true })
  addFormats(ajv)
  const validate = ajv.compile(tdSchema)

  test("is valid against the W3C's schema for every design, and a broken one is not", () => {
    fc.assert(
      fc.property(designs, (design) => {
        const ok = validate(describe(design, NO_SURROUNDINGS, catalog, broker))
        expect(validate.errors ?? []).toEqual([])
        expect(ok).toBe(true)
      }),
      { numRuns: 40 },
    )
    expect(validate({ ...describe(slipTank(), NO_SURROUNDINGS, catalog, broker), security: 7 })).toBe(false)
  })

  test("a threshold a command may shift is an action, valid against the W3C's schema, published and never retained", () => {
    const levels = { words: ['low', 'high'], cuts: [0.4], band: 0, holdS: [0, 0], unknown: null, on: 1, shift: 0.2 }
    const make = {
      kind: 'make-state' as const,
      signalId: 'sfull',
      of: 'slevel',
      name: 'Full',
      slug: 'full',
      letter: 'S',
    }
    const td = describe(after(slipTank(), { ...make, levels }), NO_SURROUNDINGS, catalog, broker)
    expect(validate(td) ? [] : validate.errors).toEqual([])
    expect(td.actions).toMatchObject({
      'full-shift': {
        input: { type: 'number', minimum: -0.2, maximum: 0.2, unit: 'm' },
        forms: [{ op: 'invokeaction', 'mqv:topic': 'vn/slip-tank/full/set', 'mqv:qos': '1', 'mqv:retain': false }],
      },
    })
  })

  test("the binding's own terms: one packet kind per form, its topic or filter, quality and retention as published", () => {
    const td = JSON.parse(JSON.stringify(describe(slipTank(), NO_SURROUNDINGS, catalog, broker))) as Described
    const topics = topicsOf('vn', 'slip-tank')
    const all = [...Object.values(td.properties), ...Object.values(td.events ?? {})].flatMap((p) => p.forms)
    for (const form of all) {
      expect(form.href).toBe('mqtt://127.0.0.1:1883')
      const subscribes = form['mqv:controlPacket'] === 'subscribe'
      expect(form['mqv:controlPacket']).toMatch(/^(subscribe|publish)$/)
      expect('mqv:filter' in form).toBe(subscribes)
      expect('mqv:topic' in form).toBe(!subscribes)
      expect(form.op).toBe(
        subscribes ? (td.events?.press?.forms.includes(form) ? 'subscribeevent' : 'observeproperty') : 'writeproperty',
      )
    }
    expect(td.properties.level?.forms).toMatchObject([{ 'mqv:filter': topics.signal('level'), 'mqv:retain': true }])
    expect(td.properties.level?.unit).toBe('mm')
    expect(td.properties.water?.unit).toBe('Cel')
    expect(td.properties.pump?.forms[1]).toMatchObject({
      'mqv:topic': topics.set('pump'),
      'mqv:qos': '1',
      'mqv:retain': false,
    })
    expect(td.events?.press?.forms[0]).toMatchObject({ 'mqv:retain': false, 'mqv:qos': '1' })
  })

  test('keeps its identity through a rename, leaves out what is not offered, and carries no secret', () => {
    const renamed = after(
      slipTank(),
      { kind: 'identify', name: 'Slip', slug: 'slip', place: 'yard' },
      { kind: 'publish', signalId: 'swater', set: { entity: false } },
    )
    const td = describe(renamed, NO_SURROUNDINGS, catalog, broker)
    expect(td.id).toBe(describe(slipTank(), NO_SURROUNDINGS, catalog, broker).id)
    expect(td.properties).not.toHaveProperty('water')
    expect(JSON.stringify(td)).not.toMatch(/password|secret/i)
  })
})

group('the node file', () => {
  test('is the same bytes for the same design, has the hash it says, and survives a round trip', () => {
    fc.assert(
      fc.property(designs, fc.integer({ min: 1, max: 999 }), (design, revision) => {
        const a = compile(design, NO_SURROUNDINGS, catalog, broker, revision)
        if (!a.ok) throw new Error(a.reasons.join())
        const b = compile(structuredClone(design), NO_SURROUNDINGS, catalog, broker, revision)
        expect(b.ok && b.compiled.text).toBe(a.compiled.text)
        expect(a.compiled.hash).toBe(createHash('sha256').update(a.compiled.text).digest('hex'))
        expect(canonicalJson(JSON.parse(a.compiled.text))).toBe(a.compiled.text)
        const lines = packageText({
          id: 'x',
          revision,
          hash: a.compiled.hash,
          text: a.compiled.text,
          td: a.compiled.td,
        }).split('\n')
        expect(lines).toHaveLength(3)
        expect(lines[1]).toBe(a.compiled.text)
      }),
      { numRuns: 30 },
    )
  })

  test('carries chip numbers, pulls, units and calibration where the runtime looks for them', () => {
    const design = after(slipTank(), {
      kind: 'calibrate',
      signalId: 'slevel',
      calibration: {
        recordId: '3f1f2a44-5d3a-4f44-9a53-6a2f9d1c0b7e',
        gain: 1.02,
        offset: 0.004,
        curve: null,
        span: null,
        expires: null,
        date: '2026-11-24',
        points: 2,
      },
    })
    const result = compile(design, NO_SURROUNDINGS, catalog, broker, 3)
    if (!result.ok) throw new Error(result.reasons.join())
    const by = Object.fromEntries(result.compiled.file.signals.map((s) => [s.slug, s]))
    expect(by.level).toMatchObject({
      driver: 'ranger',
      pins: { trig: 27, echo: 34 },
      chain: { gain: 1.02, offset: 0.004, mountM: 0.9, median: 5 },
      publish: { factor: 1000 },
    })
    expect(by.pump).toMatchObject({ pins: { in: 13 }, activeLow: true, longestOnS: 90 })
    expect(by.press).toMatchObject({ pull: 'up', debounceMs: 24 })
  })

  test('is refused with every reason while a line has no pin', () => {
    const result = compile({ ...slipTank(), plan: { pins: {}, basis: '' } }, NO_SURROUNDINGS, catalog, broker, 1)
    expect(result.ok).toBe(false)
    if (!result.ok)
      expect(result.reasons).toEqual([
        'L1: TRIG, ECHO of Ranger has no pin',
        'P1: IN of Pump relay has no pin',
        'B1: A of Button has no pin',
        'T1: DATA of Water probe has no pin',
      ])
  })

  test('the published schemas are those of the code, and the shipped files obey them', () => {
    expect(fs.readFileSync('docs/rules.md', 'utf8')).toBe(rulesPage())
    for (const { file, schema } of formats()) expect(JSON.parse(fs.readFileSync(file, 'utf8'))).toEqual(schema)
    const ajv = new Ajv2020({ strict: false })
    addFormats(ajv)
    const read = (file: string): object => JSON.parse(fs.readFileSync(file, 'utf8'))
    const nodeFile = ajv.compile(read('docs/formats/node-file.schema.json'))
    const result = compile(slipTank(), NO_SURROUNDINGS, catalog, broker, 1)
    expect(result.ok && nodeFile(result.compiled.file)).toBe(true)
    expect(result.ok && nodeFile({ ...result.compiled.file, broker: undefined })).toBe(false)
    const board = ajv.compile(read('docs/formats/board.schema.json'))
    for (const name of fs.readdirSync('catalog/boards'))
      expect([name, board(read(`catalog/boards/${name}`))]).toEqual([name, true])
  })
})

test('hashes agree with the platform on any text', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), (text) => {
      expect(sha256Hex(text)).toBe(createHash('sha256').update(text, 'utf8').digest('hex'))
    }),
  )
})

group('topics and payloads', () => {
  test('one scalar is accepted, anything else refused in words', () => {
    expect(['21.4', 'true', '"double"', 'null', '-0'].map((t) => parseScalar(t).ok)).toEqual([
      true,
      true,
      true,
      true,
      true,
    ])
    for (const bad of ['', '{', '[1]', '{"a":1}', '1e999', 'NaN', '1 2'])
      expect(parseScalar(bad)).toMatchObject({ ok: false, reason: expect.stringMatching(/./) })
    fc.assert(fc.property(fc.string(), (text) => void parseScalar(text)))
  })

  test('topics are taken apart as they are put together', () => {
    const t = topicsOf('vn', 'slip-tank')
    expect(splitTopic(t.set('pump'))).toEqual({ root: 'vn', node: 'slip-tank', leaf: 'pump', tail: 'set' })
    expect(splitTopic(t.signal('level'))).toEqual({ root: 'vn', node: 'slip-tank', leaf: 'level', tail: null })
    for (const odd of ['vn', 'vn/a', 'vn//b', 'vn/a/b/c', 'vn/a/b/set/x']) expect(splitTopic(odd)).toBeNull()
  })

  test('a filter is covered by a wider one, and a topic selected, as the standard says', () => {
    const selects: [string, string, boolean][] = [
      ['a/b', 'a/b', true],
      ['a/+', 'a/b', true],
      ['a/+', 'a/b/c', false],
      ['a/#', 'a', true],
      ['a/#', 'a/b/c', true],
      ['+/b', 'a/b', true],
      ['#', '$SYS/x', false],
      ['+/x', '$SYS/x', false],
      ['a/+', 'a', false],
      ['a', 'a/b', false],
    ]
    for (const [filter, topic, does] of selects) expect(matches(filter, topic), `${filter} ${topic}`).toBe(does)
    const level = fc.constantFrom('a', 'b', 'c', '+')
    const filter = fc
      .tuple(fc.array(level, { minLength: 1, maxLength: 4 }), fc.boolean())
      .map(([l, all]) => [...l, ...(all ? ['#'] : [])].join('/'))
    const topic = fc.array(fc.constantFrom('a', 'b', 'c'), { minLength: 1, maxLength: 5 }).map((l) => l.join('/'))
    // What is covered selects nothing that the wider one does not.
    fc.assert(
      fc.property(filter, filter, topic, (f, wide, t) => !isCovered(f, wide) || !matches(f, t) || matches(wide, t)),
    )
    expect(isCovered('vn/#', 'vn/+/#')).toBe(false)
  })

  const own = { publish: ['vn/slip-tank/#'], hear: ['vn/time', 'vn/slip-tank/+/set'] }
  const node = { role: 'node' as const, own }
  const access: [string, boolean][] = [
    ['a node says its own values', mayPublish('vn', node, 'vn/slip-tank/level')],
    ['a node does not speak for another', !mayPublish('vn', node, 'vn/kiln-vent/level')],
    ['a node sends no commands, not even to itself', !mayPublish('vn', node, 'vn/slip-tank/pump/set')],
    ['a node hears its own commands', maySubscribe(node, 'vn/slip-tank/+/set')],
    ['a node hears the time', maySubscribe(node, 'vn/time')],
    [
      'a node hears no other node',
      !maySubscribe(node, 'vn/+/+/set') && !maySubscribe(node, 'vn/#') && !maySubscribe(node, '#'),
    ],
    ['a controller switches', mayPublish('vn', { role: 'controller', own: undefined }, 'vn/slip-tank/pump/set')],
    [
      'a controller rewires nothing',
      !mayPublish('vn', { role: 'controller', own: undefined }, 'vn/slip-tank/config/set'),
    ],
    ['a controller invents no values', !mayPublish('vn', { role: 'controller', own: undefined }, 'vn/slip-tank/level')],
    [
      'a reader only reads',
      !mayPublish('vn', { role: 'reader', own: undefined }, 'vn/slip-tank/pump/set') &&
        maySubscribe({ role: 'reader', own: undefined }, 'vn/#'),
    ],
    [
      'node files go to their node alone',
      !mayForward('vn', { role: 'reader', own: undefined }, 'vn/slip-tank/config/set') &&
        mayForward('vn', node, 'vn/slip-tank/config/set'),
    ],
    [
      'stand-ins keep to their own corner',
      !mayPublish('vn', { role: 'standin', own: undefined }, 'vn/slip-tank/level'),
    ],
  ]
  test.each(access)('%s', (_words, holds) => expect(holds).toBe(true))
})

test('a sleeper is gone when it is a minute later than it said, by its own clock or by when it was heard', () => {
  const back = { is: 'asleep' as const, for: 600, back: 10_000 }
  expect([isOverdue(back, 9400, 10_060), isOverdue(back, 9400, 10_061)]).toEqual([false, true])
  expect([isOverdue({ ...back, back: null }, 9400, 10_060), isOverdue({ ...back, back: null }, 9400, 10_061)]).toEqual([
    false,
    true,
  ])
  expect(isOverdue({ is: 'online' }, 0, 1e9)).toBe(false)
})
