'use client'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { type AirBurst, type InTheAir, inTheAir } from '../../core/radio/candidates'
import { type AirListening, airAnswerSchema, airListeningSchema } from '../../wire/air'
import { ask } from '../live/api'
import { say, useLive } from '../live/store'

const TEN_MINUTES_MS = 600_000
const NOBODY: AirListening = { until: null, sinceMs: null, gateways: [] }

/** What is in the air by what its gateways pass on, and the asking of them. Times of the day, ms. */
export function useAir() {
  const live = useLive((s) => s.air)
  const [before, setBefore] = useState<AirBurst[]>([])
  const [listening, setListening] = useState<AirListening>(NOBODY)
  useEffect(() => {
    void ask('/api/air', airAnswerSchema).then((a) => {
      if (a.kind !== 'ok') return say(a.error, 'refused')
      setBefore(a.value.bursts)
      setListening(a.value.listening)
    })
  }, [])
  const bursts = useMemo(() => {
    const known = new Set(before.map(keyOf))
    return [...before, ...live.filter((b) => !known.has(keyOf(b)))]
  }, [before, live])
  const listen = useCallback(async (forS: number) => {
    const a = await ask('/api/air', airListeningSchema, { forS })
    if (a.kind === 'ok') setListening(a.value)
    else say(a.error, 'refused')
  }, [])
  const recent = useCallback(
    (nowMs: number): InTheAir[] => inTheAir(bursts.filter((b) => b.atMs > nowMs - TEN_MINUTES_MS)),
    [bursts],
  )
  return { bursts, recent, listening, listen }
}

const keyOf = (b: AirBurst): string => `${b.atMs} ${b.by} ${b.code}`
