import { useEffect, useRef, useState } from 'react'
import type { Design } from '../../core/design/design'
import type { PinPlan } from '../../core/pins/planPins'
import type { RankedBoard } from '../../core/pins/rankBoards'
import type { Freeing } from '../../core/pins/remedies'
import type { PlanReply, PlanRequest } from '../../workers/plan.worker'
import { useLive } from '../live/store'

export interface Planning<T> { result: T | null; busy: boolean; explored: number; stop: () => void }

type What = PlanRequest['what']
interface Results { afresh: PinPlan; boards: RankedBoard[]; frees: Freeing[] }

/** Long planning beside the page: begun anew for every design, with what is known so far when it is stopped. `on` false leaves it be. */
export function usePlanning<W extends What>(what: W, design: Design, on: boolean): Planning<Results[W]> {
  const items = useLive((s) => s.catalog)
  const worker = useRef<Worker | null>(null)
  const best = useRef<PinPlan | null>(null)
  const [state, setState] = useState<{ result: Results[W] | null; busy: boolean; explored: number }>({ result: null, busy: on, explored: 0 })

  useEffect(() => {
    if (!on) return
    best.current = null
    const w = new Worker(new URL('../../workers/plan.worker.ts', import.meta.url), { type: 'module' })
    worker.current = w
    w.onmessage = ({ data }: MessageEvent<PlanReply>) => {
      if (data.kind === 'progress') {
        best.current = data.best
        setState((s) => ({ ...s, busy: true, explored: data.explored }))
        return
      }
      const result = data.kind === 'plan' ? data.plan : data.kind === 'boards' ? data.boards : data.frees
      setState({ result: result as Results[W], busy: false, explored: data.kind === 'plan' ? data.plan.explored : 0 })
      w.terminate()
    }
    w.onerror = () => setState((s) => ({ ...s, busy: false }))
    w.postMessage({ id: 1, what, design, items: { boards: Object.values(items.boards), parts: Object.values(items.parts) } } satisfies PlanRequest)
    return () => w.terminate()
  }, [what, design, items, on])

  const stop = () => {
    worker.current?.terminate()
    setState((s) => ({ ...s, result: (best.current as Results[W] | null) ?? s.result, busy: false }))
  }
  return { ...state, stop }
}
