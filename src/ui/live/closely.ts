import { create } from 'zustand'
import type { CloselyHeard } from '../../core/publish/payload'

/** Some ten minutes of one signal, at a piece a second and the edges of a contact between them. */
const MOST = 1200

/** What close listening has told, by node and signal, in the order it came. */
export const useClosely = create<{ heard: Record<string, CloselyHeard[]> }>(() => ({ heard: {} }))

export const closelyKey = (node: string, signal: string): string => `${node}/${signal}`

export function tellClosely(node: string, signal: string, heard: CloselyHeard): void {
  const key = closelyKey(node, signal)
  useClosely.setState((s) => ({ heard: { ...s.heard, [key]: [...(s.heard[key] ?? []), heard].slice(-MOST) } }))
}

export function forgetClosely(node: string, signal: string): void {
  useClosely.setState((s) => ({ heard: { ...s.heard, [closelyKey(node, signal)]: [] } }))
}
