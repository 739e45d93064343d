/** A node whose file is no longer what its design and its shop would make of it. */
export interface BehindNode {
  id: string
  name: string
  /** Whether it can be reached: now, when it wakes, or nobody knows when. */
  reach: 'here' | 'asleep' | 'away'
  /** It moves to other topics with its next file. */
  moves: boolean
  /** What differs, in words. */
  why: string[]
}

/**
 * Who is sent in which order. Nodes that stay where they are come first: they learn of others before those move. One
 * that moves follows; a sleeper takes its file when it wakes, and holds up nobody. Who cannot be reached stays behind.
 */
export function sendingOrder(behind: readonly BehindNode[]): { order: BehindNode[]; left: BehindNode[] } {
  const rank = (n: BehindNode) => (n.reach === 'asleep' ? 2 : Number(n.moves))
  const order = behind
    .filter((n) => n.reach !== 'away')
    .sort((a, b) => rank(a) - rank(b) || a.name.localeCompare(b.name))
  return { order, left: behind.filter((n) => n.reach === 'away') }
}
