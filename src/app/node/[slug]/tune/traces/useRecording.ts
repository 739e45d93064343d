'use client'
import { useEffect, useRef, useState } from 'react'
import { z } from 'zod'
import { listened } from '@/core/trace/closely'
import type { Mark, Trace } from '@/core/trace/trace'
import { ask } from '@/ui/live/api'
import { closelyKey, forgetClosely, useClosely } from '@/ui/live/closely'
import { say } from '@/ui/live/store'

const NOTHING: never[] = []

/** A recording by close listening, with what is marked by a key held down while it happens. */
export function useRecording(node: string, signal: string, unit: string) {
  const [begun, setBegun] = useState<{ at: string; word: string } | null>(null)
  const [held, setHeld] = useState<number | null>(null)
  const marks = useRef<{ from: number; to: number | null }[]>([])
  const heard = useClosely((s) => s.heard[closelyKey(node, signal)]) ?? NOTHING
  const { samples } = begun ? listened(heard) : { samples: NOTHING }
  // Pieces come some time after their first sample: what is now is reckoned from the last sample of the last piece.
  const last = useRef<{ s: number; at: number } | null>(null)
  const lastS = samples.at(-1)?.s

  useEffect(() => {
    if (begun && lastS !== undefined) last.current = { s: lastS, at: Date.now() }
  }, [begun, lastS])

  useEffect(() => {
    if (!begun) return
    const s = () => (last.current === null ? 0 : last.current.s + (Date.now() - last.current.at) / 1000)
    const typing = (e: KeyboardEvent) => e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement
    const down = (e: KeyboardEvent) => {
      if (e.code !== 'Space' || typing(e)) return
      e.preventDefault()
      if (e.repeat || marks.current.at(-1)?.to === null) return
      marks.current.push({ from: s(), to: null })
      setHeld(s())
    }
    const up = (e: KeyboardEvent) => {
      const last = marks.current.at(-1)
      if (e.code !== 'Space' || last?.to !== null) return
      e.preventDefault()
      last.to = s()
      setHeld(null)
    }
    window.addEventListener('keydown', down)
    window.addEventListener('keyup', up)
    return () => {
      window.removeEventListener('keydown', down)
      window.removeEventListener('keyup', up)
    }
  }, [begun])

  const listen = (forS: number, everyMs: number) =>
    ask(`/api/nodes/${node}/close`, z.object({ kind: z.string() }), { signals: [signal], everyMs, forS })
  return {
    begun: begun !== null,
    samples,
    marking: held !== null,
    begin: async (forS: number, everyMs: number, word: string) => {
      forgetClosely(node, signal)
      marks.current = []
      last.current = null
      const a = await listen(forS, everyMs)
      if (a.kind !== 'ok') return say(a.error, 'refused')
      setBegun({ at: new Date().toISOString(), word })
    },
    /** Ends it; the trace, or null where nothing came. */
    end: async (name: string): Promise<Trace | null> => {
      void listen(0, 100)
      const word = begun?.word ?? 'on'
      setBegun(null)
      setHeld(null)
      const end = samples.at(-1)?.s ?? 0
      if (samples.length < 2) {
        say('Nothing came while it listened. Is the node awake and on the air?', 'refused')
        return null
      }
      return {
        name,
        at: begun?.at ?? new Date().toISOString(),
        unit,
        source: 'close',
        s: samples.map((x) => x.s),
        value: samples.map((x) => x.value),
        marks: marks.current.flatMap((m): Mark[] => {
          const to = Math.min(end, m.to ?? end)
          return to > m.from ? [{ from: Number(m.from.toFixed(2)), to: Number(to.toFixed(2)), word }] : []
        }),
      }
    },
  }
}
