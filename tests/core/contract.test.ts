import Ajv from 'ajv'
import addFormats from 'ajv-formats'
import Ajv2020 from 'ajv/dist/2020'
import fc from 'fast-check'
import fs from 'node:fs'
import { createRequire } from 'node:module'
import { describe as group, expect, test } from 'vitest'
import { type Design, designSchema } from '../../src/core/model/design'
import { asyncApi, payloadSchemas } from '../../src/core/publish/asyncApi'
import { describe } from '../../src/core/publish/describe'
import { csvOfTable, entitySheet, sheetTable } from '../../src/core/publish/entitySheet'
import { proposedGroups } from '../../src/core/publish/groups'
import { publishedRange } from '../../src/core/publish/publishedRange'
import { renameCost } from '../../src/core/publish/renameCost'
import { sheetFaults } from '../../src/core/publish/sheetFaults'
import { promisesOf } from '../../src/core/proof/promises'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'
import { channelOf } from '../../src/core/publish/channelOf'
import { startChain, chainStep } from '../../src/core/conditioning/chain'
import { after, catalog, slipTank } from '../support/designs'
import { randomDesign, seeded, withAllSignals } from '../support/randomDesigns'

const broker = { host: '127.0.0.1', port: 1883, root: 'vn' }
const require = createRequire(import.meta.url)
const json = (at: string): object => JSON.parse(fs.readFileSync(require.resolve(at), 'utf8')) as object
const ajv = new Ajv({ strict: false, allErrors: true })
addFormats(ajv)
const validTd = ajv.compile(json('wot-thing-description-types/schema/td-json-schema-validation.json'))
const specification = new Ajv({ strict: false, allErrors: true, validateFormats: false })
const validAsyncApi = specification.compile(json('@asyncapi/specs/schemas/3.0.0-without-$id.json'))
const node = (design: Design, place: string | null = null) => ({ id: design.id, design, place })
const proposedOf = (name: string) =>
  proposedGroups(designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${name}.json`, 'utf8'))), catalog)
const table = {
  kind: 'set-group' as const,
  groupId: 'e1',
  group: { kind: 'tank' as const, name: 'Slip tank', roles: { level: 'slevel', fill: 'spump' } },
}

group('the contract in every form', () => {
  test('Thing Description and AsyncAPI of random designs are valid by the schemas of their own specifications', () => {
    let [n, signals] = [0, 0]
    for (let seed = 1; n < 60; seed++) {
      const design = withAllSignals(randomDesign(seeded(seed), 8))
      signals += Object.keys(design.signals).length
      n += 1
      expect(validTd(describe(design, NO_SURROUNDINGS, catalog, broker)) ? [] : validTd.errors, `seed ${seed}`).toEqual(
        [],
      )
      const document = asyncApi(design, NO_SURROUNDINGS, catalog, broker)
      expect(validAsyncApi(document) ? [] : validAsyncApi.errors, `seed ${seed}`).toEqual([])
    }
    expect(signals).toBeGreaterThan(300)
    const document = asyncApi(slipTank(), NO_SURROUNDINGS, catalog, broker)
    expect(validAsyncApi({ ...document, channels: { level: { address: 7 } } })).toBe(false)
  })

  test('both forms promise the same topics, and one of them is not made of the other', () => {
    const design = slipTank()
    const thing = promisesOf('vn/slip-tank/td', JSON.stringify(describe(design, NO_SURROUNDINGS, catalog, broker)))
    if ('reason' in thing) throw new Error(thing.reason)
    const document = asyncApi(design, NO_SURROUNDINGS, catalog, broker) as {
      channels: Record<string, { address: string }>
      operations: Record<string, { action: string; channel: { $ref: string }; bindings: { mqtt: { retain: boolean } } }>
    }
    const sent = Object.values(document.operations).filter((o) => o.action === 'send')
    const kept = new Map(
      sent.map((o) => [document.channels[o.channel.$ref.split('/').at(-1) ?? '']?.address, o.bindings.mqtt.retain]),
    )
    for (const p of thing.promises) expect([p.topic, kept.get(p.topic)]).toEqual([p.topic, p.retained])
    for (const p of thing.promises.filter((x) => x.set))
      expect(Object.values(document.channels).map((c) => c.address)).toContain(p.set?.topic)
  })

  test('payloads by the examples of the protocol fit their schemas, and their opposites do not', () => {
    const schemas = payloadSchemas(slipTank(), catalog, 'vn')
    const check = new Ajv2020({ strict: false, validateFormats: false })
    const fits = (topic: string, value: unknown) => check.validate(schemas[`vn/slip-tank/${topic}`] ?? false, value)
    for (const [topic, good, bad] of [
      ['status', { is: 'asleep', for: 600, back: null }, { is: 'asleep' }],
      ['level', 412, '412'],
      ['level', null, 99_999],
      ['pump', true, 'on'],
      ['pump/set', { value: true, id: 'a', until: 1 }, { id: 'a' }],
      ['pump/set', false, 3],
      ['pump/done', { id: 'a', result: 'refused', reason: 'too late' }, { id: 'a', result: 'perhaps' }],
      ['press', 'single', null],
    ] as const) {
      expect([topic, good, fits(topic, good)]).toEqual([topic, good, true])
      expect([topic, bad, fits(topic, bad)]).toEqual([topic, bad, false])
    }
  })

  test('the range that is promised holds for whatever the chain makes of any reading it accepts', () => {
    const design = slipTank()
    const signal = design.signals.slevel
    const channel = signal && channelOf(design, catalog, signal)
    if (!signal || channel?.access !== 'reading') throw new Error('no level')
    fc.assert(
      fc.property(
        fc.double({ min: channel.range.min, max: channel.range.max, noNaN: true }),
        fc.double({ min: 0.5, max: 1.5, noNaN: true }),
        fc.double({ min: -0.2, max: 0.2, noNaN: true }),
        fc.option(fc.double({ min: 0, max: 5, noNaN: true })),
        (reading, gain, offset, mountM) => {
          const calibrated = {
            ...signal,
            conditioning: { ...signal.conditioning, mountM },
            calibration: { gain, offset } as NonNullable<typeof signal.calibration>,
          }
          const { min, max } = publishedRange(channel, calibrated)
          const settings = { ...channel.range, median: 1, averageS: 0, mountM, gain, offset }
          const { value } = chainStep(settings, startChain(), reading, 1)
          const told = Number(((value ?? 0) * 1000).toFixed(signal.publish.decimals))
          expect(told).toBeGreaterThanOrEqual(min)
          expect(told).toBeLessThanOrEqual(max)
        },
      ),
    )
  })
})

group('the entity sheet', () => {
  test('is a row for each thread as the controller will hold it, and a table that a sheet does not take for formulas', () => {
    const rows = entitySheet([node(slipTank(), '=Clay yard')], catalog, 'vn')
    expect(rows.find((r) => r.signal.slug === 'level')).toMatchObject({
      topic: 'vn/slip-tank/level',
      unit: 'mm',
      set: null,
      role: 'main',
      goneAfterS: 15,
    })
    expect(rows.find((r) => r.signal.slug === 'pump')?.set).toBe('vn/slip-tank/pump/set')
    expect(csvOfTable(sheetTable(rows))).toContain("'=Clay yard")
  })

  test('signals of a group are announced as one; a signal is in one group at most, and leaves it when it goes', () => {
    const design = after(slipTank(), table)
    const td = describe(design, NO_SURROUNDINGS, catalog, broker)
    expect(td['vn:groups']).toEqual([
      { id: 'e1', kind: 'tank', title: 'Slip tank', parts: { level: 'level', fill: 'pump' } },
    ])
    expect(validTd(td)).toBe(true)
    expect(() => after(design, { ...table, groupId: 'e2' })).toThrow(/Slip tank/)
    expect(after(design, { kind: 'remove-signal', signalId: 'spump' }).groups).toEqual({})
    // Two readings of a climate part belong together; a lit switch is no gate because it dims and opens.
    expect(proposedGroups(design, catalog)).toEqual([])
    expect(proposedOf('damp-cupboard').map((g) => [g.kind, Object.keys(g.roles)])).toEqual([
      ['climate', ['temperature', 'humidity']],
      ['climate', ['temperature', 'humidity']],
    ])
    expect(proposedOf('wheel-panel')).toEqual([])
  })

  test('names that would be taken for one another are found over the whole shop; different ones are not', () => {
    const design = slipTank()
    const named = (name: string): Design => ({
      ...design,
      id: '11111111-2222-4333-8444-555555555555',
      name: 'Kiln',
      slug: 'kiln',
      signals: { slevel: { ...(design.signals.slevel as Design['signals'][string]), name } },
    })
    const faults = (a: string, b: string) => {
      const [one, two] = [named(a), { ...named(b), id: '11111111-2222-4333-8444-555555555556', slug: 'kiln-2' }]
      return sheetFaults(entitySheet([node(one), node(two)], catalog, 'vn')).length
    }
    for (const [a, b] of [
      ['Door', 'Door'],
      ['Door', 'door'],
      ['front-door', 'front door'],
      ['Probe 1O', 'Probe 10'],
      ['Temperature', 'Temperatur'],
    ] as const)
      expect([a, b, faults(a, b)]).toEqual([a, b, 1])
    for (const [a, b] of [
      ['Probe 1', 'Probe 2'],
      ['Upper', 'Lower'],
    ] as const)
      expect([a, b, faults(a, b)]).toEqual([a, b, 0])
    expect(faults('A name that goes on and on until nobody reads it', 'Short')).toBe(1)
  })

  test('a rename names every topic that ends, and what follows', () => {
    const cost = renameCost('vn', slipTank(), 'slevel', 'height')
    expect(cost.topics).toEqual([{ from: 'vn/slip-tank/level', to: 'vn/slip-tank/height' }])
    const whole = renameCost('vn', slipTank(), null, 'tank')
    expect(whole.cleared).toContain('vn/slip-tank/td')
    expect(whole.topics.every((t) => t.to.startsWith('vn/tank/'))).toBe(true)
  })
})
