import type { Sender, SenderSignal } from '../../core/model/sender'
import { confidence } from '../../core/radio/cadence'
import type { SenderLive } from '../../wire/air'
import { agoWords } from '../live/nowWords'

/** What a signal of a sender says now: the word, and how old and how sure it is. */
export function signalNow(signalId: string, signal: SenderSignal, live: SenderLive, nowMs: number, heard: boolean) {
  const last = live.values[signalId]
  if (!last)
    return { word: signal.kind === 'event' ? 'not yet' : 'unknown', detail: 'not heard since it is known here' }
  const age = agoWords(Math.max(0, nowMs - Date.parse(last.at)))
  const ago = `${age} ago`
  if (signal.kind === 'event') return { word: String(last.value), detail: ago }
  if (last.value === null) return { word: 'unknown', detail: `ended ${ago}: nothing has been said since` }
  const said = signal.kind === 'state' ? signal.said : { on: 'yes', off: 'no' }
  // A state is as old as its sender's last word, not as its last change.
  const wordS = Math.max(0, Math.round((nowMs - Date.parse(live.heardAt ?? last.at)) / 1000))
  const sure = Math.round(100 * confidence(wordS, signal.endS, heard))
  return { word: last.value === true ? said.on : said.off, detail: `for ${age}, ${sure} % sure` }
}

/** Its first signal: what it is there for. */
export const mainSignal = (sender: Sender): [string, SenderSignal] | undefined =>
  Object.entries(sender.signals).sort((a, b) => a[1].order - b[1].order)[0]
