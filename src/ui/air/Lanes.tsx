import { Fragment } from 'react'
import type { Press } from '../../core/radio/learning'

export interface Lane {
  id: string
  name: string
  arrivals: readonly { atMs: number }[]
  odds: string
  detail: string
  best: boolean
}

const [WIDE, TALL] = [1000, 54]

interface Span {
  fromMs: number
  toMs: number
}

const at = ({ fromMs, toMs }: Span, ms: number) => (WIDE * (ms - fromMs)) / Math.max(1, toMs - fromMs)

/** Presses across the arrivals of each candidate, on one line of time. */
export function Lanes({ lanes, presses, fromMs, toMs }: { lanes: readonly Lane[]; presses: readonly Press[] } & Span) {
  const span = { fromMs, toMs }
  const inside = (ms: number) => ms >= fromMs && ms <= toMs
  const xs = presses.filter((p) => inside(p.atMs)).map((p) => at(span, p.atMs))
  const times = (arrivals: Lane['arrivals']) => arrivals.filter((a) => inside(a.atMs)).map((a) => at(span, a.atMs))
  return (
    <div className="lanes" role="group" aria-label="presses and arrivals">
      <span className="soft small">your presses</span>
      <svg viewBox={`0 0 ${WIDE} 26`} preserveAspectRatio="none" aria-hidden>
        {xs.map((x) => (
          <path key={x} d={`M ${x - 8} 4 h 16 l -8 14 z`} className="press" />
        ))}
      </svg>
      <span />
      {lanes.map((lane) => (
        <Fragment key={lane.id}>
          <span className="name">{lane.name}</span>
          <svg
            viewBox={`0 0 ${WIDE} ${TALL}`}
            preserveAspectRatio="none"
            role="img"
            aria-label={`${times(lane.arrivals).length} arrivals of ${lane.name}`}
            data-lane={lane.id}
          >
            <line x1={0} x2={WIDE} y1={TALL / 2} y2={TALL / 2} className="axis" />
            {xs.map((x) => (
              <line key={x} x1={x} x2={x} y1={0} y2={TALL} className="pressed" />
            ))}
            {times(lane.arrivals).map((x, i) => (
              <rect key={i} x={x} y={TALL / 2 - 15} width={6} height={30} className={lane.best ? 'best' : 'other'} />
            ))}
          </svg>
          <span className="odds">
            <b>{lane.odds}</b>
            <span className="small soft d-block">{lane.detail}</span>
          </span>
        </Fragment>
      ))}
      <span />
      <span className="small soft span">{Math.round((toMs - fromMs) / 1000)} s until now</span>
      <span />
    </div>
  )
}
