import Ajv from 'ajv/dist/2020'
import fc from 'fast-check'
import fs from 'node:fs'
import { describe, expect, test } from 'vitest'
import { changesBetween } from '../../src/core/documents/changes'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import { placeIdFrom } from '../../src/core/model/placeId'
import { compile } from '../../src/core/nodefile/compile'
import { runChecks } from '../../src/core/checks/runChecks'
import {
  applyShopEdit,
  invertShopEdit,
  SHOP_EDITS,
  type ShopEditBody,
  shopEditBodySchema,
  shopEditWords,
  touchedByShopEdit,
} from '../../src/core/shop/edits'
import { readShop, shopText } from '../../src/core/shop/readShop'
import { emptyShop, type Shop, shopSchema } from '../../src/core/shop/shop'
import type { Family } from '../../src/core/radio/subghz/family'
import { surroundings, surroundingsDiffer } from '../../src/core/surroundings/surroundings'
import { catalog, slipTank } from '../support/designs'

const yard = shopSchema.parse(JSON.parse(fs.readFileSync('demo/shop.json', 'utf8')))
const latch = yard.families.latch as Family
const broker = { host: '192.0.2.1', port: 1883, root: 'vn' }

const one = <T>(values: readonly T[]) => fc.constantFrom(...values)
const name = fc.string({ maxLength: 8 })
const place = one(['kilnroom', 'gallery', 'loft', 'gone'])
const ref = one(['house', 'yard', 'gone'])
/** One generator per kind; a kind without one does not compile. */
const kinds: Record<ShopEditBody['kind'], fc.Arbitrary<ShopEditBody>> = {
  'rename-shop': name.map((n) => ({ kind: 'rename-shop', name: n })),
  'set-currency': one(['EUR', 'NOK', null, 'eur']).map((currency) => ({ kind: 'set-currency', currency })),
  'add-place': fc.record({ placeId: place, name }).map((r) => ({ kind: 'add-place', ...r })),
  'rename-place': fc.record({ placeId: place, name: one(['Loft', 'Gallery', 'gallery', '']) }).map((r) => ({
    kind: 'rename-place',
    ...r,
  })),
  'remove-place': place.map((placeId) => ({ kind: 'remove-place', placeId })),
  'add-network': fc.record({ ref, name }).map((r) => ({ kind: 'add-network', ...r })),
  'set-network': fc.record({ ref, hidden: fc.boolean(), band: one(['2.4', '5', 'both'] as const) }).map((r) => ({
    kind: 'set-network',
    ref: r.ref,
    set: { hidden: r.hidden, band: r.band },
  })),
  'set-template': fc
    .record({
      templateId: one(['t1', 't2']),
      template: fc.option(
        fc.record({
          name: one(['Panel', '']),
          per: one(['entity', 'node'] as const),
          topic: one(['panel/{{ entity.slug }}']),
          payload: one(['{{ entity.name }}', '']),
          json: fc.boolean(),
          on: fc.boolean(),
        }),
        { freq: 3 },
      ),
    })
    .map((r) => ({ kind: 'set-template', ...r })),
  'set-family': fc
    .record({ familyId: one(['f1', 'f2']), bits: one([12, 24]), gone: fc.boolean() })
    .map(({ familyId, bits, gone }) => ({ kind: 'set-family', familyId, family: gone ? null : { ...latch, bits } })),
  'set-sender': fc
    .record({
      senderId: one(['s1', 's2']),
      slug: one(['store-door', 'bell', 'time']),
      tag: one(['Z7', 'Z8']),
      family: one(['f1', 'f2', 'latch']),
      address: one(['01'.repeat(10) + '....', '0'.repeat(24), '01'.repeat(4) + '....']),
      gone: fc.boolean(),
    })
    .map(({ senderId, gone, address, ...r }) => ({
      kind: 'set-sender',
      senderId,
      sender: gone
        ? null
        : {
            order: 9,
            name: r.slug,
            ...r,
            address,
            place: null,
            medium: 'subghz' as const,
            everyS: 0,
            receivers: [],
            signals: {
              it: { kind: 'event' as const, order: 0, name: 'it', slug: 'it', words: { [address]: 'it' } },
            },
          },
    })),
  'remove-network': ref.map((r) => ({ kind: 'remove-network', ref: r })),
  revert: one([[], [{ path: ['name'], before: 'x', after: 'y' }]]).map((changes) => ({
    kind: 'revert',
    of: 'x',
    changes,
  })),
}
const anyEdit = fc.oneof(...Object.values(kinds))

function after(shop: Shop, ...edits: ShopEditBody[]): Shop {
  return edits.reduce((s, e) => {
    const applied = applyShopEdit(s, e)
    if (!applied.ok) throw new Error(applied.reason)
    return applied.value
  }, shop)
}

