import { splitTopic, topicsOf } from '../../core/publish/topics'

/** What a topic is about, by its form alone. */
export type TopicClass =
  | { kind: 'standin' }
  | { kind: 'time' }
  | { kind: 'product' }
  | { kind: 'frame'; gateway: string; medium: string }
  | { kind: 'set'; node: string; leaf: string }
  | { kind: 'done'; node: string; leaf: string }
  | { kind: 'node'; node: string; leaf: string }
  | { kind: 'foreign' }

/** `<root>/<gateway>/rx/<medium>`. */
const RX = /^([^/]+)\/([^/]+)\/rx\/(?!set$|done$)([^/]+)$/

/** Whether a topic is ours, and what it carries. */
export function classOf(topic: string, root: string): TopicClass {
  if (topic.startsWith('standin/')) return { kind: 'standin' }
  const heard = RX.exec(topic)
  if (heard?.[1] === root) return { kind: 'frame', gateway: heard[2] ?? '', medium: heard[3] ?? '' }
  if (topic === `${root}/time`) return { kind: 'time' }
  if (topic === topicsOf(root, 'product').status) return { kind: 'product' }
  const parts = splitTopic(topic)
  if (parts?.root !== root) return { kind: 'foreign' }
  return { kind: parts.tail ?? 'node', node: parts.node, leaf: parts.leaf }
}
