import { topicsOf } from './topics'

/** MQTT filters of what somebody may publish and hear. */
export interface TopicAccess {
  publish: string[]
  hear: string[]
}

/** What of a node file says who it is and what it speaks of. */
export interface Speaker {
  /** The node's slug. */
  node: string
  signals: readonly { slug: string; medium?: string }[]
  /** Senders it hears and speaks for, and who else does. */
  senders?: readonly { slug: string; signals: readonly { slug: string }[]; others?: readonly string[] }[]
}

/** Leaves every node has, beside its signals. */
const OWN = ['status', 'health', 'config', 'td', 'fault', 'close']
/** What only the product asks a node for: a controller may not. */
export const PRODUCT_ONLY: readonly string[] = ['config', 'vault', 'find', 'close', 'rx']

/**
 * What one node file lets its node publish and hear: its own leaves and signals, and nothing that only looks like them.
 * Commands it hears whatever they are for, and answers: a misspelt one is told that it is.
 */
export function fileAccess(root: string, { node, signals, senders = [] }: Speaker): TopicAccess {
  const { base, signal, set, done } = topicsOf(root, node)
  const media = signals.flatMap((s) => (s.medium === undefined ? [] : [`${base}/rx/${s.medium}`]))
  return {
    publish: [
      ...OWN.map((leaf) => `${base}/${leaf}`),
      ...signals.map((s) => signal(s.slug)),
      done('+'),
      ...media,
      ...ofSenders(root, senders),
    ],
    hear: [`${root}/time`, set('+'), ...aboutSenders(root, senders)],
  }
}

type Senders = NonNullable<Speaker['senders']>

/** What a gateway says of the senders it carries: their signals, that it was first, and that it speaks for them. */
const ofSenders = (root: string, senders: Senders): string[] =>
  senders.flatMap((s) => [...s.signals.map((x) => x.slug), 'heard', 'via'].map((leaf) => `${root}/${s.slug}/${leaf}`))

/** What it has to hear to know whether others have spoken. */
const aboutSenders = (root: string, senders: Senders): string[] => [
  ...senders.flatMap((s) => [`${root}/${s.slug}/via`, ...(s.others?.length ? [`${root}/${s.slug}/heard`] : [])]),
  ...new Set(senders.flatMap((s) => (s.others ?? []).map((o) => `${root}/${o}/status`))),
]

/** All of these together, each once, in order. */
export function union(all: readonly TopicAccess[]): TopicAccess {
  const one = (which: (a: TopicAccess) => string[]) => [...new Set(all.flatMap(which))].sort()
  return { publish: one((a) => a.publish), hear: one((a) => a.hear) }
}

/**
 * What a guest may do below the beginnings it was given: hear all, and publish where they are not the shop's own, so
 * that it cannot speak for a node.
 */
export function guestAccess(root: string, beginnings: readonly string[]): TopicAccess {
  const own = (topic: string) => topic === root || topic.startsWith(`${root}/`)
  const below = (topics: readonly string[]) => topics.map((t) => `${t}/#`)
  return { publish: below(beginnings.filter((t) => !own(t))), hear: below(beginnings) }
}

/** What a controller may do, in filters; what is left out of them stands in `not`. */
export function controllerAccess(root: string): TopicAccess & { not: string[] } {
  return { publish: [`${root}/+/+/set`], hear: [`${root}/#`], not: PRODUCT_ONLY.map((leaf) => `${root}/+/${leaf}/set`) }
}
