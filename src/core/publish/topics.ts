export const DEFAULT_ROOT = 'vn'

/** Topics of one node. `root` and the slugs are as the design has them. */
export function topicsOf(root: string, node: string) {
  const base = `${root}/${node}`
  return {
    base,
    status: `${base}/status`,
    health: `${base}/health`,
    fault: `${base}/fault`,
    td: `${base}/td`,
    config: `${base}/config`,
    configSet: `${base}/config/set`,
    vaultSet: `${base}/vault/set`,
    configDone: `${base}/config/done`,
    signal: (slug: string) => `${base}/${slug}`,
    set: (slug: string) => `${base}/${slug}/set`,
    done: (slug: string) => `${base}/${slug}/done`,
  }
}

export interface TopicParts {
  root: string
  node: string
  leaf: string
  tail: 'set' | 'done' | null
}

/** Splits `<root>/<node>/<leaf>[/set|/done]`, or null when a topic is not of that form. */
export function splitTopic(topic: string): TopicParts | null {
  const [root, node, leaf, tail, ...more] = topic.split('/')
  if (!root || !node || !leaf || more.length > 0) return null
  if (tail !== undefined && tail !== 'set' && tail !== 'done') return null
  return { root, node, leaf, tail: tail ?? null }
}
