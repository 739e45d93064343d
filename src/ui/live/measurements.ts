'use client'
import { useCallback, useEffect, useState } from 'react'
import { z } from 'zod'
import { ask } from './api'

const readings = z.object({
  measurements: z.array(
    z.object({
      place: z.string(),
      value: z.number(),
      unit: z.enum(['V', 'Ω']),
      ok: z.boolean(),
      who: z.string(),
      at: z.string(),
    }),
  ),
})
export type Readings = z.infer<typeof readings>

/** What a meter showed at this node, as the server keeps it; null until it is known. */
export function useMeasurements(nodeId: string | undefined): { readings: Readings | null; refresh: () => void } {
  const [state, setState] = useState<Readings | null>(null)
  const [asked, setAsked] = useState(0)
  useEffect(() => {
    if (nodeId === undefined) return
    let live = true
    void ask(`/api/nodes/${nodeId}/measurements`, readings).then((answer) => {
      if (live && answer.kind === 'ok') setState(answer.value)
    })
    return () => {
      live = false
    }
  }, [nodeId, asked])
  return { readings: state, refresh: useCallback(() => setAsked((n) => n + 1), []) }
}