test('any run of edits: each is refused whole, or gives a shop that holds, and can be taken back and done again', () => {
  const seen = new Set<string>()
  fc.assert(
    fc.property(fc.array(anyEdit, { maxLength: 12 }), (edits) => {
      let shop = yard
      for (const raw of edits) {
        const read = shopEditBodySchema.safeParse(raw)
        if (!read.success) continue
        const edit = read.data
        const applied = applyShopEdit(shop, edit)
        expect(shopEditWords(edit, shop).length).toBeGreaterThan(3)
        if (!applied.ok) {
          expect(applied.reason.length).toBeGreaterThan(5)
          continue
        }
        seen.add(edit.kind)
        const { value } = applied
        shopSchema.parse(value)
        expect(Object.keys(value.networks).length).toBeGreaterThan(0)
        const names = Object.values(value.places).map((p) => p.name.toLowerCase())
        expect(new Set(names).size).toBe(names.length)
        expect(touchedByShopEdit(edit)).toEqual(
          expect.arrayContaining(changesBetween(shop, value).map((c) => c.path[0])),
        )
        const back = invertShopEdit(shop, edit)
        const undone = back && applyShopEdit(value, back)
        expect(undone?.ok && canonicalJson(undone.value)).toBe(canonicalJson(shop))
        shop = value
      }
    }),
    { numRuns: 300 },
  )
  expect([...seen].sort()).toEqual([...SHOP_EDITS.map((k) => k.schema.shape.kind.value), 'revert'].sort())
})

test('as a file it comes back the same, follows its JSON Schema, and holds no password', () => {
  const validate = new Ajv({ strict: false }).compile(
    JSON.parse(fs.readFileSync('docs/formats/shop.schema.json', 'utf8')) as object,
  )
  fc.assert(
    fc.property(fc.array(anyEdit, { maxLength: 8 }), (edits) => {
      const shop = edits.reduce((s, e) => {
        const read = shopEditBodySchema.safeParse(e)
        const applied = read.success ? applyShopEdit(s, read.data) : null
        return applied?.ok ? applied.value : s
      }, yard)
      expect(readShop(shopText(shop))).toEqual({ ok: true, value: shop })
      expect(validate(JSON.parse(shopText(shop)))).toBe(true)
    }),
    { numRuns: 60 },
  )
  expect(shopText(yard)).not.toMatch(/password|login|mqtt/)
  expect(readShop(shopText(yard).replace('"2.4"', '"6"'))).toMatchObject({
    ok: false,
    problems: [{ line: expect.any(Number), path: 'networks › house › band' }],
  })
})

describe('what is around a node', () => {
  const compiled = (shop: Shop) => {
    const design = slipTank()
    const result = compile(design, surroundings(design, shop), catalog, broker, 1)
    if (!result.ok) throw new Error(result.reasons.join())
    return result.compiled
  }
  test('its file is another when its place is called something else, and the same when anything else of the shop changes', () => {
    const before = compiled(yard)
    expect(before.file.area).toBe('Clay yard')
    const renamed = after(yard, { kind: 'rename-place', placeId: 'clayyard', name: 'Back yard' })
    expect(compiled(renamed).file.area).toBe('Back yard')
    expect(compiled(renamed).hash).not.toBe(before.hash)
    expect(surroundingsDiffer(surroundings(slipTank(), yard), surroundings(slipTank(), renamed))).toEqual([
      'it was in Clay yard, now it is in Back yard',
    ])
    const others = after(
      yard,
      { kind: 'rename-shop', name: 'Other' },
      { kind: 'rename-place', placeId: 'gallery', name: 'Hall' },
      { kind: 'add-network', ref: 'yard', name: 'yard' },
      { kind: 'set-currency', currency: 'EUR' },
    )
    expect(compiled(others).text).toBe(before.text)
  })
  test('a place or network that is gone is a finding, and none where the shop is not known', () => {
    const gone = after(
      yard,
      { kind: 'remove-place', placeId: 'clayyard' },
      { kind: 'add-network', ref: 'yard', name: 'yard' },
      { kind: 'remove-network', ref: 'house' },
    )
    const rules = (shop: Shop | null) =>
      runChecks(slipTank(), catalog, undefined, shop && surroundings(slipTank(), shop))
        .filter((f) => f.rule.endsWith('-gone'))
        .map((f) => `${f.rule} ${f.severity}`)
    expect(rules(gone).sort()).toEqual(['network-gone stop', 'place-gone fix'])
    expect(rules(yard)).toEqual([])
    expect(rules(null)).toEqual([])
  })
})

test('ids of places are legal, and the same for the same name', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), (text) => {
      const id = placeIdFrom(text)
      if (text.trim() === '') expect(id).toBe(null)
      else expect(id).toMatch(/^[a-z0-9]{2,24}$/)
      expect(placeIdFrom(` ${text} `)).toBe(id)
    }),
  )
  expect([placeIdFrom('Glaze store'), placeIdFrom('Küche'), placeIdFrom('倉庫')]).toEqual([
    'glazestore',
    'kuche',
    expect.stringMatching(/^p/),
  ])
  expect(emptyShop('7b0f2c7e-5a3d-4d7e-9c51-2f0a6c1d9e10').places).toEqual({})
})
