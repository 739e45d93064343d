import type { IncomingMessage, ServerResponse } from 'node:http'
import { household } from './attempts'

declare global {
  /**
   * Until when, ms, an address has been told to wait before it tries the password again. The pages and the server share
   * it.
   */
  var vividWaits: Map<string, number> | undefined
}

/** Attempts of one address that are looked at side by side. */
const SIDE_BY_SIDE = 4
const MOST_WAITING = 20_000
const inside = new Map<string, number>()

/** This address is not to try again for so many seconds. */
export function tellToWait(who: string, seconds: number, now: number): void {
  const waits = (globalThis.vividWaits ??= new Map<string, number>())
  if (waits.size >= MOST_WAITING) waits.clear()
  waits.set(who, now + seconds * 1000)
}

/**
 * Turns away, before anything is worked out, attempts at the password of an address that tries many at once or has been
 * told to wait; true when the request has been answered. Browsers that have given the password before are not held up
 * by others of their address.
 */
export function heldAtDoor(
  request: IncomingMessage,
  response: ServerResponse,
  isKnown: (cookies: string) => boolean,
  now = Date.now(),
): boolean {
  if (request.method !== 'POST' || request.url !== '/api/session' || isKnown(request.headers.cookie ?? '')) return false
  const who = household(request.socket.remoteAddress ?? '')
  const waits = Math.ceil(((globalThis.vividWaits?.get(who) ?? 0) - now) / 1000)
  const count = inside.get(who) ?? 0
  if (waits <= 0 && count < SIDE_BY_SIDE) {
    inside.set(who, count + 1)
    response.once('close', () => {
      const left = (inside.get(who) ?? 1) - 1
      if (left > 0) inside.set(who, left)
      else inside.delete(who)
    })
    return false
  }
  const seconds = Math.max(1, waits)
  response.writeHead(429, { 'content-type': 'application/json', 'retry-after': String(seconds), connection: 'close' })
  response.end(JSON.stringify({ error: `Too many attempts. The next one is answered in ${seconds} s.` }))
  return true
}
