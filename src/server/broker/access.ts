import type { Role } from '../db/loginRows'

export interface Client {
  role: Role
  slugs: readonly string[]
}

/** What only the product asks a node for. */
const PRODUCT_ONLY = ['config', 'vault', 'find', 'close', 'rx']

/**
 * May this client publish on this topic? A node or gateway only below its own slugs and never a command; nobody but the
 * product sends files.
 */
export function mayPublish(root: string, client: Client, topic: string): boolean {
  const levels = topic.split('/')
  const last = levels.at(-1)
  switch (client.role) {
    case 'product':
      return levels[0] === root
    case 'gateway':
    case 'node':
      return levels[0] === root && client.slugs.includes(levels[1] ?? '') && levels.length >= 3 && last !== 'set'
    case 'controller':
      if (topic === 'standin/controller/entities') return true
      return levels[0] === root && levels.length === 4 && last === 'set' && !PRODUCT_ONLY.includes(levels[2] ?? '')
    case 'standin':
      return levels[0] === 'standin'
    case 'reader':
      return false
  }
}

/** May this client receive what the filter selects? Files and sealed credentials go to their node alone. */
export function maySubscribe(root: string, client: Client, filter: string): boolean {
  // Who else is connected, and how, is nobody's business.
  if (filter.startsWith('$')) return false
  const levels = filter.split('/')
  if (client.role === 'node' || client.role === 'gateway') {
    return (
      filter === `${root}/time` ||
      (levels[0] === root && client.slugs.includes(levels[1] ?? '') && levels.length === 4 && levels[3] === 'set')
    )
  }
  if (client.role === 'standin') return levels[0] === 'standin'
  return true
}

/** What a client that may watch everything still does not get to see. */
export function mayForward(root: string, client: Client, topic: string): boolean {
  if (client.role === 'node' || client.role === 'gateway' || client.role === 'product') return true
  const [first, , leaf, tail] = topic.split('/')
  return !(first === root && tail === 'set' && (leaf === 'config' || leaf === 'vault'))
}
