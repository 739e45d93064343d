'use client'
import { useState } from 'react'
import { Form } from 'react-bootstrap'
import { type Cycle } from '@/core/energy/cycle'
import { packVoltage } from '@/core/energy/cellOf'
import { likelyOf, meanA } from '@/core/energy/life'
import { panelFor } from '@/core/energy/solar'

/** A panel that carries the node through December, and the charge that bridges three days without sun. */
export function Solar({ cycle }: { cycle: Cycle }) {
  const [text, setText] = useState('50')
  const latitude = Number(text.replace(',', '.'))
  const known = latitude >= 35 && latitude <= 60
  const { panelW, bridgeAh } = panelFor(meanA(cycle, likelyOf(cycle)), packVoltage(cycle.cell), known ? latitude : 50)
  const watts = (w: number) => `${w < 1 ? w.toFixed(2) : w.toFixed(1)} W`
  return (
    <section aria-label="by the sun" className="mt-4">
      <h2>By the sun, in December</h2>
      <div className="fields mb-2">
        <div>
          <Form.Label htmlFor="p-latitude">latitude, ° north</Form.Label>
          <Form.Control
            id="p-latitude"
            value={text}
            inputMode="decimal"
            autoComplete="off"
            style={{ width: 110 }}
            onChange={(e) => setText(e.target.value)}
          />
        </div>
      </div>
      <p data-panel={panelW.likely}>
        {known
          ? `A panel of ${watts(panelW.low)} to ${watts(panelW.high)} carries it, and ${(bridgeAh * 1000).toFixed(0)} mAh bridge three days without sun. ${
              cycle.cell.cell.rechargeable
                ? 'The charger is the chemistry’s own, and nothing charges below 0 °C.'
                : 'This cell can never be charged: take one that can.'
            }`
          : 'The table of hours of sun goes from 35 to 60 degrees north; further south a panel for 35 does.'}
      </p>
    </section>
  )
}
