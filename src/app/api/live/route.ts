import { eventStream, lastHeard } from '@/server/http/eventStream'
import { guard } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

export const dynamic = 'force-dynamic'

/** Server-sent events: a snapshot, or what was missed since the last event id, and from then on every change. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const p = await product()
    return eventStream(request, p.stream.ended, (send) => {
      const missed = p.stream.since(lastHeard(request))
      if (missed === null) send(p.stream.lastId, 'snapshot', p.snapshot())
      else for (const { id, event } of missed) send(`${p.stream.epoch}-${id}`, 'change', event)
      return p.stream.listen((id, event) => void send(`${p.stream.epoch}-${id}`, 'change', event))
    })
  })
}
