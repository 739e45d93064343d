'use client'
import { useEffect, useState } from 'react'
import Link from 'next/link'
import { Button, Modal } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import { benchName, benchPath } from '@/ui/shell/places'
import { type Sent, type SendingPlan, sendingPlanSchema, sentSchema } from '@/wire/sending'

const REACH = { here: '', asleep: 'takes it when it wakes', away: 'cannot be reached now' }
const OUTCOME: Record<Sent['outcome'], string> = {
  runs: '✓ runs',
  waits: 'waits',
  failed: '✕ does not run',
  held: 'held',
  'not sent': 'not sent',
}

/** Every node whose file is behind, why, and in which order they are sent; sends them one after the other. */
export function Sending({ show, onHide }: { show: boolean; onHide: () => void }) {
  const [plan, setPlan] = useState<SendingPlan | null>(null)
  const [busy, setBusy] = useState(false)
  const [sent, setSent] = useState<Sent[]>([])
  const nodes = useLive((s) => s.nodes)
  useEffect(() => {
    if (!show) return
    void ask('/api/sending', sendingPlanSchema).then((a) =>
      a.kind === 'ok' ? setPlan(a.value) : say(a.error, 'refused'),
    )
  }, [show])
  const send = async () => {
    setBusy(true)
    setSent([])
    const a = await ask('/api/sending', sentSchema, {})
    setBusy(false)
    if (a.kind === 'ok') setSent(a.value)
    else say(a.error, 'refused')
  }
  const stop = () => void ask('/api/sending', z.unknown(), {}, 'DELETE')
  const standing = (id: string) => {
    const done = sent.find((s) => s.id === id)
    if (done) return `${OUTCOME[done.outcome]}${done.why ? `: ${done.why}` : ''}`
    return nodes[id]?.live.sending?.step ?? ''
  }
  return (
    <Modal show={show} onHide={onHide} size="lg" scrollable aria-labelledby="sending-title">
      <Modal.Body tabIndex={0}>
        <h2 id="sending-title">Who is behind, and the order to send them</h2>
        <p className="small soft">
          Nodes that keep their name come first, then those that move to another, sleepers when they wake. The next is
          sent when the one before runs; what does not run ends it, so that the same mistake is not made everywhere.
        </p>
        {plan && plan.order.length + plan.left.length === 0 && <p>Every node runs what its design and the shop say.</p>}
        <ol className="plain">
          {plan?.order.map((n) => (
            <li key={n.id} data-sends={n.name}>
              <b>{n.name}</b> <span className="soft">{REACH[n.reach]}</span>{' '}
              <span role="status" data-sent={sent.find((s) => s.id === n.id)?.outcome}>
                {standing(n.id)}
              </span>
              <div className="small">{n.why.join('; ')}</div>
              <HeldBy slug={nodes[n.id]?.design.slug ?? n.id} stops={sent.find((s) => s.id === n.id)?.stops ?? []} />
            </li>
          ))}
        </ol>
        {plan && plan.left.length > 0 && (
          <>
            <p className="mb-1">Not reached, and sent by nobody until they are back:</p>
            <ul className="plain">
              {plan.left.map((n) => (
                <li key={n.id}>
                  <b>{n.name}</b> <span className="small">{n.why.join('; ')}</span>
                </li>
              ))}
            </ul>
          </>
        )}
        <p className="d-flex gap-2 pt-2 mb-0">
          {plan && plan.order.length > 0 && sent.length === 0 && (
            <Button disabled={busy} onClick={() => void send()}>
              Send them in this order
            </Button>
          )}
          {busy && (
            <Button variant="quiet" onClick={stop}>
              Stop after this one
            </Button>
          )}
          <Button variant="quiet" onClick={onHide}>
            Close
          </Button>
        </p>
      </Modal.Body>
    </Modal>
  )
}

/** What holds a node, each with the way to where it is seen to; whoever goes on past it does so from there, by name. */
function HeldBy({ slug, stops }: { slug: string; stops: Sent['stops'] }) {
  if (stops.length === 0) return null
  return (
    <ul className="small">
      {stops.map((s) => (
        <li key={s.key}>
          {s.sentence} <Link href={benchPath(slug, s.bench)}>see to it: {benchName(s.bench)}</Link>
        </li>
      ))}
    </ul>
  )
}
