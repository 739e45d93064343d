'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { Input } from '@/core/energy/cycle'
import { author, edit, rememberAuthor, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** Unit a person reads a meter in, and the factor from the stored one. */
const SHOWN: Record<Input['unit'], { unit: string; factor: number }> = {
  A: { unit: 'mA', factor: 1000 },
  s: { unit: 's', factor: 1 },
  V: { unit: 'V', factor: 1 },
  Ah: { unit: 'mAh', factor: 1000 },
  Ω: { unit: 'Ω', factor: 1 },
  '': { unit: '%', factor: 100 },
}

/** Every number behind the life, with its source; what a meter shows takes the place of an estimate. */
export function Inputs({ view, inputs }: { view: NodeView; inputs: Input[] }) {
  return (
    <section aria-label="inputs" className="mt-4">
      <h2>What it is reckoned from</h2>
      <table className="table stacked">
        <thead>
          <tr>
            <th scope="col">input</th>
            <th scope="col">low</th>
            <th scope="col">likely</th>
            <th scope="col">high</th>
            <th scope="col">from</th>
            <th scope="col">measured</th>
          </tr>
        </thead>
        <tbody>
          {inputs.map((i) => (
            <InputRow key={i.id} nodeId={view.node.id} input={i} />
          ))}
        </tbody>
      </table>
    </section>
  )
}

function InputRow({ nodeId, input }: { nodeId: string; input: Input }) {
  const { unit, factor } = SHOWN[input.unit]
  const words = (v: number) => Number((v * factor).toPrecision(3)).toString()
  return (
    <tr data-input={input.id}>
      <td>{input.words}</td>
      {input.measured ? (
        <td colSpan={3}>
          <b>
            {words(input.value.likely)} {unit}
          </b>
        </td>
      ) : (
        <>
          <td>{words(input.value.low)}</td>
          <td>
            <b>{words(input.value.likely)}</b> {unit}
          </td>
          <td>{words(input.value.high)}</td>
        </>
      )}
      <td className="small soft">{input.source}</td>
      <td>
        {input.measured ? (
          <Button
            variant="bare"
            onClick={() => edit(nodeId, { kind: 'set-measured', input: input.id, measured: null })}
          >
            estimate again
          </Button>
        ) : (
          <Measure nodeId={nodeId} input={input} unit={unit} factor={factor} />
        )}
      </td>
    </tr>
  )
}

function Measure({ nodeId, input, unit, factor }: { nodeId: string; input: Input; unit: string; factor: number }) {
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const [by, setBy] = useState(() => author())
  if (!open)
    return (
      <Button variant="bare" aria-label={`I have measured: ${input.words}`} onClick={() => setOpen(true)}>
        I have measured it
      </Button>
    )
  const keep = () => {
    const value = Number(text.trim().replace(',', '.')) / factor
    if (text.trim() === '' || !(value >= 0)) return say(`Enter what the meter showed, in ${unit}.`, 'refused')
    if (by.trim() === '' || by.trim().length > 10) return say('Add your initials, at most 10 characters.', 'refused')
    rememberAuthor(by.trim())
    const date = new Date().toISOString().slice(0, 10)
    if (edit(nodeId, { kind: 'set-measured', input: input.id, measured: { value, date, by: by.trim() } }))
      setOpen(false)
  }
  return (
    <Form
      className="d-flex gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        keep()
      }}
    >
      <Form.Control
        aria-label={`${input.words}, ${unit}`}
        placeholder={unit}
        value={text}
        autoFocus
        inputMode="decimal"
        autoComplete="off"
        style={{ width: 86 }}
        onChange={(e) => setText(e.target.value)}
      />
      <Form.Control
        aria-label="initials"
        placeholder="initials"
        value={by}
        autoComplete="off"
        style={{ width: 86 }}
        onChange={(e) => setBy(e.target.value)}
      />
      <Button type="submit">Keep</Button>
    </Form>
  )
}
