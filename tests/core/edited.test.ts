import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import { emptyShop, type Shop } from '../../src/core/shop/shop'
import { applyShopEdit, type ShopEditBody } from '../../src/core/shop/edits'
import { shopEditing } from '../../src/ui/live/shopEditing'
import type { Edited } from '../../src/ui/live/edited'

type State = Edited<Shop, ShopEditBody>
const { begun, made, moved, taken, refused } = shopEditing
const start = (): State => begun(emptyShop('7b0f2c7e-5a3d-4d7e-9c51-2f0a6c1d9e10'), 0).state
const name = (to: string): ShopEditBody => ({ kind: 'rename-shop', name: to })
const place = (id: string): ShopEditBody => ({ kind: 'add-place', placeId: id, name: `Place ${id}` })
function done(state: State, ...bodies: ShopEditBody[]): State {
  const result = made(state, bodies)
  if (!result.ok) throw new Error(result.reason)
  return result.state
}
/** As a server does: it saves whatever comes next, in order. */
function applied(shop: Shop, body: ShopEditBody): Shop {
  const result = applyShopEdit(shop, body)
  if (!result.ok) throw new Error(result.reason)
  return result.value
}

describe('a document in a tab', () => {
  test('a gesture of several edits is all or nothing, and one step back', () => {
    const three = done(start(), place('aa'), place('bb'), name('Yard'))
    expect(three.pending).toHaveLength(3)
    expect(three.undo.map((s) => s.words)).toEqual(['add place Place aa and 2 more'])
    const half = made(start(), [place('aa'), place('aa')])
    expect(half).toMatchObject({ ok: false, reason: expect.stringMatching(/there already/) })
    const back = moved(three, 'undo')
    expect(canonicalJson(back.state.current)).toBe(canonicalJson(start().current))
    expect(back.state.redo).toHaveLength(1)
    const again = moved(back.state, 'redo')
    expect(canonicalJson(again.state.current)).toBe(canonicalJson(three.current))
    expect(done(back.state, name('Other')).redo).toEqual([])
    expect(moved(start(), 'undo')).toMatchObject({ words: null, refused: null })
  })

  test('what another saved goes underneath; own edits of the same place are dropped with the reason', () => {
    const mine = done(start(), name('Mine'), place('cc'))
    const theirs = taken(mine, 1, 'theirs', name('Theirs'))
    expect(theirs?.dropped.map((d) => [d.edit.words, d.reason])).toEqual([
      ['call the shop Mine', 'the same place was changed elsewhere'],
    ])
    expect(theirs?.state.current).toMatchObject({ name: 'Theirs', places: { cc: { name: 'Place cc' } } })
    expect(theirs?.state.pending).toHaveLength(1)
  })

  test('a gap asks for all of it anew; what came before is nothing new', () => {
    const state = start()
    expect(taken(state, 2, 'x', name('Gap'))).toBe(null)
    expect(taken({ ...state, seq: 5 }, 5, 'x', name('Old'))?.state.current.name).toBe('Shop')
  })

  test('what the server refuses is gone, with the way back from it', () => {
    const two = done(done(start(), place('aa')), name('Refused'))
    const left = refused(two, two.pending[1]?.id ?? '')
    expect(left).toMatchObject({ current: { name: 'Shop' }, pending: [{}], undo: [{}] })
    expect(left.current.places.aa?.name).toBe('Place aa')
  })

  test('blanks that a schema takes away are away here as they will be there', () => {
    expect(done(start(), name('  Yard ')).pending[0]?.body).toEqual(name('Yard'))
  })

  test('the way back stays possible after 300 gestures; older ones are forgotten', () => {
    let state = start()
    for (let n = 0; n < 300; n++) state = done(state, name(`Shop ${n}`))
    expect(state.undo).toHaveLength(200)
  })

  test('two tabs and a server, in any order of events: all end with the server’s document', () => {
    const ids = ['aa', 'bb', 'cc'] as const
    const body = fc.oneof(
      fc.constantFrom('One', 'Two').map(name),
      fc.constantFrom(...ids).map(place),
      fc.constantFrom(...ids).map((placeId): ShopEditBody => ({ kind: 'remove-place', placeId })),
    )
    const act = fc.oneof(
      fc.record({ tab: fc.nat(1), do: fc.constant('edit' as const), body }),
      fc.record({ tab: fc.nat(1), do: fc.constantFrom('undo' as const, 'push' as const, 'push' as const) }),
    )
    fc.assert(
      fc.property(fc.array(act, { maxLength: 30 }), (acts) => {
        let server = start().server
        let seq = 0
        const tabs: State[] = [start(), start()]
        const push = (n: number) => {
          const tab = tabs[n]
          const first = tab?.pending[0]
          if (!tab || !first) return
          const result = applyShopEdit(server, first.body)
          if (!result.ok) tabs[n] = refused(tab, first.id)
          else {
            server = applied(server, first.body)
            seq += 1
            for (const [k, state] of tabs.entries()) {
              const next = taken(state, seq, first.id, first.body)
              expect(next).not.toBe(null)
              if (next) tabs[k] = next.state
            }
          }
        }
        for (const a of acts) {
          const tab = tabs[a.tab]
          if (!tab) continue
          if (a.do === 'push') push(a.tab)
          else if (a.do === 'undo') tabs[a.tab] = moved(tab, 'undo').state
          else if ('body' in a) {
            const result = made(tab, [a.body])
            if (result.ok) tabs[a.tab] = result.state
          }
        }
        for (let n = 0; n < 100 && tabs.some((t) => t.pending.length > 0); n++) push(n % 2)
        for (const tab of tabs) {
          expect(tab.pending).toEqual([])
          expect(canonicalJson(tab.server)).toBe(canonicalJson(server))
          expect(canonicalJson(tab.current)).toBe(canonicalJson(server))
        }
      }),
      { numRuns: 300 },
    )
  })
})
