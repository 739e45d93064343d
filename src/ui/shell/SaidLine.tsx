'use client'
import { useEffect } from 'react'
import { useLive } from '../live/store'

const STAYS_MS = { told: 5000, refused: 12000 }

/** What the page has to say about what was just done; a refusal also says what would be accepted. */
export function SaidLine() {
  const said = useLive((s) => s.said)
  useEffect(() => {
    if (!said) return
    const timer = setTimeout(
      () => useLive.setState((s) => (s.said?.id === said.id ? { said: null } : {})),
      STAYS_MS[said.tone],
    )
    return () => clearTimeout(timer)
  }, [said])
  return (
    <div aria-live={said?.tone === 'refused' ? 'assertive' : 'polite'}>
      {said && (
        <div className="said" data-tone={said.tone}>
          <span>
            {said.text}
            {said.accepts && (
              <>
                <br />
                Accepted: {said.accepts}.
              </>
            )}
          </span>
          <button type="button" onClick={() => useLive.setState({ said: null })}>
            close
          </button>
        </div>
      )}
    </div>
  )
}
