'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { Fit } from '@/core/calibration/fit'
import { fixed, signed } from '@/core/units/format'
import type { TakenPair } from './usePairs'

interface PairTableProps {
  pairs: readonly TakenPair[]
  fit: Fit | null
  scale: number
  unit: string
  decimals: number
  onChange: (pairs: TakenPair[]) => void
}

/** The pairs, what is left over of each, and which do not count and why. */
export function PairTable({ pairs, fit, scale, unit, decimals, onChange }: PairTableProps) {
  const [asking, setAsking] = useState<number | null>(null)
  const counted = pairs.filter((p) => p.aside === undefined)
  const change = (i: number, aside: string | undefined) =>
    onChange(pairs.map((p, k) => (k === i ? { ...p, aside } : p)))
  return (
    <table className="table mt-3" aria-label="pairs taken">
      <thead>
        <tr>
          <th scope="col">reads, {unit}</th>
          <th scope="col">reference, {unit}</th>
          <th scope="col">left over</th>
          <th scope="col">
            <span className="visually-hidden">what to do with it</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {pairs.map((p, i) => {
          const at = counted.indexOf(p)
          const stranger = fit?.strangers.includes(at) === true
          return (
            <tr key={i} data-aside={p.aside ?? ''} data-stranger={stranger}>
              <td>
                {fixed(p.raw * scale, decimals)}
                {p.scatter !== undefined && (
                  <div className="small soft">± {fixed(p.scatter * scale, decimals + 1)}</div>
                )}
              </td>
              <td>
                {fixed(p.reference * scale, decimals)}
                {p.u !== undefined && <div className="small soft">± {fixed(p.u * scale, decimals)}</div>}
              </td>
              <td>
                {p.aside !== undefined && <span className="small">set aside: {p.aside}</span>}
                {p.aside === undefined && leftOver(fit, at, scale, decimals)}
                {stranger && (
                  <div className="small">Does not belong to the others: measure it again, or say why not.</div>
                )}
              </td>
              <td>
                {p.aside === undefined ? (
                  <Button
                    variant="bare"
                    className="small"
                    aria-label={`set pair ${i + 1} aside`}
                    onClick={() => setAsking(i)}
                  >
                    set aside
                  </Button>
                ) : (
                  <Button
                    variant="bare"
                    className="small"
                    aria-label={`count pair ${i + 1} again`}
                    onClick={() => change(i, undefined)}
                  >
                    count it
                  </Button>
                )}{' '}
                <Button
                  variant="bare"
                  className="small"
                  aria-label={`remove pair ${i + 1}`}
                  onClick={() => onChange(pairs.filter((_, k) => k !== i))}
                >
                  remove
                </Button>
                {asking === i && (
                  <AsideReason
                    onSay={(why) => {
                      change(i, why)
                      setAsking(null)
                    }}
                  />
                )}
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

const leftOver = (fit: Fit | null, at: number, scale: number, decimals: number): string =>
  fit && fit.freedom > 0 ? signed((fit.residuals[at] ?? 0) * scale, decimals) : '–'

function AsideReason({ onSay }: { onSay: (why: string) => void }) {
  const [why, setWhy] = useState('')
  return (
    <Form
      onSubmit={(e) => {
        e.preventDefault()
        if (why.trim() !== '') onSay(why.trim().slice(0, 80))
      }}
    >
      <Form.Label htmlFor="aside-why" className="small mb-0">
        why it does not count
      </Form.Label>
      <Form.Control id="aside-why" size="sm" value={why} autoFocus onChange={(e) => setWhy(e.target.value)} />
    </Form>
  )
}
