'use client'
import { useCallback, useEffect, useState } from 'react'
import { z } from 'zod'
import { markSchema, type Trace, traceSchema } from '@/core/trace/trace'
import { ask } from '@/ui/live/api'
import { say } from '@/ui/live/store'

const listSchema = z.array(
  z.object({
    id: z.string(),
    signal_id: z.string(),
    name: z.string(),
    at: z.string(),
    n: z.number(),
    marks: z.array(markSchema),
  }),
)
export type KeptTrace = z.infer<typeof listSchema>[number]

/** A trace as it lies on the bench; `id` is null until it is kept. */
export interface Laid {
  id: string | null
  trace: Trace
}

/** What is kept of a signal, the one on the bench, and how it is kept, changed and dropped. */
export function useTraces(node: string, signal: string) {
  const [all, setAll] = useState<KeptTrace[]>([])
  const kept = all.filter((t) => t.signal_id === signal)
  const [laid, setLaid] = useState<Laid | null>(null)
  const load = useCallback(async () => {
    const a = await ask(`/api/nodes/${node}/traces`, listSchema)
    if (a.kind === 'ok') setAll(a.value)
  }, [node])
  useEffect(() => {
    const soon = setTimeout(() => void load(), 0)
    return () => clearTimeout(soon)
  }, [load])
  const told = (a: { kind: string; error?: string }) => {
    if (a.kind !== 'ok') say(a.error ?? 'The server cannot be reached; nothing was kept.', 'refused')
    return a.kind === 'ok'
  }
  return {
    kept,
    laid,
    lay: setLaid,
    open: async (id: string) => {
      const a = await ask(`/api/nodes/${node}/traces/${id}`, traceSchema.extend({ signal: z.string() }))
      if (a.kind !== 'ok') return void told(a)
      const { signal: _, ...trace } = a.value
      setLaid({ id, trace })
    },
    /** Traces begun in the same moment as this one: other signals recorded along with it. */
    along: (trace: Trace) => all.filter((t) => t.signal_id !== signal && Date.parse(t.at) === Date.parse(trace.at)),
    keep: async (trace: Trace, of = signal) => {
      const id = crypto.randomUUID()
      if (!told(await ask(`/api/nodes/${node}/traces`, z.object({ id: z.string() }), { id, signal: of, trace }))) return
      if (of === signal) setLaid({ id, trace })
      await load()
    },
    change: async ({ id, trace }: Laid, changed: Partial<Pick<Trace, 'name' | 'marks'>>) => {
      setLaid({ id, trace: { ...trace, ...changed } })
      if (id === null) return
      if (told(await ask(`/api/nodes/${node}/traces/${id}`, z.object({}), changed))) await load()
    },
    drop: async (id: string) => {
      if (!told(await ask(`/api/nodes/${node}/traces/${id}`, z.object({}), { drop: true }))) return
      setLaid(null)
      await load()
    },
  }
}
