'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { carryBack } from '@/core/bringup/carryBack'
import type { BringUpStep } from '@/core/bringup/step'
import { pinsOf } from '@/core/catalog/board'
import { addedOn } from '@/core/model/design'
import { ohms } from '@/core/units/format'
import { meterNumber } from '@/core/units/meter'
import { editAll, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** What the hands did otherwise than drawn goes back into the design, at the step where it shows. */
export function MadeOtherwise({ view, step }: { view: NodeView; step: BringUpStep }) {
  const [open, setOpen] = useState(false)
  const lines = step.lines ?? []
  if (lines.length === 0) return null
  return (
    <div className="made-otherwise" data-open={open}>
      <Button variant="quiet" onClick={() => setOpen(!open)}>
        It was made otherwise
      </Button>
      {open && lines.map((line) => <LineMade key={line.key} view={view} line={line} />)}
    </div>
  )
}

function LineMade({ view, line }: { view: NodeView; line: { key: string; name: string } }) {
  const { board } = view
  const { id, design } = view.node
  const divider = addedOn(design, line.key, 'divider')
  const [top, setTop] = useState('')
  const [bottom, setBottom] = useState('')
  const carry = (made: Parameters<typeof carryBack>[2], words: string) => {
    const edits = carryBack(design, line.key, made)
    if (edits.length > 0 && editAll(id, edits)) say(`${words} Everything has been checked again; Ctrl-Z takes it back.`)
  }
  const [topOhm, bottomOhm] = [meterNumber(top), meterNumber(bottom)]
  return (
    <div className="fields mt-2">
      <div>
        <Form.Label htmlFor={`mo-${line.key}`}>{line.name} sits on</Form.Label>
        <Form.Select
          id={`mo-${line.key}`}
          style={{ width: 120 }}
          value={design.plan.pins[line.key] ?? ''}
          onChange={(e) => carry({ pin: e.target.value }, `${line.name} is on ${e.target.value} now.`)}
        >
          {pinsOf(board).map((p) => (
            <option key={p.label}>{p.label}</option>
          ))}
        </Form.Select>
      </div>
      {divider && (
        <>
          {[
            { name: divider.value.names[0], ohm: divider.value.topOhm, text: top, set: setTop },
            { name: divider.value.names[1], ohm: divider.value.bottomOhm, text: bottom, set: setBottom },
          ].map(({ name, ohm, text, set }) => (
            <div key={name}>
              <Form.Label htmlFor={`mo-${name}`}>{name} is, Ω</Form.Label>
              <Form.Control
                id={`mo-${name}`}
                style={{ width: 120 }}
                value={text}
                placeholder={ohms(ohm)}
                onChange={(e) => set(e.target.value)}
              />
            </div>
          ))}
          <Button
            disabled={topOhm === null || bottomOhm === null}
            onClick={() => {
              if (topOhm !== null && bottomOhm !== null)
                carry({ topOhm, bottomOhm }, `The design has ${ohms(topOhm)} over ${ohms(bottomOhm)} now.`)
            }}
          >
            Carry it back
          </Button>
        </>
      )}
    </div>
  )
}
