import type { AccessOf } from './accessText'
import { matches } from './topicFilter'

/** Something a login is tried for, on topics that nobody has. */
export interface Try {
  does: 'publishes' | 'hears'
  topic: string
  words: string
}

/** What is tried, for a slug that no node has. */
export const triesFor = (root: string, slug: string): Try[] => [
  { does: 'publishes', topic: `${root}/${slug}/value`, words: 'speak for any node' },
  { does: 'publishes', topic: `${root}/${slug}/value/set`, words: 'command any output' },
  { does: 'publishes', topic: `${root}/${slug}/config/set`, words: 'send files to nodes, which rewires their outputs' },
  { does: 'publishes', topic: `${root}/${slug}/vault/set`, words: 'send sealed passwords to nodes' },
  { does: 'publishes', topic: `${slug}/value`, words: `publish outside of ${root}/` },
  { does: 'hears', topic: `${root}/${slug}/value`, words: 'hear what every node says' },
  { does: 'hears', topic: `${root}/${slug}/value/set`, words: 'hear every command' },
  { does: 'hears', topic: `${root}/${slug}/config/set`, words: 'hear the files that are sent to nodes' },
  { does: 'hears', topic: `${slug}/value`, words: `hear what is outside of ${root}/` },
]

/** Tries that went through and that its rights do not name. */
export function beyond(of: AccessOf, through: readonly Try[]): Try[] {
  const covered = (filters: readonly string[], topic: string) => filters.some((f) => matches(f, topic))
  return through.filter(({ does, topic }) =>
    does === 'hears' ? !covered(of.hear, topic) : !covered(of.publish, topic) || covered(of.not, topic),
  )
}
