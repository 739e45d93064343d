/** One event as the server sent it. `id` is `epoch-number`, numbers counting up. */
export interface StreamEvent {
  id: string
  kind: string
  data: string
}

interface StreamOptions {
  path: string
  kinds: readonly string[]
  /** True when every number follows the one before: then a hole is noticed and filled. */
  consecutive: boolean
  onEvent: (event: StreamEvent) => void
  onLink?: (link: 'up' | 'lost') => void
}

type Told = { event: StreamEvent } | { link: 'up' | 'lost' } | { hello: true }

const RETRY_MS = 1500
/**
 * The server tells its counts every two seconds and beats every ten; silence for longer than two beats means the line
 * is dead.
 */
const SILENT_MS = 25_000

/**
 * Follows a stream of the server and mends itself. All tabs of a browser share one connection: the tab that holds the
 * lock has it and passes on what it hears; when it goes, the next one takes over where it stopped. A tab that joins, or
 * finds a hole, asks for what it lacks on a line of its own, until it has it. Returns how to stop.
 */
export function sharedStream(o: StreamOptions): () => void {
  let last = ''
  let waiting: StreamEvent[] | null = null
  let stopped = false
  let source: EventSource | null = null
  let release = () => {}
  const stops: (() => void)[] = []
  const channel =
    typeof BroadcastChannel === 'undefined' || !('locks' in navigator) ? null : new BroadcastChannel(`vivid ${o.path}`)
  const number = (id: string) => Number(id.split('-')[1])
  const epoch = (id: string) => id.split('-')[0]

  const take = (event: StreamEvent) => {
    last = event.id
    o.onEvent(event)
  }
  /** An event another tab heard: old ones are known already, one too far ahead means something was missed. */
  const hear = (event: StreamEvent) => {
    if (waiting) return void waiting.push(event)
    const known = epoch(event.id) === epoch(last)
    if (known && number(event.id) <= number(last)) return
    if (event.kind === 'snapshot' || (known && (!o.consecutive || number(event.id) === number(last) + 1)))
      return take(event)
    waiting = [event]
    catchUp()
  }
  const open = (each: (event: StreamEvent) => void) => {
    const line = new EventSource(last ? `${o.path}?after=${encodeURIComponent(last)}` : o.path)
    for (const kind of o.kinds)
      line.addEventListener(kind, (e) => each({ id: e.lastEventId, kind, data: e.data as string }))
    return line
  }
  /** A line of this tab's own until it has what it lacks. */
  const catchUp = () => {
    const line = open((event) => {
      take(event)
      const late = waiting ?? []
      // Several may be missing: the line stays until what was heard meanwhile follows on.
      if (
        o.consecutive &&
        event.kind !== 'snapshot' &&
        late[0] &&
        epoch(late[0].id) === epoch(last) &&
        number(late[0].id) > number(last) + 1
      )
        return
      line.close()
      waiting = null
      late.forEach(hear)
    })
    line.onerror = () => {
      line.close()
      if (!stopped)
        setTimeout(() => {
          if (waiting && !stopped) catchUp()
        }, RETRY_MS)
    }
    stops.push(() => line.close())
  }

  const lead = () => {
    let heard = Date.now()
    let retry: ReturnType<typeof setTimeout> | undefined
    waiting = null
    const tell = (link: 'up' | 'lost') => {
      o.onLink?.(link)
      channel?.postMessage({ link } satisfies Told)
    }
    const connect = () => {
      source?.close()
      source = open((event) => {
        heard = Date.now()
        if (epoch(event.id) === epoch(last) && event.kind !== 'snapshot' && number(event.id) <= number(last)) return
        take(event)
        channel?.postMessage({ event } satisfies Told)
      })
      source.onopen = () => {
        heard = Date.now()
        tell('up')
      }
      source.onerror = () => {
        tell('lost')
        if (source?.readyState !== EventSource.CLOSED) return
        clearTimeout(retry)
        retry = setTimeout(connect, RETRY_MS)
      }
    }
    connect()
    const watch = setInterval(() => {
      if (Date.now() - heard < SILENT_MS) return
      tell('lost')
      heard = Date.now()
      connect()
    }, 5000)
    stops.push(() => {
      clearInterval(watch)
      clearTimeout(retry)
      source?.close()
    })
  }

  if (!channel) lead()
  else {
    channel.onmessage = ({ data }: MessageEvent<Told>) => {
      if (source) {
        if ('hello' in data && source.readyState === EventSource.OPEN)
          channel.postMessage({ link: 'up' } satisfies Told)
      } else if ('event' in data) hear(data.event)
      else if ('link' in data) o.onLink?.(data.link)
    }
    void navigator.locks.request(`vivid ${o.path}`, { ifAvailable: true }, (lock) => {
      if (lock && !stopped) return hold()
      waiting = []
      catchUp()
      channel.postMessage({ hello: true } satisfies Told)
      void navigator.locks.request(`vivid ${o.path}`, () => (stopped ? undefined : hold()))
    })
  }
  /** Leads until this tab stops or goes. */
  function hold(): Promise<void> {
    lead()
    return new Promise((r) => {
      release = r
    })
  }
  return () => {
    stopped = true
    stops.forEach((s) => s())
    release()
    channel?.close()
  }
}
