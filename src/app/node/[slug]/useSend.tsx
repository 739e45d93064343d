'use client'
import { useState } from 'react'
import { z } from 'zod'
import { GoOn, heldIn } from '@/ui/findings/GoOn'
import type { Held, Past } from '@/wire/held'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

const sentSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('running'), revision: z.number() }),
  z.object({ kind: z.literal('waits'), revision: z.number(), back: z.number().nullable() }),
])

/** Sends the design, or a former revision again, and says what became of it. */
export function useSend({ node }: NodeView) {
  const [asking, setAsking] = useState(false)
  const [held, setHeld] = useState<Held | null>(null)
  const saving = useLive((s) => s.saving.state)
  const { sending } = node.live
  const send = async ({ again, past }: { again?: number; past?: Past } = {}) => {
    setAsking(true)
    setHeld(null)
    const answer = await ask(`/api/nodes/${node.id}/send`, sentSchema, { again, past })
    setAsking(false)
    const stops = answer.kind === 'problem' && answer.status === 409 ? heldIn(answer.body) : null
    if (stops) return setHeld(stops)
    if (answer.kind === 'away') say('The server cannot be reached; nothing was sent.', 'refused')
    else if (answer.kind === 'problem') say(answer.error, 'refused')
    else if (answer.value.kind === 'running') say(`Revision ${answer.value.revision} runs on ${node.design.name}.`)
    else
      say(
        `${node.design.name} sleeps. Revision ${answer.value.revision} goes out when it wakes${answer.value.back === null ? '' : `, at ${new Date(answer.value.back * 1000).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })}`}.`,
      )
  }
  const busy = asking || (sending !== null && sending.step !== 'waits for it to wake')
  /** Asks who goes on, while stops hold the sending up. */
  const goOn = held && (
    <GoOn held={held} doing="Send" onGo={(past) => void send({ past })} onHide={() => setHeld(null)} />
  )
  return { send, busy, ready: !busy && saving === 'saved', goOn }
}

export const STEPS = ['sent', 'tried by the node', 'connected again'] as const
