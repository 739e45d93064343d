'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { inOrder } from '@/core/model/design'
import { networkAdvice } from '@/core/shop/networkAdvice'
import { networkSchema, type Shop } from '@/core/shop/shop'
import { EditField } from '@/ui/fields/EditField'
import { editShop, useLive } from '@/ui/live/store'

type Band = Shop['networks'][string]['band']
const BANDS: Record<Band, string> = { '2.4': '2.4 GHz', both: '2.4 and 5 GHz', '5': '5 GHz only' }
const isBand = (text: string): text is Band => text in BANDS

/** The networks nodes join, by the short names that designs know them by. */
export function Networks() {
  const networks = useLive((s) => s.shop.networks)
  const [ref, setRef] = useState('')
  const several = Object.keys(networks).length > 1
  const add = (e: React.FormEvent) => {
    e.preventDefault()
    if (editShop({ kind: 'add-network', ref: ref.trim(), name: ref.trim() })) setRef('')
  }
  return (
    <section className="setting" aria-label="networks">
      <h2>Networks</h2>
      <p className="small soft">
        A node’s file names its network by the short name; what the network is called can change here without touching a
        design.
      </p>
      {inOrder(networks).map(({ id, value: network }) => (
        <div key={id} className="fields">
          <div>
            <div className="form-label">short name</div>
            <b>{id}</b>
          </div>
          <EditField
            id={`s-net-${id}`}
            label="name of the network"
            value={network.name}
            schema={networkSchema.shape.name}
            width={300}
            onSave={(name) => editShop({ kind: 'set-network', ref: id, set: { name } })}
          />
          <div>
            <Form.Label htmlFor={`s-band-${id}`}>it sends at</Form.Label>
            <Form.Select
              id={`s-band-${id}`}
              value={network.band}
              onChange={(e) =>
                isBand(e.target.value) && editShop({ kind: 'set-network', ref: id, set: { band: e.target.value } })
              }
            >
              {Object.entries(BANDS).map(([band, words]) => (
                <option key={band} value={band}>
                  {words}
                </option>
              ))}
            </Form.Select>
          </div>
          <div>
            <Form.Label htmlFor={`s-time-${id}`}>asks for the time</Form.Label>
            <Form.Control
              id={`s-time-${id}`}
              key={network.timeServer}
              defaultValue={network.timeServer}
              placeholder="its gateway"
              autoComplete="off"
              onBlur={(e) =>
                e.target.value.trim() !== network.timeServer &&
                editShop({ kind: 'set-network', ref: id, set: { timeServer: e.target.value.trim() } })
              }
              style={{ width: 160 }}
            />
          </div>
          <Form.Check
            id={`s-hidden-${id}`}
            label="hidden name"
            checked={network.hidden}
            onChange={(e) => editShop({ kind: 'set-network', ref: id, set: { hidden: e.target.checked } })}
          />
          {several && (
            <Button
              variant="bare"
              className="small"
              aria-label={`remove network ${id}`}
              onClick={() => editShop({ kind: 'remove-network', ref: id })}
            >
              remove
            </Button>
          )}
        </div>
      ))}
      {inOrder(networks).flatMap(({ id, value }) =>
        networkAdvice({ ...value, password: 'not asked here' }).map((a) => (
          <p key={id + a.words} className="small">
            <b>{a.severity}</b> {id}: {a.words}
          </p>
        )),
      )}
      <Form className="fields" onSubmit={add} aria-label="another network">
        <Form.Control
          aria-label="short name of another network"
          placeholder="short name of another network"
          value={ref}
          onChange={(e) => setRef(e.target.value)}
          autoComplete="off"
          style={{ width: 300 }}
        />
        <Button type="submit" variant="quiet" disabled={ref.trim() === ''}>
          Another network
        </Button>
      </Form>
    </section>
  )
}
