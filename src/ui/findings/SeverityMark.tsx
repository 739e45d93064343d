import type { Severity } from '../../core/checks/finding'

/** What concerns people rather than the wiring: a head and shoulders. */
function PeopleMark() {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" style={{ flex: 'none' }}>
      <circle cx="8" cy="4.600" r="3" fill="none" stroke="currentColor" strokeWidth="1.700" />
      <path
        d="M1.800 15c.5-4 3-5.600 6.200-5.600s5.700 1.600 6.200 5.600"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.700"
      />
    </svg>
  )
}

/**
 * Severity by shape: a filled octagon stops, a triangle asks for a fix, a ring is a note; a stop for the sake of people
 * in the room has a mark of its own. The word stands beside it.
 */
export function SeverityMark({ severity, people = false }: { severity: Severity; people?: boolean }) {
  if (people) return <PeopleMark />
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" style={{ flex: 'none' }}>
      {severity === 'stop' && <path d="M 5 .5 h 6 L 15.5 5 v 6 L 11 15.5 H 5 L .5 11 V 5 z" fill="currentColor" />}
      {severity === 'fix' && (
        <path d="M8 2 15 14.500H1z" fill="none" stroke="currentColor" strokeWidth="2" strokeLinejoin="round" />
      )}
      {severity === 'note' && <circle cx="8" cy="8" r="6" fill="none" stroke="currentColor" strokeWidth="1.700" />}
    </svg>
  )
}
