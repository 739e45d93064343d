'use client'
import { railLoads } from '@/core/power/railLoads'
import type { NodeView } from '@/ui/live/useNode'
import { amps } from '@/core/units/format'

/** Rail by rail: what hangs on it, at rest, at its peak and in its first moment, against what it gives. */
export function Rails({ view: { node, board, catalog } }: { view: NodeView }) {
  const rails = railLoads(node.design, board, catalog).filter((r) => r.loads.length > 0)
  return (
    <section aria-label="rails" className="mt-4">
      <h2>Rail by rail</h2>
      <table className="table stacked">
        <thead>
          <tr>
            <th scope="col">rail</th>
            <th scope="col">what hangs on it</th>
            <th scope="col">at rest</th>
            <th scope="col">peaks together</th>
            <th scope="col">gives</th>
            <th scope="col">left</th>
          </tr>
        </thead>
        <tbody>
          {rails.map((r) => (
            <tr key={r.rail.id}>
              <td>
                {r.rail.name}
                <br />
                <span className="small soft">
                  {r.rail.min} to {r.rail.max} V
                </span>
              </td>
              <td className="small">{r.loads.map((l) => `${l.label} ${amps(l.peakA)}`).join(', ')}</td>
              <td>{amps(r.idleA)}</td>
              <td>{amps(r.peakA)}</td>
              <td>{amps(r.rail.limitA)}</td>
              <td className={r.peakA > r.rail.limitA ? 'fw-bold' : undefined}>
                {r.peakA > r.rail.limitA ? `${amps(r.peakA - r.rail.limitA)} too much` : amps(r.rail.limitA - r.peakA)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
