'use client'
import { useState } from 'react'
import { Form } from 'react-bootstrap'
import { ownOrBought } from '@/core/energy/ownOrBought'
import type { NodeView } from '@/ui/live/useNode'
import { money } from '../parts/BillOfParts'

/** What it costs to make one, six or twelve of them, against ready-made ones and their hub. */
export function OwnOrBought({ view, lifeH }: { view: NodeView; lifeH: number | null }) {
  const [hub, setHub] = useState('60')
  const [hourPrice, setHourPrice] = useState('0')
  const [hoursEach, setHoursEach] = useState('2')
  const number = (text: string) => Math.max(0, Number(text.replace(',', '.')) || 0)
  const { sides, breakEven, notReadyMade } = ownOrBought(view.node.design, view.catalog, {
    lifeH,
    hub: number(hub),
    hourPrice: number(hourPrice),
    hoursEach: number(hoursEach),
  })
  const field = (id: string, label: string, value: string, set: (v: string) => void) => (
    <div>
      <Form.Label htmlFor={id}>{label}</Form.Label>
      <Form.Control
        id={id}
        value={value}
        inputMode="decimal"
        autoComplete="off"
        style={{ width: 110 }}
        onChange={(e) => set(e.target.value)}
      />
    </div>
  )
  return (
    <section aria-label="own or bought" className="mt-4">
      <h2>Made or bought</h2>
      <div className="fields mb-2">
        {field('o-hub', 'a hub costs', hub, setHub)}
        {field('o-hours', 'hours for one', hoursEach, setHoursEach)}
        {field('o-price', 'an hour is worth', hourPrice, setHourPrice)}
      </div>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">places</th>
            <th scope="col">made, packs and a year of cells</th>
            <th scope="col">ready made, with the hub</th>
          </tr>
        </thead>
        <tbody>
          {sides.map((s) => (
            <tr key={s.places}>
              <td>{s.places}</td>
              <td>{money(s.own)}</td>
              <td>{money(s.bought)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="small">
        {breakEven === null
          ? 'Within a hundred places ready-made ones cost less.'
          : `From ${breakEven} on, made ones cost less.`}
        {notReadyMade.length > 0 &&
          ` Not sold ready made, and left out there: ${notReadyMade.join(', ').toLowerCase()}.`}
      </p>
    </section>
  )
}
