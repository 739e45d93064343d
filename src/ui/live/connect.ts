import type { LiveEvent, Snapshot } from '../../server/live/protocol'
import { setLink, takeEvent, takeSnapshot } from './store'

const RETRY_MS = 1500
/** The server beats every ten seconds; silence for longer than two beats means the line is dead. */
const SILENT_MS = 25_000

/** Follows the server's event stream and mends itself. Returns how to stop. */
export function connect(): () => void {
  let source: EventSource | null = null
  let heard = Date.now()
  let retry: ReturnType<typeof setTimeout> | undefined

  const open = () => {
    source?.close()
    source = new EventSource('/api/live')
    source.onopen = () => {
      heard = Date.now()
      setLink('up')
    }
    source.onerror = () => {
      setLink('lost')
      if (source?.readyState !== EventSource.CLOSED) return
      clearTimeout(retry)
      retry = setTimeout(open, RETRY_MS)
    }
    // Both carry what our own server wrote: types, not foreign input.
    source.addEventListener('snapshot', (e) => {
      heard = Date.now()
      takeSnapshot(JSON.parse(e.data) as Snapshot)
    })
    source.addEventListener('change', (e) => {
      heard = Date.now()
      takeEvent(JSON.parse(e.data) as LiveEvent)
    })
  }
  open()
  const watch = setInterval(() => {
    if (Date.now() - heard < SILENT_MS) return
    setLink('lost')
    heard = Date.now()
    open()
  }, 5000)
  return () => {
    clearInterval(watch)
    clearTimeout(retry)
    source?.close()
  }
}
