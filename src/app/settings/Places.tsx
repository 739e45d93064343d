'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { inOrder, nameSchema } from '@/core/model/design'
import { placeIdFrom } from '@/core/model/placeId'
import { currencySchema, placeNameSchema } from '@/core/shop/shop'
import { EditField } from '@/ui/fields/EditField'
import { BehindNote } from './BehindNote'
import { editShop, useLive } from '@/ui/live/store'

const noCurrency = z.union([z.literal(''), z.string().trim().toUpperCase().pipe(currencySchema)])

/** What the shop is called, what prices are told in, and the rooms and yards its nodes are in. */
export function Places() {
  const shop = useLive((s) => s.shop)
  const nodes = useLive((s) => s.nodes)
  const [name, setName] = useState('')
  const at = (place: string) => Object.values(nodes).filter((n) => n.design.place === place).length
  const add = (e: React.FormEvent) => {
    e.preventDefault()
    const wanted = placeIdFrom(name)
    if (wanted === null) return
    let placeId = wanted
    for (let n = 2; placeId in shop.places; n++) placeId = `${wanted.slice(0, 21)}${n}`
    if (editShop({ kind: 'add-place', placeId, name: name.trim() })) setName('')
  }
  return (
    <section className="setting" aria-label="shop and places">
      <h2>Shop and places</h2>
      <div className="fields">
        <EditField
          id="s-shop"
          label="what the shop is called"
          value={shop.name}
          schema={nameSchema}
          width={300}
          onSave={(to) => editShop({ kind: 'rename-shop', name: to })}
        />
        <EditField
          id="s-currency"
          label="prices are in"
          value={shop.currency ?? ''}
          schema={noCurrency}
          width={110}
          onSave={(to) => editShop({ kind: 'set-currency', currency: to === '' ? null : to })}
        />
      </div>
      <p className="small soft">
        A currency of three letters, like EUR; empty, prices are numbers alone. Rooms and yards a node can be in are
        announced by name: after another name for a place its nodes have to be sent.
      </p>
      <BehindNote />
      {inOrder(shop.places).map(({ id, value: place }) => (
        <div key={id} className="fields">
          <EditField
            id={`s-place-${id}`}
            label={`name of ${place.name}`}
            hideLabel
            value={place.name}
            schema={placeNameSchema}
            width={300}
            onSave={(to) => editShop({ kind: 'rename-place', placeId: id, name: to })}
          />
          <span className="small soft">{nodesWords(at(id))}</span>
          <Button
            variant="bare"
            className="small"
            aria-label={`remove place ${place.name}`}
            onClick={() => editShop({ kind: 'remove-place', placeId: id })}
          >
            remove
          </Button>
        </div>
      ))}
      <Form className="fields" onSubmit={add} aria-label="another place">
        <Form.Control
          aria-label="name of another place"
          placeholder="another place"
          value={name}
          onChange={(e) => setName(e.target.value)}
          autoComplete="off"
          style={{ width: 300 }}
        />
        <Button type="submit" variant="quiet" disabled={name.trim() === ''}>
          Add
        </Button>
      </Form>
    </section>
  )
}

function nodesWords(n: number): string {
  if (n === 0) return 'no node there'
  return n === 1 ? '1 node there' : `${n} nodes there`
}
