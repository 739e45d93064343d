import type { LiveEvent, Snapshot } from '../../wire/protocol'
import { sharedStream } from './sharedStream'
import { setLink, takeEvent, takeSnapshot } from './store'

/** Follows the shop. Returns how to stop. */
export function connect(): () => void {
  return sharedStream({
    path: '/api/live',
    kinds: ['snapshot', 'change'],
    consecutive: true,
    onLink: setLink,
    // Both carry what our own server wrote: types, not foreign input.
    onEvent: ({ kind, data }) =>
      kind === 'snapshot' ? takeSnapshot(JSON.parse(data) as Snapshot) : takeEvent(JSON.parse(data) as LiveEvent),
  })
}
