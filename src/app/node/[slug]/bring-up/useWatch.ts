import { useEffect, useState } from 'react'
import { z } from 'zod'
import type { BringUpStep } from '@/core/bringup/step'
import { NOT_SEEN, type Seen, watched } from '@/core/bringup/watched'
import { ask } from '@/ui/live/api'
import { author } from '@/ui/live/store'
import { useRecent, windowFor } from '@/ui/live/useRecent'
import type { NodeLive } from '@/wire/protocol'
import type { Found } from './useFound'

/** How a reading moves alone is looked up this far back at least, s. */
const ALONE_S = 1800

interface Watching {
  node: { id: string; live: NodeLive }
  /** Of the step's signal, s. */
  intervalS: number
  /** Not before what has to be confirmed is. */
  open: boolean
  last: Found | undefined
  onKept: () => void
}

/**
 * What the product sees by itself from the opening of a step on, for a component that lives as long as the step: kept
 * by itself, once, unless a person has said otherwise. `again` lets it watch anew after a person's no.
 */
export function useWatch(step: BringUpStep, { node, intervalS, open, last, onKept }: Watching): Seen & Again {
  const { watch, key } = step
  const signalId = watch && 'signalId' in watch ? watch.signalId : ''
  const now = node.live.values[signalId]
  const here = () => ({ at: new Date().toISOString(), value: now?.value, known: now !== undefined })
  const [before, setBefore] = useState(here)
  const [anew, setAnew] = useState(false)
  const history = useRecent(node.id, signalId, Math.max(ALONE_S, windowFor(intervalS, 0)))
  const seen = watch ? watched(watch, node.live, { ...before, history }) : NOT_SEEN
  const ticks = open && step.expect.kind === 'seen' && seen.seen && (last === undefined || anew)
  useEffect(() => {
    if (!ticks) return
    const body = { key, value: null, ok: true, who: author(), remark: 'seen by itself' }
    void ask(`/api/nodes/${node.id}/bring-up`, z.looseObject({}), body).then(() => {
      setAnew(false)
      onKept()
    })
  }, [ticks, node.id, key, onKept])
  const saidNo = watch !== null && last?.ok === false && step.expect.kind === 'seen' && !anew
  const again = () => {
    setBefore(here())
    setAnew(true)
  }
  return { ...seen, again: saidNo ? again : null }
}

interface Again {
  /** Null where nothing was said that stands against it. */
  again: (() => void) | null
}
