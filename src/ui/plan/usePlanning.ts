import { useEffect, useRef, useState } from 'react'
import type { Design } from '../../core/model/design'
import type { PlanReply, PlanRequest, PlanResults, PlanWhat } from '../../workers/plan.worker'
import { useLive } from '../live/store'

export interface Planning<T> {
  result: T | null
  busy: boolean
  /** How far it has come, in words. */ words: string
  stop: () => void
}

interface State {
  of: Design | null
  result: PlanReply['result']
  busy: boolean
  words: string
}

/**
 * Long planning beside the page, begun anew for every design: what is known so far while it goes on, and what was known
 * when it is stopped.
 */
export function usePlanning<W extends PlanWhat>(what: W, design: Design): Planning<PlanResults[W]> {
  const catalog = useLive((s) => s.catalog)
  const worker = useRef<Worker | null>(null)
  const [state, setState] = useState<State>({ of: null, result: null, busy: true, words: '' })

  useEffect(() => {
    const w = new Worker(new URL('../../workers/plan.worker.ts', import.meta.url), { type: 'module' })
    worker.current = w
    w.onmessage = ({ data }: MessageEvent<PlanReply>) => {
      setState({ of: design, result: data.result, busy: !data.done, words: data.words })
      if (data.done) w.terminate()
    }
    w.onerror = () =>
      setState({ of: design, result: null, busy: false, words: 'the planner stopped with an error; reload the page' })
    w.postMessage({
      what,
      design,
      items: { boards: Object.values(catalog.boards), parts: Object.values(catalog.parts) },
    } satisfies PlanRequest)
    return () => w.terminate()
  }, [what, design, catalog])

  // What was found for another design says nothing about this one.
  const current = state.of === design ? state : { result: null, busy: true, words: '' }
  return {
    // The worker answers what it was asked.
    result: current.result as PlanResults[W] | null,
    busy: current.busy,
    words: current.words,
    stop: () => {
      worker.current?.terminate()
      setState({ ...current, of: design, busy: false })
    },
  }
}
