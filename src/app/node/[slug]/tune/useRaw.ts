'use client'
import { rawOf } from '@/core/calibration/rawOf'
import { scatterOf } from '@/core/calibration/scatter'
import { settlesInS } from '@/core/calibration/settling'
import type { Signal } from '@/core/model/design'
import { listened } from '@/core/trace/closely'
import { closelyKey, useClosely } from '@/ui/live/closely'
import { useClock } from '@/ui/live/useClock'
import type { NodeView } from '@/ui/live/useNode'
import { useInForce } from '../useInForce'
import type { Point } from '@/ui/live/useRecent'

/** Readings of this many seconds make one pair: their mean, so that rounding and noise count less. */
export const PAIR_S = 5

export interface RawNow {
  /** Mean before calibration, in the reading's unit. */
  mean: number
  /** Standard deviation of that mean; null from one reading. */
  scatter: number | null
  n: number
  from: 'published' | 'close'
  /** It still moves: what it reads now and five seconds ago is further apart than its scatter explains. */
  moving: boolean
  /** How long until it has settled to within its own scatter, s; 0 when it has, null where it does not come to rest. */
  settlesInS: number | null
}

const NOTHING: never[] = []

/**
 * What the part says now, before calibration: from what is published where the node runs this design with no curve, from
 * close listening otherwise, which is the same whatever revision it runs.
 */
export function useRaw(
  view: NodeView,
  signalId: string,
  signal: Signal,
  recent: Point[],
  scale: number,
): RawNow | null {
  const inForce = useInForce(view)
  const heard = useClosely((s) => s.heard[closelyKey(view.node.id, signalId)]) ?? NOTHING
  const now = useClock()
  const { listening } = view.node.live
  const hears =
    listening?.signals.includes(signalId) === true && listening.until !== null && Date.parse(listening.until) > now
  // What was heard before is no reading of now.
  const { samples } = listened(hears ? heard : NOTHING)
  const lastS = samples.at(-1)?.s ?? 0
  const near = (values: number[]) => Math.max(scatterOf(values).sd ?? 0, 10 ** -signal.publish.decimals / scale)
  const close = samples.flatMap((x) => (x.s > lastS - PAIR_S && x.value !== null ? [x.value] : []))
  if (close.length > 0) {
    const { mountM } = signal.conditioning
    const all = samples.flatMap((x) => (x.value === null ? [] : [{ at: x.s * 1000, value: x.value }]))
    return told(
      close.map((v) => (mountM ? mountM - v : v)),
      'close',
      settlesInS(all, near(close)),
    )
  }
  const old = signal.calibration ?? { gain: 1, offset: 0, curve: null }
  if (!inForce || old.curve !== null) return null
  const lastAt = recent.at(-1)?.at ?? 0
  const latest = recent.filter((r) => r.at > lastAt - PAIR_S * 1000).map((r) => rawOf(r.value, scale, old))
  const settles = settlesInS(recent, near(latest) * scale)
  return latest.length > 0 ? told(latest, 'published', settles) : null
}

function told(values: number[], from: RawNow['from'], settles: number | null): RawNow {
  const { n, mean, sd } = scatterOf(values)
  const half = n >> 1
  const drift = n >= 6 ? Math.abs(scatterOf(values.slice(half)).mean - scatterOf(values.slice(0, half)).mean) : 0
  return {
    mean,
    scatter: sd === null ? null : sd / Math.sqrt(n),
    n,
    from,
    settlesInS: settles,
    moving: sd !== null && drift > 4 * (sd / Math.sqrt(half || 1)),
  }
}
