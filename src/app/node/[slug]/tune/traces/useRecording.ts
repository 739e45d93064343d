'use client'
import { useCallback, useEffect, useRef, useState } from 'react'
import { z } from 'zod'
import { begunAt, listened } from '@/core/trace/closely'
import type { Mark, Trace } from '@/core/trace/trace'
import { ask } from '@/ui/live/api'
import { closelyKey, forgetClosely, useClosely } from '@/ui/live/closely'
import { say } from '@/ui/live/store'

const NOTHING: never[] = []

/** A signal that is recorded along, and the unit its part measures in. */
export interface Along {
  id: string
  unit: string
}
const heardOf = (node: string, id: string) => useClosely.getState().heard[closelyKey(node, id)] ?? NOTHING

/** A recording by close listening, with what is marked by a key or a button held down while it happens. */
export function useRecording(node: string, { id: signal, unit }: Along) {
  const [begun, setBegun] = useState<{ at: string; word: string; along: readonly Along[] } | null>(null)
  const [held, setHeld] = useState(false)
  const marks = useRef<{ from: number; to: number | null }[]>([])
  const heard = useClosely((s) => s.heard[closelyKey(node, signal)]) ?? NOTHING
  const { samples } = begun ? listened(heard) : { samples: NOTHING }
  // Pieces come some time after their first sample: what is now is reckoned from the last sample of the last piece.
  const last = useRef<{ s: number; at: number } | null>(null)
  const lastS = samples.at(-1)?.s

  useEffect(() => {
    if (begun && lastS !== undefined) last.current = { s: lastS, at: Date.now() }
  }, [begun, lastS])

  const hold = useCallback((on: boolean) => {
    const s = last.current === null ? 0 : last.current.s + (Date.now() - last.current.at) / 1000
    const open = marks.current.at(-1)
    if (on && open?.to !== null) marks.current.push({ from: s, to: null })
    else if (!on && open?.to === null) open.to = s
    setHeld(on)
  }, [])

  useEffect(() => {
    if (!begun) return
    const typing = (e: KeyboardEvent) => e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement
    const down = (e: KeyboardEvent) => {
      if (e.code !== 'Space' || typing(e)) return
      e.preventDefault()
      if (!e.repeat) hold(true)
    }
    const up = (e: KeyboardEvent) => {
      if (e.code !== 'Space' || typing(e)) return
      e.preventDefault()
      hold(false)
    }
    window.addEventListener('keydown', down)
    window.addEventListener('keyup', up)
    return () => {
      window.removeEventListener('keydown', down)
      window.removeEventListener('keyup', up)
    }
  }, [begun, hold])

  const listen = (along: readonly Along[], forS: number, everyMs: number) =>
    ask(`/api/nodes/${node}/close`, z.object({ kind: z.string() }), {
      signals: [signal, ...along.map((x) => x.id)],
      everyMs,
      forS,
    })
  return {
    begun: begun !== null,
    samples,
    marking: held,
    /** It is so from now on, or no longer: what the space bar does, for a screen without keys. */
    hold,
    begin: async (along: readonly Along[], forS: number, everyMs: number, word: string) => {
      for (const x of [{ id: signal }, ...along]) forgetClosely(node, x.id)
      marks.current = []
      last.current = null
      const a = await listen(along, forS, everyMs)
      if (a.kind !== 'ok') return say(a.error, 'refused')
      setBegun({ at: new Date().toISOString(), word, along })
    },
    /** Ends it; a trace of each signal, all with the same beginning and the same marks, this one first. */
    end: async (name: string): Promise<{ signal: string; trace: Trace }[]> => {
      const { along = [], word = 'on', at = new Date().toISOString() } = begun ?? {}
      void listen(along, 0, 100)
      setBegun(null)
      setHeld(false)
      const end = samples.at(-1)?.s ?? 0
      if (samples.length < 2) {
        say('Nothing came while it listened. Is the node awake and on the air?', 'refused')
        return []
      }
      const spans = marks.current.flatMap((m): Mark[] => {
        const to = Math.min(end, m.to ?? end)
        return to > m.from ? [{ from: Number(m.from.toFixed(2)), to: Number(to.toFixed(2)), word }] : []
      })
      return [{ id: signal, unit }, ...along].flatMap((of) => {
        const { samples: own } = listened(heardOf(node, of.id), begunAt(heard))
        if (own.length < 2) return []
        const [s, value] = [own.map((x) => x.s), own.map((x) => x.value)]
        return [{ signal: of.id, trace: { name, at, unit: of.unit, source: 'close' as const, s, value, marks: spans } }]
      })
    },
  }
}
