'use client'
import { Fragment, useState } from 'react'
import { Button, Table } from 'react-bootstrap'
import type { Sender } from '@/core/model/sender'
import { cadenceOf, isSilent } from '@/core/radio/cadence'
import { signalNow } from '@/ui/air/senderWords'
import { type ClientNode, useLive } from '@/ui/live/store'
import { agoWords } from '@/ui/live/nowWords'
import { NetFerrule } from '@/ui/thread/Ferrule'
import { NOT_HEARD } from '@/wire/air'
import { SenderForm } from './SenderForm'

/** Senders of the shop: what each says, when it was heard last, by whom, and how often it usually is. */
export function Senders({ gateways, now }: { gateways: readonly ClientNode[]; now: number }) {
  const { shop, senders: live } = useLive()
  const [open, setOpen] = useState<string | null>(null)
  const all = Object.entries(shop.senders).sort((a, b) => a[1].order - b[1].order)
  if (all.length === 0)
    return (
      <div className="empty">
        <h2>No sender is known yet</h2>
        <p>N learns one: trigger it a few times at your own rhythm and press Space each time.</p>
      </div>
    )
  const online = new Set(gateways.filter((g) => g.live.status?.is === 'online').map((g) => g.id))
  return (
    <Table className="senders stacked mt-2">
      <thead>
        <tr>
          <th>from the air</th>
          <th>says</th>
          <th>last heard</th>
          <th>usually</th>
          <th>carried by</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {all.map(([id, sender]) => {
          const state = live[id] ?? NOT_HEARD
          const heard = sender.receivers.some((r) => online.has(r))
          return (
            <Fragment key={id}>
              <tr data-sender={sender.slug}>
                <td>
                  <NetFerrule net={sender.tag} /> <b>{sender.name}</b>
                  <div className="small soft">
                    {shop.places[sender.place ?? '']?.name ?? 'nowhere in particular'},{' '}
                    {shop.families[sender.family]?.name}
                  </div>
                </td>
                <td>
                  {Object.entries(sender.signals)
                    .sort((a, b) => a[1].order - b[1].order)
                    .map(([signalId, signal]) => {
                      const said = signalNow(signalId, signal, state, now, heard)
                      return (
                        <div key={signalId} data-signal={signal.slug}>
                          <span className="small soft">{signal.name}</span> <b>{said.word}</b>{' '}
                          <span className="small soft">{said.detail}</span>
                        </div>
                      )
                    })}
                </td>
                <td>{heardWords(sender, state.heardAt, state.by, state.bursts, now)}</td>
                <td>{usuallyWords(state.bursts)}</td>
                <td>
                  {sender.receivers
                    .map((r) => gateways.find((g) => g.id === r)?.design.slug ?? 'a node that is gone')
                    .join(', ') || 'nobody'}
                  {state.via !== null && <div className="small soft">{state.via} speaks for it</div>}
                </td>
                <td>
                  <Button variant="quiet" aria-expanded={open === id} onClick={() => setOpen(open === id ? null : id)}>
                    Change
                  </Button>
                </td>
              </tr>
              {open === id && (
                <tr>
                  <td colSpan={6}>
                    <SenderForm id={id} sender={sender} gateways={gateways} onDone={() => setOpen(null)} />
                  </td>
                </tr>
              )}
            </Fragment>
          )
        })}
      </tbody>
    </Table>
  )
}

type Bursts = readonly { at: string; by: string }[]

function heardWords(sender: Sender, at: string | null, by: string | null, bursts: Bursts, now: number) {
  if (at === null) return 'not yet'
  const ms = Date.parse(at)
  const triggers = Object.values(sender.signals).every((s) => s.kind === 'event')
  const cadence = cadenceOf(bursts.map((b) => Date.parse(b.at)))
  // Who speaks only when somebody does something is never late.
  const silent = !triggers && isSilent(ms, sender.everyS, cadence, now)
  return (
    <>
      {agoWords(Math.max(0, now - ms))} ago
      <div className="small soft">
        by {by}
        {silent && <b>, silent for longer than usual</b>}
      </div>
    </>
  )
}

function usuallyWords(bursts: Bursts): string {
  const { usualS, mostlyS } = cadenceOf(bursts.map((b) => Date.parse(b.at)))
  if (usualS === null || mostlyS === null) return 'heard too seldom to say'
  return `every ${agoWords(usualS * 1000)}, nine of ten within ${agoWords(mostlyS * 1000)}`
}
