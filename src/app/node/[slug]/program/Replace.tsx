'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { boardReplaced } from '@/core/bundle/boardReplaced'
import type { Replaces } from '@/wire/held'
import { author, editAll, rememberAuthor, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** The board is dead: another takes its place, under the same name, in one go. */
export function Replace({
  view,
  busy,
  onBundle,
}: {
  view: NodeView
  busy: boolean
  onBundle: (replaces: Replaces) => Promise<boolean>
}) {
  const {
    node: { id, design, live },
    board,
    catalog,
  } = view
  const [open, setOpen] = useState(false)
  const [by, setBy] = useState('')
  const [why, setWhy] = useState('')
  const [done, setDone] = useState(false)
  const { stays, again, measured } = boardReplaced(design, catalog)
  if (!open)
    return (
      <p className="mt-3 mb-0">
        <Button variant="quiet" onClick={() => (setBy(author()), setOpen(true))}>
          Its board is dead: put another in its place
        </Button>
      </p>
    )
  const here = live.status?.is === 'online'
  const go = async () => {
    if (by.trim() === '') return say('Write your name: the logbook keeps who replaced the board.', 'refused')
    rememberAuthor(by.trim())
    if (!(await onBundle({ by: by.trim(), why: why.trim() }))) return
    const drop = measured.map((input) => ({ kind: 'set-measured' as const, input, measured: null }))
    if (drop.length > 0) editAll(id, drop)
    setDone(true)
  }
  return (
    <section aria-label="another board" className="mt-3" data-replace={done ? 'written' : 'open'}>
      <h2>Another board in its place</h2>
      {here && !done && (
        <p role="alert">
          <b>A board is connected under this name now.</b> It is cut off, and its password stops working, with the
          bundle.
        </p>
      )}
      <p className="mb-1">The new board takes over:</p>
      <ul className="small">
        {stays.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ul>
      <p className="mb-1">To look at again once it runs:</p>
      <ul className="small">
        {again.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ul>
      <p className="small soft">
        The same kind, {board.name}, goes in as it is. Another kind is chosen on the Pins bench first, where the wires
        that move are shown.
      </p>
      {done ? (
        <p role="status">
          The bundle is with the browser’s downloads. Follow the steps beside; the node is here when the new board comes
          in.
        </p>
      ) : (
        <div className="fields">
          <div>
            <Form.Label htmlFor="replace-by">who</Form.Label>
            <Form.Control id="replace-by" value={by} style={{ width: 130 }} onChange={(e) => setBy(e.target.value)} />
          </div>
          <div>
            <Form.Label htmlFor="replace-why">what became of the old one</Form.Label>
            <Form.Control
              id="replace-why"
              value={why}
              maxLength={200}
              style={{ width: 260 }}
              onChange={(e) => setWhy(e.target.value)}
            />
          </div>
          <Button disabled={busy} onClick={() => void go()}>
            Make its bundle
          </Button>
          <Button variant="quiet" onClick={() => setOpen(false)}>
            Leave it
          </Button>
        </div>
      )}
    </section>
  )
}
