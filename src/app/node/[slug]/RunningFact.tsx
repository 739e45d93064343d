'use client'
import { Button } from 'react-bootstrap'
import type { NodeView } from '@/ui/live/useNode'
import { useInForce } from './useInForce'
import { useSend } from './useSend'

/** What the node runs against what the design says, and the button that sends the difference. */
export function RunningFact({ view }: { view: NodeView }) {
  const same = useInForce(view)
  const { send, busy, ready, goOn } = useSend(view)
  const { running, sending } = view.node.live
  const sendWords = sending ? 'Send this instead' : 'Send'
  return (
    <div className="fact">
      running
      {goOn}
      <strong data-running={running?.revision ?? 0} data-current={same}>
        {running === null ? 'nothing yet' : `revision ${running.revision}, ${same ? 'as designed' : 'design is ahead'}`}
        {!same && (
          <Button disabled={!ready} onClick={() => void send()}>
            {busy ? 'Sending …' : sendWords}
          </Button>
        )}
      </strong>
    </div>
  )
}
