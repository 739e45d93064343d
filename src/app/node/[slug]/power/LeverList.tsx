'use client'
import { Button } from 'react-bootstrap'
import type { Lever } from '@/core/energy/levers'
import { MONTH_H } from '@/core/units/hours'
import { editAll, say } from '@/ui/live/store'

const MOST_SHOWN = 12

/** What would be otherwise with each thing changed, in months, most gained first. */
export function LeverList({ nodeId, levers, lifeH }: { nodeId: string; levers: Lever[]; lifeH: number }) {
  const gains = levers.filter((l) => Math.abs(l.gainH) >= 0.01 * lifeH)
  const shown = [
    ...gains.filter((l) => l.gainH > 0).slice(0, MOST_SHOWN - 4),
    ...gains.filter((l) => l.gainH < 0).slice(0, 4),
  ]
  const most = Math.max(...shown.map((l) => Math.abs(l.gainH)), 1)
  return (
    <section aria-label="what would change it">
      <h2 className="mt-3">What would change it</h2>
      {levers.length === 0 && (
        <p className="soft small" role="status">
          Every change is being tried …
        </p>
      )}
      <table className="table levers stacked">
        <thead className="visually-hidden">
          <tr>
            <th scope="col">change</th>
            <th scope="col">drawn</th>
            <th scope="col">months</th>
            <th scope="col">needs</th>
            <th scope="col">do it</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((l) => (
            <tr key={l.id} data-lever={l.id}>
              <td>{l.words}</td>
              <td className="bar">
                <span
                  className={l.gainH < 0 ? 'less' : 'more'}
                  style={{ width: `${(Math.abs(l.gainH) / most) * 100}%` }}
                />
              </td>
              <td className="text-nowrap">
                <b>{monthWords(l.gainH)}</b>
              </td>
              <td className="small soft">{l.note}</td>
              <td className="text-nowrap">
                {l.edits && (
                  <Button
                    variant="bare"
                    aria-label={`do it: ${l.words}`}
                    onClick={() => {
                      if (editAll(nodeId, l.edits ?? [])) say(`${l.words}: done. Ctrl-Z takes it back.`)
                    }}
                  >
                    do it
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

function monthWords(hours: number): string {
  const months = hours / MONTH_H
  const sign = months < 0 ? '−' : '+'
  const size = Math.abs(months)
  return size >= 0.95 ? `${sign}${size.toFixed(1)} months` : `${sign}${Math.round(size * 30.44)} days`
}
