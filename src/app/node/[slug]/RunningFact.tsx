'use client'
import { useState } from 'react'
import { Button } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useInForce } from './useInForce'

/** What the node runs against what the design says, and the button that sends the difference. */
export function RunningFact({ view }: { view: NodeView }) {
  const [sending, setSending] = useState(false)
  const same = useInForce(view)
  const saving = useLive((s) => s.saving.state)
  const { node } = view
  const { running } = node.live
  const send = async () => {
    setSending(true)
    const answer = await ask(`/api/nodes/${node.id}/send`, z.object({ revision: z.number() }), {})
    setSending(false)
    if (answer.kind === 'ok') say(`Revision ${answer.value.revision} runs on ${node.design.name}.`)
    else say(answer.kind === 'away' ? 'The server cannot be reached; nothing was sent.' : answer.error, 'refused')
  }
  return (
    <div className="fact">running
      <strong data-running={running?.revision ?? 0} data-current={same}>
        {running === null ? 'nothing yet' : same ? `revision ${running.revision}, as designed` : `revision ${running.revision}, design is ahead`}
        {!same && <Button disabled={sending || saving !== 'saved'} onClick={() => void send()}>{sending ? 'Sending …' : 'Send'}</Button>}
      </strong>
    </div>
  )
}
