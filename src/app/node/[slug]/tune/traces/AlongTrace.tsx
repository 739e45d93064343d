'use client'
import { useEffect, useState } from 'react'
import { z } from 'zod'
import { inOrder } from '@/core/model/design'
import { hueOf } from '@/core/palette/palette'
import { channelOf } from '@/core/publish/channelOf'
import { type Trace, traceSchema } from '@/core/trace/trace'
import { unitFactor } from '@/core/units/convert'
import { ask } from '@/ui/live/api'
import type { NodeView } from '@/ui/live/useNode'
import { TraceCurve } from './TraceCurve'
import type { KeptTrace } from './useTraces'

/** Other readings of the node that can be listened to at the same time, eight at most in all. */
export function othersOf({ node: { design }, catalog }: NodeView, but: string) {
  return inOrder(design.signals)
    .flatMap(({ id, value }) => {
      const channel = channelOf(design, catalog, value)
      const reading = channel?.access === 'reading' && channel.driver !== 'levels'
      return id === but || !reading ? [] : [{ id, unit: channel.unit, tag: value.tag, name: value.name }]
    })
    .slice(0, 7)
}

/** What another signal said meanwhile, on the same seconds. */
export function AlongTrace({ view, kept, marks }: { view: NodeView; kept: KeptTrace; marks: Trace['marks'] }) {
  const { design, id } = view.node
  const signal = design.signals[kept.signal_id]
  const channel = signal && channelOf(design, view.catalog, signal)
  const [trace, setTrace] = useState<Trace | null>(null)
  useEffect(() => {
    let here = true
    void ask(`/api/nodes/${id}/traces/${kept.id}`, traceSchema.extend({ signal: z.string() })).then((a) => {
      if (here && a.kind === 'ok') setTrace(a.value)
    })
    return () => {
      here = false
    }
  }, [id, kept.id])
  if (!signal || channel?.access !== 'reading' || !trace) return null
  return (
    <div data-along={signal.slug}>
      <h3 className="small soft mb-0">
        Along with it: {signal.tag} {signal.name}
      </h3>
      <TraceCurve
        s={trace.s}
        value={trace.value}
        factor={unitFactor(channel.unit, signal.publish.unit)}
        unit={signal.publish.unit}
        hue={hueOf(signal)}
        label={`${signal.tag} recorded along`}
        marks={marks}
        decimals={signal.publish.decimals}
      />
    </div>
  )
}
