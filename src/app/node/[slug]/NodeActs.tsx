'use client'
import { useRouter } from 'next/navigation'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { author, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** What is done with a node as a whole: once more, as a file, out of the shop. */
export function NodeActs({ view }: { view: NodeView }) {
  const router = useRouter()
  const { design, id } = view.node
  const [doing, setDoing] = useState<'copy' | 'retire' | null>(null)
  const [name, setName] = useState(`${design.name} 2`)
  const copy = async () => {
    const a = await ask(`/api/nodes/${id}/copy`, z.object({ slug: z.string() }), { name, author: author() })
    if (a.kind !== 'ok') return say(a.error, 'refused')
    say(`${name} is a copy of ${design.name}: wires unmade, nothing calibrated.`)
    router.push(`/node/${a.value.slug}`)
  }
  const retire = async () => {
    const a = await ask(`/api/nodes/${id}/retire`, z.object({}), { author: author() })
    if (a.kind !== 'ok') return say(a.error, 'refused')
    say(`${design.name} is retired. Settings, Retired nodes, brings it back or deletes it.`)
    router.push('/')
  }
  return (
    <div className="py-3 px-0" aria-label="the node as a whole" role="group">
      <div className="d-flex gap-2 flex-wrap align-items-center">
        <Button variant="quiet" aria-expanded={doing === 'copy'} onClick={() => setDoing('copy')}>
          Copy this node
        </Button>
        <a className="small" href={`/api/nodes/${id}/design`} download>
          design file
        </a>
        <Button variant="quiet" aria-expanded={doing === 'retire'} onClick={() => setDoing('retire')}>
          Retire it
        </Button>
      </div>
      {doing === 'copy' && (
        <Form
          className="d-flex gap-2 align-items-end mt-2"
          onSubmit={(e) => {
            e.preventDefault()
            void copy()
          }}
        >
          <div>
            <Form.Label htmlFor="copy-name">name of the copy</Form.Label>
            <Form.Control id="copy-name" value={name} autoFocus onChange={(e) => setName(e.target.value)} />
          </div>
          <Button type="submit">Make the copy</Button>
        </Form>
      )}
      {doing === 'retire' && (
        <div className="mt-2" role="alert">
          <p className="mb-2">
            {design.name} leaves the shop: its topics are cleared, so that controllers forget it, and its login stops.
            What it measured, its revisions and its logbook stay; it can be brought back.
          </p>
          <Button onClick={() => void retire()}>Retire {design.name}</Button>{' '}
          <Button variant="quiet" onClick={() => setDoing(null)}>
            Back
          </Button>
        </div>
      )}
    </div>
  )
}
