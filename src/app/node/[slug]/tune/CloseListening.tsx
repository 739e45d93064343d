'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import type { Channel } from '@/core/catalog/part'
import { cycleOf } from '@/core/energy/cycle'
import { listeningCost } from '@/core/energy/listening'
import { leakThatReadsOn } from '@/core/conditioning/contacts'
import { planLines } from '@/core/lines/lines'
import { lineKeyOf } from '@/core/model/design'
import { bounces, listened } from '@/core/trace/closely'
import { unitFactor } from '@/core/units/convert'
import { ask } from '@/ui/live/api'
import { closelyKey, forgetClosely, useClosely } from '@/ui/live/closely'
import { edit, say } from '@/ui/live/store'
import type { NodeLive } from '@/wire/protocol'
import { useClock } from '@/ui/live/useClock'
import type { NodeView } from '@/ui/live/useNode'
import { BounceList } from './BounceList'
import { CloseCurve } from './CloseCurve'

const LENGTHS = [10, 60, 300, 600] as const
const PACES = [20, 50, 100, 250, 1000] as const
const NOTHING_HEARD: never[] = []

/** What the part really says, before range, median, average and calibration, as fast as it can; contacts with bounce. */
export function CloseListening({ view, signalId, channel }: { view: NodeView; signalId: string; channel: Channel }) {
  const { node } = view
  const signal = node.design.signals[signalId]
  const [everyMs, setEveryMs] = useState<number>(50)
  const [forS, setForS] = useState<number>(60)
  const [asking, setAsking] = useState(false)
  const heard = useClosely((s) => s.heard[closelyKey(node.id, signalId)]) ?? NOTHING_HEARD
  const now = useClock()
  if (!signal) return null
  const standing = standingOf(node.live.listening, signalId, now)
  const factor = channel.access === 'reading' ? unitFactor(channel.unit, signal.publish.unit) : 1
  const { samples, everyMs: real, lost } = listened(heard)
  const moved = bounces(heard)
  const post = async (seconds: number) => {
    setAsking(true)
    if (seconds > 0) forgetClosely(node.id, signalId)
    const a = await ask(`/api/nodes/${node.id}/close`, z.object({ kind: z.string() }), {
      signals: [signalId],
      everyMs,
      forS: seconds,
    })
    setAsking(false)
    if (a.kind !== 'ok') say(a.error, 'refused')
  }
  return (
    <section aria-label="close listening" className="pt-3" data-listening={standing.is}>
      <h2>Listen closely to {signal.tag}</h2>
      <p className="small soft">
        What the part itself says, before anything is made of it; what the node publishes stays as it is.{' '}
        {channel.access === 'state' || channel.access === 'event'
          ? 'At each movement of a contact the node looks at nothing else for up to 60 ms and times its bounce.'
          : 'The node runs whatever revision it runs: nothing has to be sent first.'}
      </p>
      <div className="fields">
        <Choice id="close-every" label="every" unit="ms" of={PACES} value={everyMs} onChange={setEveryMs} />
        <Choice id="close-for" label="for" unit="s" of={LENGTHS} value={forS} onChange={setForS} />
        {standing.is === 'no' ? (
          <Button disabled={asking} onClick={() => void post(forS)}>
            Listen
          </Button>
        ) : (
          <Button variant="quiet" disabled={asking} onClick={() => void post(0)}>
            Stop listening
          </Button>
        )}
        <span className="soft" role="status">
          {standingWords(standing, real, lost)}
        </span>
      </div>
      {node.design.sleep && standing.is === 'no' && <p className="small pt-2">{costWords(view, forS)}</p>}
      {samples.length > 1 && (
        <CloseCurve
          samples={samples}
          factor={factor}
          unit={channel.access === 'reading' ? signal.publish.unit : ''}
          signal={signal}
          twoWay={['contact', 'button', 'presence'].includes(channel.driver)}
        />
      )}
      {moved.length > 0 && (
        <BounceList
          moved={moved}
          debounceMs={signal.conditioning.debounceMs}
          leakOhm={leakOf(view, signal.partId, channel)}
          onHold={
            channel.access === 'state'
              ? (holdS) => edit(node.id, { kind: 'condition', signalId, set: { holdS } })
              : null
          }
          onDebounce={(debounceMs) => edit(node.id, { kind: 'condition', signalId, set: { debounceMs } })}
        />
      )}
    </section>
  )
}

/** The leak that would read as on at the line of a contact that is pulled up, Ω. */
function leakOf({ node, board, catalog }: NodeView, partId: string, channel: Channel): number | null {
  const line = planLines(node.design, catalog).find((l) => channel.lines.some((t) => l.key === lineKeyOf(partId, t)))
  if (line?.terminal.pull !== 'up') return null
  return leakThatReadsOn(line.pulls[0]?.ohm ?? board.pulls.upOhm, board.input.lowRatio)
}

function Choice(props: {
  id: string
  label: string
  unit: string
  of: readonly number[]
  value: number
  onChange: (v: number) => void
}) {
  return (
    <div>
      <Form.Label htmlFor={props.id}>
        {props.label}, {props.unit}
      </Form.Label>
      <Form.Select id={props.id} value={props.value} onChange={(e) => props.onChange(Number(e.target.value))}>
        {props.of.map((v) => (
          <option key={v}>{v}</option>
        ))}
      </Form.Select>
    </div>
  )
}

interface Standing {
  is: 'no' | 'waits' | 'now'
  leftS: number | null
  /** What part and board can do, ms; null: as it comes. */
  canMs: number | null
  why: string
}

function standingOf(listening: NodeLive['listening'], signalId: string, now: number): Standing {
  const here = listening?.signals.includes(signalId) === true
  if (!here) return { is: 'no', leftS: null, canMs: null, why: listening?.why ?? '' }
  if (listening.until === null) return { is: 'waits', leftS: null, canMs: null, why: '' }
  const leftS = now === 0 ? null : Math.max(0, Math.round((Date.parse(listening.until) - now) / 1000))
  return { is: 'now', leftS, canMs: listening.rates[signalId] ?? null, why: '' }
}

function standingWords({ is, leftS, canMs, why }: Standing, real: number | null, lost: number): string {
  if (is === 'waits') return 'It sleeps: it is asked when it wakes, and stays awake for it.'
  const nothing = why === '' ? '' : `It came to nothing: ${why}. `
  const left = leftS === null ? '' : `${leftS} s left. `
  const can = canMs === null ? 'It comes as the part sends it.' : `Part and board give one every ${canMs} ms.`
  const rate = real === null ? can : `One every ${Math.round(real)} ms.`
  const gaps = lost > 0 ? ` ${lost} ${lost === 1 ? 'piece was' : 'pieces were'} lost on the way.` : ''
  return nothing + left + (is === 'no' && real === null ? '' : rate) + gaps
}

/** What staying awake takes out of the cell, beside what a waking takes. */
function costWords({ node: { design }, board, catalog }: NodeView, forS: number): string {
  const cycle = cycleOf(design, board, catalog)
  if (cycle === null) return ''
  const { ah, wakings } = listeningCost(cycle, forS)
  return `It stays awake ${forS} s for this: about ${(ah * 1000).toPrecision(2)} mAh${wakings === null ? '' : `, as much as ${wakings} wakings`}.`
}
