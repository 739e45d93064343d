import { type Design, inOrder } from '../model/design'
import { topicsOf } from './topics'

/** What has to follow when a signal or a node takes another short name. */
export interface RenameCost {
  /** Topics that end, and what comes in their place. */
  topics: { from: string; to: string }[]
  /** Retained ones among them, which have to be cleared. */
  cleared: string[]
  words: string[]
}

/** Cost of giving a signal, or with `signalId` null the whole node, another short name. History and rules go by id and stay. */
export function renameCost(root: string, design: Design, signalId: string | null, slug: string): RenameCost {
  const [before, after] = [topicsOf(root, design.slug), topicsOf(root, signalId === null ? slug : design.slug)]
  const touched = inOrder(design.signals).filter(({ id }) => signalId === null || id === signalId)
  const topics = touched.map(({ value }) => ({
    from: before.signal(value.slug),
    to: after.signal(signalId === null ? value.slug : slug),
  }))
  const own =
    signalId === null
      ? ['status', 'health', 'td', 'config'].map((leaf) => ({
          from: `${before.base}/${leaf}`,
          to: `${after.base}/${leaf}`,
        }))
      : []
  const all = [...topics, ...own]
  const entities = touched.filter(({ value }) => value.publish.entity).length
  return {
    topics: all,
    cleared: all.map((t) => t.from),
    words: [
      `${all.length} ${all.length === 1 ? 'topic ends' : 'topics end'}; what the broker keeps on ${all.length === 1 ? 'it' : 'them'} is cleared once the node runs its new file.`,
      entities === 0
        ? 'No entity depends on it.'
        : `${entities} ${entities === 1 ? 'entity' : 'entities'}: a controller that goes by topic has to be told; what it wrote by hand for the old name stops working.`,
      'History, calibration and local rules stay: they go by an id that does not change.',
    ],
  }
}
