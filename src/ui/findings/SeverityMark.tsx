import type { Severity } from '../../core/checks/finding'

/**
 * Severity by shape: a filled octagon stops, a triangle asks for a fix, a ring is a note. The word stands beside it.
 */
export function SeverityMark({ severity }: { severity: Severity }) {
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
