'use client'
import { useState } from 'react'
import { Button, Form, Modal } from 'react-bootstrap'
import { type Held, heldSchema, type Past, pastSchema } from '@/wire/held'
import { author, rememberAuthor } from '../live/store'

/** Names the stops that stand against sending or bundling, and lets a person go on past them by name. */
export function GoOn({
  held,
  doing,
  onGo,
  onHide,
}: {
  held: Held
  doing: 'Send' | 'Bundle' | 'Install'
  onGo: (past: Past) => void
  onHide: () => void
}) {
  const [by, setBy] = useState(() => author())
  const [problem, setProblem] = useState('')
  const barred = held.barred.length > 0
  const go = () => {
    const past = pastSchema.safeParse({ by, of: held.stops.map((s) => s.key) })
    if (!past.success) return setProblem(past.error.issues[0]?.message ?? '')
    rememberAuthor(past.data.by)
    onGo(past.data)
  }
  return (
    <Modal show onHide={onHide} aria-labelledby="go-on-title">
      <Modal.Body>
        <h2 id="go-on-title">{held.stops.length === 1 ? 'A stop stands' : `${held.stops.length} stops stand`}</h2>
        <ul className="mt-2">
          {held.stops.map((s) => (
            <li key={s.key}>
              {s.sentence}
              {held.barred.includes(s.key) && <b> Not without a name under it.</b>}
            </li>
          ))}
        </ul>
        {barred ? (
          <>
            <p>
              What hangs on the mains, moves, heats or floods is not bundled before somebody has read its caution and
              put a name to it: on the Parts bench, key 1.
            </p>
            <Button onClick={onHide}>Back</Button>
          </>
        ) : (
          <Form
            onSubmit={(e) => {
              e.preventDefault()
              go()
            }}
          >
            <Form.Label htmlFor="go-on-by">who goes on all the same</Form.Label>
            <Form.Control
              id="go-on-by"
              value={by}
              autoFocus
              autoComplete="off"
              isInvalid={problem !== ''}
              onChange={(e) => setBy(e.target.value)}
            />
            {problem && (
              <div className="small" role="alert">
                {problem}
              </div>
            )}
            <p className="small soft mt-2">The logbook keeps the name and these stops.</p>
            <div className="d-flex gap-2">
              <Button variant="quiet" onClick={onHide}>
                Back
              </Button>
              <Button type="submit">{doing} all the same</Button>
            </div>
          </Form>
        )}
      </Modal.Body>
    </Modal>
  )
}

/** The stops an answer was held up by, where it was. */
export function heldIn(body: unknown): Held | null {
  const read = heldSchema.safeParse(body)
  return read.success ? read.data : null
}
