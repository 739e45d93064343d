'use client'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { LONGEST_STATE_S, type Sender } from '@/core/model/sender'
import { Bits } from '@/ui/air/Bits'
import { EditField } from '@/ui/fields/EditField'
import { type ClientNode, editShop, useLive } from '@/ui/live/store'

const nameIn = z.string().trim().min(1, 'a name').max(60, 'at most 60 characters')
const secondsIn = z
  .string()
  .transform((s) => Number(s))
  .pipe(z.int('whole seconds').min(0).max(LONGEST_STATE_S, 'a week at most'))

/** What a kept sender is called, where it is, who carries it, when its states end; and forgetting it. */
export function SenderForm({
  id,
  sender,
  gateways,
  onDone,
}: {
  id: string
  sender: Sender
  gateways: readonly ClientNode[]
  onDone: () => void
}) {
  const shop = useLive((s) => s.shop)
  const set = (change: Partial<Sender>) =>
    editShop({ kind: 'set-sender', senderId: id, sender: { ...sender, ...change } })
  const carried = (node: string, on: boolean) =>
    set({ receivers: on ? [...sender.receivers, node] : sender.receivers.filter((r) => r !== node) })
  const signals = Object.entries(sender.signals).sort((a, b) => a[1].order - b[1].order)
  return (
    <div className="sender-form">
      <div className="sum-fields">
        <EditField
          id={`name-${id}`}
          label="name"
          value={sender.name}
          schema={nameIn}
          onSave={(name) => set({ name })}
        />
        <Form.Group controlId={`place-${id}`}>
          <Form.Label>place</Form.Label>
          <Form.Select value={sender.place ?? ''} onChange={(e) => set({ place: e.target.value || null })}>
            <option value="">nowhere in particular</option>
            {Object.entries(shop.places).map(([placeId, p]) => (
              <option key={placeId} value={placeId}>
                {p.name}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        <EditField
          id={`every-${id}`}
          label="heard at least every, 0: nobody can say"
          unit="s"
          value={sender.everyS}
          schema={secondsIn}
          onSave={(everyS) => set({ everyS })}
        />
        {signals.map(([signalId, s]) =>
          s.kind === 'event' ? null : (
            <EditField
              key={signalId}
              id={`ends-${id}-${signalId}`}
              label={`${s.name} is believed for`}
              unit="s"
              value={s.endS}
              schema={secondsIn.pipe(z.int().min(1, 'a state ends at some time'))}
              onSave={(endS) => set({ signals: { ...sender.signals, [signalId]: { ...s, endS } } })}
            />
          ),
        )}
      </div>
      <p className="mt-2 mb-1 small soft">topics</p>
      {signals.map(([signalId, s]) => (
        <div key={signalId} className="mono small">
          vn/{sender.slug}/{s.slug}
        </div>
      ))}
      <p className="mt-2 mb-1 small soft">address</p>
      <Bits code={sender.address} />
      <p className="mt-2 mb-1 small soft">carried by, in the order they speak for it</p>
      {gateways.map((g) => (
        <Form.Check
          key={g.id}
          id={`by-${id}-${g.design.slug}`}
          label={`${g.design.name}${sender.receivers.includes(g.id) ? `, ${sender.receivers.indexOf(g.id) + 1}.` : ''}`}
          checked={sender.receivers.includes(g.id)}
          onChange={(e) => carried(g.id, e.target.checked)}
        />
      ))}
      <p className="pt-2">
        <Button variant="quiet" onClick={onDone}>
          Close
        </Button>{' '}
        <Button
          variant="quiet"
          onClick={() => {
            if (editShop({ kind: 'set-sender', senderId: id, sender: null })) onDone()
          }}
        >
          Forget it
        </Button>
      </p>
    </div>
  )
}
