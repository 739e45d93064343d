import { guard } from '@/server/http/guard'
import { product } from '@/server/instance'

export const dynamic = 'force-dynamic'

const BEAT_MS = 10_000

/** Server-sent events: a snapshot, or what was missed since the last event id, and from then on every change. */
export async function GET(request: Request): Promise<Response> {
  const refused = guard(request)
  if (refused) return refused
  const { stream, snapshot } = await product().then((p) => ({ stream: p.stream, snapshot: () => p.snapshot() }))
  const text = new TextEncoder()
  let stop = () => {}
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (id: string, kind: string, data: unknown) => controller.enqueue(text.encode(`id: ${id}\nevent: ${kind}\ndata: ${JSON.stringify(data)}\n\n`))
      const missed = stream.since(request.headers.get('last-event-id'))
      if (missed === null) send(stream.lastId, 'snapshot', snapshot())
      else for (const { id, event } of missed) send(`${stream.epoch}-${id}`, 'change', event)
      const forget = stream.listen((id, event) => {
        // A browser that does not read is let go rather than fed from memory; it comes back with its last id.
        if ((controller.desiredSize ?? 0) < -5000) return stop()
        send(`${stream.epoch}-${id}`, 'change', event)
      })
      const beat = setInterval(() => controller.enqueue(text.encode(': beat\n\n')), BEAT_MS)
      stop = () => {
        stop = () => {}
        forget()
        clearInterval(beat)
        try {
          controller.close()
        } catch { /* closed by the other side */ }
      }
      request.signal.addEventListener('abort', () => stop())
    },
    cancel() {
      stop()
    },
  })
  return new Response(body, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store, no-transform', 'x-accel-buffering': 'no' } })
}
