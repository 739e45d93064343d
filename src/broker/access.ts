import type { BrokerAccess, Role } from '../wire/brokerControl'
import { PRODUCT_ONLY } from '../core/publish/access'
import { isCovered, matches } from '../core/publish/topicFilter'

export interface Client {
  role: Role
  /** What a node, a gateway or a guest has of its own. */
  own: BrokerAccess[string] | undefined
}

/**
 * May this client publish on this topic? A node or gateway only what its files say and never a command; nobody but the
 * product sends files.
 */
export function mayPublish(root: string, { role, own }: Client, topic: string): boolean {
  const levels = topic.split('/')
  const last = levels.at(-1)
  switch (role) {
    case 'product':
      // What it announces in a user's own form lies outside of the root.
      return !topic.startsWith('$')
    case 'gateway':
    case 'node':
      return last !== 'set' && (own?.publish.some((filter) => matches(filter, topic)) ?? false)
    case 'guest':
      return own?.publish.some((filter) => matches(filter, topic)) ?? false
    case 'controller':
      if (topic === 'standin/controller/entities' || topic === 'standin/controller/told') return true
      return levels[0] === root && levels.length === 4 && last === 'set' && !PRODUCT_ONLY.includes(levels[2] ?? '')
    case 'standin':
      return levels[0] === 'standin'
    case 'reader':
      return false
  }
}

/** May this client ask for what the filter selects? */
export function maySubscribe({ role, own }: Client, filter: string): boolean {
  // Who else is connected, and how, is nobody's business.
  if (filter.startsWith('$')) return false
  switch (role) {
    case 'node':
    case 'gateway':
    case 'guest':
      return own?.hear.some((may) => isCovered(filter, may)) ?? false
    case 'standin':
      return filter.split('/')[0] === 'standin'
    case 'controller':
    case 'reader':
    case 'product':
      return true
  }
}

/** What a client that may watch everything still does not get to see, and a node whose file has less than it asked for. */
export function mayForward(root: string, { role, own }: Client, topic: string): boolean {
  if (role === 'product') return true
  if (role === 'node' || role === 'gateway') return own?.hear.some((filter) => matches(filter, topic)) ?? false
  const [first, , leaf, tail] = topic.split('/')
  return !(first === root && tail === 'set' && (leaf === 'config' || leaf === 'vault'))
}
