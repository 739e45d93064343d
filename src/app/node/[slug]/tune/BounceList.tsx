import { useMemo } from 'react'
import { Button } from 'react-bootstrap'
import { contactReport, safeDebounce } from '@/core/conditioning/contacts'
import type { Bounced } from '@/core/trace/closely'
import { ohms } from '@/core/units/format'

const W = 420
const H = 30

interface BounceListProps {
  moved: readonly Bounced[]
  debounceMs: number
  /** Resistance below which a leak across the open contact reads as on, Ω; null where nothing pulls its line. */
  leakOhm: number | null
  onDebounce: (ms: number) => void
  /** Lets off count only after so many s; null where the part has no off. */
  onHold: ((s: number) => void) | null
}

/** What a contact did at its last movements, each edge in its place, the debounce it takes, and what is no bounce. */
export function BounceList({ moved, debounceMs, leakOhm, onDebounce, onHold }: BounceListProps) {
  const report = useMemo(
    () => contactReport(moved.map((m) => ({ atMs: m.atMs, on: m.closed, edgesUs: m.edgesUs }))),
    [moved],
  )
  const scaleUs = Math.max(2000, report.bounceMs * 1000)
  const { smallestMs, delayMs, chatter } = report
  const safe = smallestMs === null ? null : safeDebounce(smallestMs)
  return (
    <section aria-label="bounce" data-bounces={moved.length} data-smallest={smallestMs ?? 'none'}>
      <p className="pt-2 mb-1">
        {moved.length} {moved.length === 1 ? 'movement' : 'movements'}, the longest bounce {report.bounceMs.toFixed(1)}{' '}
        ms.{' '}
        {smallestMs === null
          ? 'No debounce up to 500 ms counts each of them once.'
          : `From ${smallestMs} ms on none counts twice${delayMs === null ? '' : `, at a delay of ${delayMs.toFixed(1)} ms`}.`}{' '}
        {smallestMs !== null && debounceMs < smallestMs && <b>The {debounceMs} ms it has are too short.</b>}{' '}
        {safe !== null && safe !== debounceMs && (
          <Button variant="quiet" onClick={() => onDebounce(safe)}>
            Set {safe} ms
          </Button>
        )}
      </p>
      {report.swallowed > 0 && (
        <p className="small">
          {report.swallowed} short {report.swallowed === 1 ? 'touch' : 'touches'} would be missed by it.
        </p>
      )}
      {chatter && (
        <p role="alert">
          {chatter.movements} movements within {(chatter.lastsMs / 1000).toFixed(1)} s: no bounce, a contact that is
          half pressed, such as a mat under a chair leg. It was off for up to {(chatter.longestOffMs / 1000).toFixed(2)}{' '}
          s among them.{' '}
          {onHold ? (
            <Button variant="quiet" onClick={() => onHold(holdFor(chatter))}>
              Let off count after {holdFor(chatter)} s
            </Button>
          ) : (
            `What goes by it should wait ${holdFor(chatter)} s before off counts.`
          )}
        </p>
      )}
      {report.hum && (
        <p role="alert">
          The edges come in step with the mains: this is a long or leaking line, not the contact. A resistor of a few kΩ
          from the line to 3.3 V at the pin, or twisted wire, ends it.
        </p>
      )}
      {leakOhm !== null && (
        <p className="small soft">
          On with nothing touching it? By this line’s pull-up anything below {ohms(leakOhm)} between its wires, damp in
          a cable or a mat, reads as on: measure there with one wire off.
        </p>
      )}
      <ul className="plain">
        {moved.slice(-8).map((m, i) => (
          <li key={`${moved.length} ${i}`} className="d-flex flex-wrap align-items-center gap-3">
            <span style={{ width: 250 }}>
              {m.closed ? 'on' : 'off'},{' '}
              {m.edges === 0 ? 'clean' : `${m.edges} more edges in ${(m.us / 1000).toFixed(1)} ms`}
            </span>
            <svg
              className="bounce"
              viewBox={`0 0 ${W} ${H}`}
              role="img"
              aria-label={`edges at ${m.edgesUs.join(', ')} µs`}
            >
              <path d={shape(m, scaleUs)} />
            </svg>
          </li>
        ))}
      </ul>
      <p className="small soft">The scale is {(scaleUs / 1000).toFixed(1)} ms wide, the same for all.</p>
    </section>
  )
}

/** Twice the longest off among movements that belong together, whole s. */
const holdFor = ({ longestOffMs }: { longestOffMs: number }): number => Math.ceil((2 * longestOffMs) / 1000)

/** The level over time: on above, off below. */
function shape({ closed, edgesUs }: Bounced, scaleUs: number): string {
  const y = (on: boolean) => (on ? 5 : H - 5)
  const x = (us: number) => 40 + (us / scaleUs) * (W - 80)
  let on = !closed
  let d = `M 0 ${y(on)}`
  for (const us of edgesUs) {
    d += ` H ${x(us).toFixed(1)}`
    on = !on
    d += ` V ${y(on)}`
  }
  return `${d} H ${W}`
}
