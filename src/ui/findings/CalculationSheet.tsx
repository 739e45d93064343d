'use client'
import { useState } from 'react'
import { Button, Form, Offcanvas } from 'react-bootstrap'
import { offersOf, CALCULATIONS } from '../../core/calculations/calculations'
import type { Calculation, CalculationField } from '../../core/calculations/calculation'
import { type OpenCalculation, writeBack } from '../../core/calculations/writeBack'
import type { Design } from '../../core/model/design'
import { editAll, say } from '../live/store'
import { WorkingSteps } from './WorkingSteps'

interface SumSheetProps {
  nodeId: string
  design: Design
  sum: OpenCalculation
  subject: string
  onHide: () => void
}

/** Fields are shown in the prefix a person would say them in. */
const SHOWN: Record<string, { unit: string; factor: number }> = {
  A: { unit: 'mA', factor: 1000 },
  F: { unit: 'nF', factor: 1e9 },
  s: { unit: 'µs', factor: 1e6 },
}
const shownAs = (f: CalculationField, value: number) => {
  if (f.unit === '1' && f.max <= 1) return { unit: '%', factor: 100 }
  if (f.unit === 'A' && value >= 1) return { unit: 'A', factor: 1 }
  return SHOWN[f.unit] ?? { unit: f.unit === '1' ? '' : f.unit, factor: 1 }
}

/**
 * A sum of the bench, filled in from the design: every value can be changed, values that can be bought are offered, and
 * one goes back as an edit.
 */
export function CalculationSheet({ nodeId, design, sum: open, subject, onHide }: SumSheetProps) {
  const sum: Calculation = CALCULATIONS[open.id]
  const [values, setValues] = useState<Record<string, number>>({ ...open.given })
  const [units] = useState(() => Object.fromEntries(sum.fields.map((f) => [f.id, shownAs(f, open.given[f.id] ?? 0)])))
  const answer = sum.solve(values)
  const offers = offersOf(open.id, values)
  const edits = writeBack(design, open, values)
  const put = () => {
    if (editAll(nodeId, edits)) say(`${sum.title}: put in. Ctrl-Z takes it back.`)
    onHide()
  }
  return (
    <Offcanvas show onHide={onHide} placement="end" aria-label={`${sum.title}, ${subject}`} data-sum={open.id}>
      <Offcanvas.Header closeButton>
        <Offcanvas.Title>
          {sum.title} <span className="soft small">{subject}</span>
        </Offcanvas.Title>
      </Offcanvas.Header>
      <Offcanvas.Body>
        <div className="sum-fields">
          {sum.fields.map((f) => {
            const { unit = '', factor = 1 } = units[f.id] ?? {}
            const value = values[f.id] ?? 0
            return (
              <Form.Group key={f.id} controlId={`sum-${f.id}`}>
                <Form.Label>
                  {f.label}
                  {unit && <span className="soft">, {unit}</span>}
                </Form.Label>
                <Form.Control
                  type="number"
                  step="any"
                  value={Number((value * factor).toPrecision(6))}
                  isInvalid={value < f.min || value > f.max}
                  onChange={(e) => {
                    const n = Number(e.target.value)
                    if (Number.isFinite(n)) setValues({ ...values, [f.id]: n / factor })
                  }}
                />
              </Form.Group>
            )
          })}
        </div>
        <p className="verdict" data-ok={answer.ok} role="status">
          {answer.ok ? '✓' : '✕'} {answer.words}
        </p>
        {offers.length > 0 && (
          <table className="table offers">
            <thead>
              <tr>
                <th scope="col">series</th>
                <th scope="col">value</th>
                <th scope="col">off by</th>
                <th scope="col">then</th>
                <th scope="col">
                  <span className="visually-hidden">take</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {offers.map((o) => (
                <tr key={o.series + o.value}>
                  <td>{o.series}</td>
                  <td>
                    <b>{o.text}</b>
                  </td>
                  <td>
                    {o.series === 'as sold' ? '' : `${o.off >= 0 ? '+' : '−'}${Math.abs(o.off * 100).toFixed(1)} %`}
                  </td>
                  <td>{o.answer.ok ? 'fine' : 'not enough'}</td>
                  <td className="text-end">
                    <Button variant="quiet" onClick={() => setValues({ ...values, value: o.value })}>
                      Take {o.text}
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        <WorkingSteps working={{ steps: answer.steps, source: sum.source }} />
        {edits.length > 0 && (
          <Button variant="primary" onClick={put} data-put>
            Put it into the design
          </Button>
        )}
      </Offcanvas.Body>
    </Offcanvas>
  )
}
