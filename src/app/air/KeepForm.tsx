'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { slugFrom } from '@/core/model/slug'
import { isReservedNode } from '@/core/model/reserved'
import { senderTag } from '@/core/model/sender'
import { type Becomes, senderFrom, USUAL_END_S } from '@/core/model/senderFrom'
import type { InTheAir } from '@/core/radio/candidates'
import { type ClientNode, editShop, say, useLive } from '@/ui/live/store'

/** Name it, place it, done: the sender goes into the shop, with its family where nobody had described that. */
export function KeepForm({
  becomes,
  found,
  codes,
  gateways,
  onOpen,
  onKept,
}: {
  becomes: Becomes
  found: InTheAir
  codes: readonly string[]
  gateways: readonly ClientNode[]
  onOpen: () => void
  onKept: () => void
}) {
  const { shop, nodes } = useLive()
  // Who hears it best speaks for it first.
  const byHearing = [...gateways].sort((a, b) => (found.by[b.design.slug] ?? 0) - (found.by[a.design.slug] ?? 0))
  const [name, setName] = useState('')
  const [place, setPlace] = useState('')
  const [ends, setEnds] = useState(false)
  const [off, setOff] = useState<string[]>(byHearing.filter((g) => !found.by[g.design.slug]).map((g) => g.id))
  const state = becomes === 'event' && ends ? 'ending state' : becomes
  const keep = () => {
    const known = Object.entries(shop.families).find(([, f]) => f.name === found.family.name)
    const taken = [...Object.values(shop.senders).map((s) => s.slug), ...Object.values(nodes).map((n) => n.design.slug)]
    const slug = slugFrom(name, taken)
    const familyId = known?.[0] ?? freeId('f', shop.families)
    const sender = senderFrom({
      becomes: state,
      name: name.trim(),
      slug: isReservedNode(slug) ? slugFrom(`${slug} sender`, taken) : slug,
      tag: senderTag(Object.values(shop.senders).map((s) => s.tag)),
      order: Math.max(-1, ...Object.values(shop.senders).map((s) => s.order)) + 1,
      place: place || null,
      family: { id: familyId, family: found.family },
      codes,
      endS: state === 'ending state' ? USUAL_END_S['ending state'] : USUAL_END_S['two codes'],
      said: state === 'two codes' ? { on: 'open', off: 'closed' } : { on: 'yes', off: 'no' },
      receivers: byHearing.filter((g) => !off.includes(g.id)).map((g) => g.id),
    })
    const made = editShop(...(known ? [] : [{ kind: 'set-family' as const, familyId, family: found.family }]), {
      kind: 'set-sender',
      senderId: freeId('a', shop.senders),
      sender,
    })
    if (!made) return
    say(`${sender.name} is ${sender.tag} now. Send it to its receivers: then it works without this page.`)
    onKept()
  }
  return (
    <Form
      className="keep"
      onFocus={onOpen}
      onSubmit={(e) => {
        e.preventDefault()
        keep()
      }}
    >
      <div className="sum-fields">
        <Form.Group controlId="sender-name">
          <Form.Label>what it is called</Form.Label>
          <Form.Control value={name} maxLength={60} required onChange={(e) => setName(e.target.value)} />
        </Form.Group>
        <Form.Group controlId="sender-place">
          <Form.Label>where it is</Form.Label>
          <Form.Select value={place} onChange={(e) => setPlace(e.target.value)}>
            <option value="">nowhere in particular</option>
            {Object.entries(shop.places).map(([id, p]) => (
              <option key={id} value={id}>
                {p.name}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
      </div>
      <p className="mt-2 mb-1">carried by, in this order:</p>
      {byHearing.map((g) => (
        <Form.Check
          key={g.id}
          id={`carries-${g.design.slug}`}
          label={`${g.design.name}: ${found.by[g.design.slug] ?? 0} of ${found.arrivals.length} bursts whole`}
          checked={!off.includes(g.id)}
          onChange={(e) => setOff(e.target.checked ? off.filter((o) => o !== g.id) : [...off, g.id])}
        />
      ))}
      {becomes === 'event' && (
        <Form.Check
          className="mt-2"
          id="sender-ends"
          label="a state that ends: “yes” for two minutes after it was heard. Never for anything that keeps somebody safe: it cannot say “no”."
          checked={ends}
          onChange={(e) => setEnds(e.target.checked)}
        />
      )}
      <p className="pt-2">
        <Button type="submit" disabled={name.trim() === '' || off.length === gateways.length}>
          Keep it
        </Button>
      </p>
    </Form>
  )
}

function freeId(letter: string, taken: Record<string, unknown>): string {
  for (let n = 1; ; n++) if (!(`${letter}${n}x` in taken)) return `${letter}${n}x`
}
