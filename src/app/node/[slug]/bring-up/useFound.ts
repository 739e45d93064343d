import { useCallback, useEffect, useState } from 'react'
import { z } from 'zod'
import { ask } from '@/ui/live/api'

const foundSchema = z.object({
  place: z.string(),
  value: z.number().nullable(),
  unit: z.string(),
  ok: z.boolean(),
  who: z.string(),
  remark: z.string(),
  at: z.string(),
})
export type Found = z.infer<typeof foundSchema>
const trialSchema = z.object({
  ok: z.boolean(),
  share: z.number(),
  lines: z.array(z.object({ ok: z.boolean(), words: z.string() })),
  startedAt: z.string(),
  endedAt: z.string().nullable(),
  days: z.number(),
  who: z.string(),
})
export type Trial = z.infer<typeof trialSchema>
const stateSchema = z.object({ found: z.array(foundSchema), trial: trialSchema.nullable() })
/** Somebody else may be at the bench with a telephone: looked at again this often, ms. */
const AGAIN_MS = 4000

/** What was found at this node's steps, kept by the server; null until it is known. */
export function useFound(nodeId: string) {
  const [state, setState] = useState<z.infer<typeof stateSchema> | null>(null)
  const [asked, setAsked] = useState(0)
  useEffect(() => {
    let live = true
    const look = () =>
      void ask(`/api/nodes/${nodeId}/bring-up`, stateSchema).then((answer) => {
        if (live && answer.kind === 'ok') setState(answer.value)
      })
    look()
    const timer = setInterval(look, AGAIN_MS)
    return () => {
      live = false
      clearInterval(timer)
    }
  }, [nodeId, asked])
  return { state, refresh: useCallback(() => setAsked((n) => n + 1), []) }
}

/** Where a confirmed caution is kept. */
export const cautionPlace = (key: string): string => `caution:${key}`
