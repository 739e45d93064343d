import { isOverdue, type NodeHealth, type NodeStatus } from './payload'

/** What is known of a node's silence. Times in seconds UTC. */
export interface Silence {
  status: NodeStatus | null
  heardAtS: number | null
  health: NodeHealth | null
  network: string
}

/** Why a node may be gone, and what to look at next. */
export interface GoneReason {
  words: string
  next: string
}

/** True for a node that was here and is not: it said so, its broker did, or it slept longer than it said. */
export function isGone({ status, heardAtS }: Pick<Silence, 'status' | 'heardAtS'>, nowS: number): boolean {
  if (status === null) return false
  return status.is === 'offline' || isOverdue(status, heardAtS ?? 0, nowS)
}

/** Strength below which a connection is lost by a closed door, dBm. */
const WEAK_DBM = -80

/**
 * Reasons that fit a silence, the likeliest first. `others` are the rest of the shop; `broker` is the product's own line
 * to it. Empty for a node that is not gone.
 */
export function goneReasons(
  node: Silence,
  others: readonly Silence[],
  broker: { up: boolean; why: string | null },
  nowS: number,
): GoneReason[] {
  if (!broker.up)
    return [
      {
        words: `The broker itself cannot be reached${broker.why === null ? '' : `: ${broker.why}`}.`,
        next: 'Nothing is known of any node until it can: see Settings, Broker.',
      },
    ]
  if (!isGone(node, nowS)) return []
  return [
    networkDown(node, others, nowS),
    weakSupply(node),
    weakRadio(node),
    overslept(node, nowS),
    cutOff(node),
  ].filter((r) => r !== null)
}

function networkDown({ network }: Silence, others: readonly Silence[], nowS: number): GoneReason | null {
  const same = others.filter((o) => o.network === network && o.status !== null)
  if (same.length === 0 || !same.every((o) => isGone(o, nowS))) return null
  return {
    words: `Every node of network “${network}” is gone.`,
    next: 'Look at the access point first: its power, its channel (1 to 11), whether name or password was changed.',
  }
}

/** A node that had power for less than this before it went may have a supply that comes and goes, s. */
const SHORT_UP_S = 300

function weakSupply({ health }: Silence): GoneReason | null {
  if (health?.restart === 'power' && health.uptimeS < SHORT_UP_S)
    return {
      words: `It had had power for only ${Math.round(health.uptimeS)} s: its supply may come and go.`,
      next: 'Measure the supply at the board while the radio sends: a long or thin cable, a weak supply or cell.',
    }
  if (health?.restart !== 'watchdog' && health?.restart !== 'firmware') return null
  return {
    words: 'It had not started by itself: its program had stood still or crashed.',
    next: 'Read what it says on its cable at start; take off the part added last and see whether it stays.',
  }
}

function weakRadio({ health }: Silence): GoneReason | null {
  if (health?.dbm == null || health.dbm >= WEAK_DBM) return null
  return {
    words: `It was last heard at ${String(health.dbm).replace('-', '−')} dBm, which a closed door can end.`,
    next: 'Turn its antenna away from metal, hang it otherwise, or bring an access point nearer.',
  }
}

function overslept({ status, heardAtS }: Silence, nowS: number): GoneReason | null {
  if (status === null || !isOverdue(status, heardAtS ?? 0, nowS)) return null
  return {
    words: 'It went to sleep and has not come back when it said.',
    next: 'Measure its cell under load; then wake it by hand near the access point.',
  }
}

function cutOff({ status }: Silence): GoneReason | null {
  if (status?.is !== 'offline') return null
  return {
    words: 'Its connection ended without a goodbye: its power went, or its radio.',
    next: 'See whether its supply is there, then take the supply off and put it back; the first start text says the rest.',
  }
}
