'use client'
import type { Channel } from '@/core/catalog/part'
import type { Signal } from '@/core/model/design'
import { GoneWhy } from '@/ui/live/GoneWhy'
import { agoWords, goneNow, heardWords, nowWords, statusWords } from '@/ui/live/nowWords'
import { useClock } from '@/ui/live/useClock'
import type { NodeView } from '@/ui/live/useNode'

interface NoCurveProps {
  view: NodeView
  signalId: string
  signal: Signal
  channel: Channel
  windowS: number
}

/** In place of a curve that has nothing to show: what is known, and what to do about it. */
export function NoCurve({ view, signalId, signal, channel, windowS }: NoCurveProps) {
  const now = useClock()
  const { node, board } = view
  const last = node.live.values[signalId]
  const fault = node.live.faults[signalId]
  const words = nowWords(signal, signalId, channel, node.live, now)
  return (
    <div className="no-curve" role="status" data-no-curve>
      <p className="big-now">
        {last ? (
          <>
            <b>{words.value}</b> {words.unit} <span className="soft">{agoWords(now - Date.parse(last.at))} ago</span>
          </>
        ) : (
          <b>{signal.name} has never been heard.</b>
        )}
      </p>
      <p>
        {last ? `Nothing else came in the last ${agoWords(windowS * 1000)}. ` : ''}
        {nextStep(view, last !== undefined, now)}
      </p>
      {fault && (
        <p data-fault>
          It said {agoWords(now - Date.parse(fault.at))} ago: <b>{fault.what}</b>.
        </p>
      )}
      <p className="small soft">
        {board.name}; heard {heardWords(node.live, now)}; {statusWords(node.live, now)}; {signal.name} is due{' '}
        {signal.publish.intervalS > 0 ? `every ${signal.publish.intervalS} s` : 'when it changes'}.
      </p>
      {goneNow(node.live, now) && <GoneWhy node={node} now={now} all />}
    </div>
  )
}

function nextStep({ node }: NodeView, known: boolean, now: number): string {
  const { live, design } = node
  if (live.running === null) return 'No board runs this node yet: install it (Program), then its readings appear here.'
  if (live.status?.is === 'asleep')
    return `It is ${statusWords(live, now)}; the next reading comes when it wakes${design.sleep ? `, every ${agoWords(design.sleep.everyS * 1000)}` : ''}. Pairs can be taken then.`
  if (goneNow(live, now)) return 'The node is gone; the likeliest reasons stand below.'
  return known
    ? 'The part says nothing new: look at its wires and its feed, and at its findings on the right.'
    : 'The node is there and this part has not answered: look at its wires, its feed and its address.'
}
