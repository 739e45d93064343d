import type { Bounced } from '@/core/trace/closely'

const W = 420
const H = 30

/** What a contact did at its last movements, each edge in its place, and the debounce it would take. */
export function BounceList({ moved, debounceMs }: { moved: readonly Bounced[]; debounceMs: number }) {
  const longestUs = Math.max(...moved.map((m) => m.us))
  const scaleUs = Math.max(2000, longestUs)
  return (
    <section aria-label="bounce" data-bounces={moved.length}>
      <p className="pt-2 mb-1">
        {moved.length} {moved.length === 1 ? 'movement' : 'movements'}, the longest bounce{' '}
        {(longestUs / 1000).toFixed(1)} ms
        {debounceMs * 1000 > longestUs
          ? `: a debounce of ${debounceMs} ms outlasts it.`
          : `: a debounce of ${debounceMs} ms is shorter than that, and may count it twice.`}
      </p>
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
