import { useEffect, useRef, useState } from 'react'
import type { Proposed, Wish } from '../../core/proposals/propose'
import type { ProposeReply, ProposeRequest } from '../../workers/propose.worker'
import { useLive } from '../live/store'

/** Typing goes on for this long without a new search, ms. */
const PAUSE_MS = 300

interface Proposals {
  /** What is known so far; null while nothing was asked for. */
  proposed: Proposed | null
  busy: boolean
  stop: () => void
}

/** Whole nodes for a wish, worked out beside the page and begun anew when the wish changes. */
export function useProposals({ text, power, alone }: Wish): Proposals {
  const catalog = useLive((s) => s.catalog)
  const worker = useRef<Worker | null>(null)
  const [state, setState] = useState<{ key: string; proposed: Proposed | null; busy: boolean }>({
    key: '',
    proposed: null,
    busy: false,
  })
  const key = JSON.stringify([text.trim(), power, alone])

  useEffect(() => {
    if (text.trim().length < 3) return
    const timer = setTimeout(() => {
      const w = new Worker(new URL('../../workers/propose.worker.ts', import.meta.url), { type: 'module' })
      worker.current = w
      w.onmessage = ({ data }: MessageEvent<ProposeReply>) => {
        setState({ key, proposed: data.proposed, busy: !data.done })
        if (data.done) w.terminate()
      }
      w.onerror = () => setState({ key, proposed: null, busy: false })
      w.postMessage({
        wish: { text, power, alone },
        items: { boards: Object.values(catalog.boards), parts: Object.values(catalog.parts) },
      } satisfies ProposeRequest)
    }, PAUSE_MS)
    return () => {
      clearTimeout(timer)
      worker.current?.terminate()
    }
  }, [key, text, power, alone, catalog])

  const asked = text.trim().length >= 3
  // What was found for another wish says nothing about this one.
  const current = state.key === key && asked ? state : { proposed: null, busy: asked }
  return {
    proposed: current.proposed,
    busy: current.busy,
    stop: () => {
      worker.current?.terminate()
      setState({ key, proposed: current.proposed, busy: false })
    },
  }
}
