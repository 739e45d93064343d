'use client'
import { useEffect, useState } from 'react'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { useLive } from '@/ui/live/store'

export interface Point {
  at: number
  value: number
}

const WINDOW_S = 180
const points = z.array(z.object({ at: z.string(), number: z.number().nullable() }))

/** The numbers of the last three minutes: recorded ones first, live ones after. Unknown readings are left out. */
export function useRecent(node: string, signal: string): Point[] {
  const [recent, setRecent] = useState<Point[]>([])
  useEffect(() => {
    let gone = false
    void ask(`/api/nodes/${node}/readings?signal=${signal}&seconds=${WINDOW_S}`, points).then((answer) => {
      if (gone || answer.kind !== 'ok') return
      const recorded = answer.value.flatMap((p) =>
        p.number === null ? [] : [{ at: Date.parse(p.at), value: p.number }],
      )
      setRecent((live) => [...recorded.filter((r) => r.at < (live[0]?.at ?? Infinity)), ...live])
    })
    const stop = useLive.subscribe((now, before) => {
      const last = now.nodes[node]?.live.values[signal]
      if (!last || last === before.nodes[node]?.live.values[signal] || typeof last.value !== 'number') return
      const point = { at: Date.parse(last.at), value: last.value }
      setRecent((all) => [...all.filter((r) => r.at > point.at - WINDOW_S * 1000), point])
    })
    return () => {
      gone = true
      stop()
    }
  }, [node, signal])
  return recent
}
