'use client'
import { useEffect, useState } from 'react'
import type { LedgerRow } from '@/wire/protocol'
import { sharedStream } from '@/ui/live/sharedStream'

/** Rows a browser keeps. */
export const MOST_ROWS = 50_000

/** Messages as they pass, oldest first. While paused they gather and are shown when it goes on. */
export function useRows(paused: boolean): { rows: LedgerRow[]; waiting: number; cut: boolean } {
  const [state, setState] = useState<{ rows: LedgerRow[]; held: LedgerRow[] }>({ rows: [], held: [] })
  const [cut, setCut] = useState(false)

  useEffect(() => {
    return sharedStream({
      path: '/api/ledger',
      kinds: ['rows'],
      consecutive: false,
      onLink: (link) => setCut(link === 'lost'),
      onEvent: ({ data }) => {
        const fresh = JSON.parse(data) as LedgerRow[]
        setState((s) => {
          const last = s.held.at(-1)?.id ?? s.rows.at(-1)?.id ?? 0
          // After a restart of the server ids begin anew.
          const added = (fresh[0]?.id ?? 0) < last - MOST_ROWS ? fresh : fresh.filter((r) => r.id > last)
          return { ...s, held: [...s.held, ...added].slice(-MOST_ROWS) }
        })
      },
    })
  }, [])

  const show = !paused && state.held.length > 0
  if (show) setState({ rows: [...state.rows, ...state.held].slice(-MOST_ROWS), held: [] })
  return { rows: state.rows, waiting: state.held.length, cut }
}
