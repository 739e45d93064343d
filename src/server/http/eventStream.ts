/** What a stream of server-sent events is fed with; `send` returns false when the browser does not keep up. */
export type Feed = (send: (id: string, kind: string, data: unknown) => boolean) => () => void

const BEAT_MS = 10_000
/** Events a browser may leave unread before it is let go; it comes back with its last id. */
const UNREAD = 5000

/** What a browser has heard last: its own word after a break, or what another tab of it asks with. */
export function lastHeard(request: Request): string {
  return request.headers.get('last-event-id') ?? new URL(request.url).searchParams.get('after') ?? ''
}

/** A response of server-sent events with a beat, ended by either side, or when `ended` says that the source is gone. */
export function eventStream(request: Request, ended: AbortSignal, feed: Feed): Response {
  const text = new TextEncoder()
  const over = new AbortController()
  let stop = () => {}
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (id: string, kind: string, data: unknown) => {
        if ((controller.desiredSize ?? 0) < -UNREAD) return false
        controller.enqueue(text.encode(`id: ${id}\nevent: ${kind}\ndata: ${JSON.stringify(data)}\n\n`))
        return true
      }
      // The browser learns that the stream stands before there is anything to tell.
      controller.enqueue(text.encode(': here\n\n'))
      const forget = feed((id, kind, data) => {
        const kept = send(id, kind, data)
        if (!kept) stop()
        return kept
      })
      const beat = setInterval(() => controller.enqueue(text.encode(': beat\n\n')), BEAT_MS)
      stop = () => {
        stop = () => {}
        // Nothing of this stream stays behind: its source outlives thousands of them.
        over.abort()
        forget()
        clearInterval(beat)
        try {
          controller.close()
        } catch {
          /* closed by the other side */
        }
      }
      request.signal.addEventListener('abort', () => stop(), { signal: over.signal })
      ended.addEventListener('abort', () => stop(), { signal: over.signal })
    },
    cancel() {
      stop()
    },
  })
  return new Response(body, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store, no-transform',
      'x-accel-buffering': 'no',
    },
  })
}
