'use client'
import { useEffect, useState } from 'react'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { useLive } from '@/ui/live/store'

export interface Point {
  at: number
  value: number
}

const SHORTEST_S = 180
const LONGEST_S = 86_400
/** So many readings of a slow signal make a curve. */
const READINGS = 20

/** How far back a curve of a signal looks, s: three minutes, or some twenty readings of one that comes rarely. */
export const windowFor = (intervalS: number, sleepS: number): number =>
  Math.min(LONGEST_S, Math.max(SHORTEST_S, READINGS * Math.max(intervalS, sleepS)))
const points = z.array(z.object({ at: z.string(), number: z.number().nullable() }))

/** The numbers of the last `windowS`: recorded ones first, live ones after. Unknown readings, and no signal, are left out. */
export function useRecent(node: string, signal: string, windowS: number): Point[] {
  const [recent, setRecent] = useState<Point[]>([])
  useEffect(() => {
    if (signal === '') return
    let gone = false
    void ask(`/api/nodes/${node}/readings?signal=${signal}&seconds=${windowS}`, points).then((answer) => {
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
      setRecent((all) => [...all.filter((r) => r.at > point.at - windowS * 1000), point])
    })
    return () => {
      gone = true
      stop()
    }
  }, [node, signal, windowS])
  return recent
}
