import type { HeardSoFar, TopicHeard } from './heard'
import type { Line } from './line'
import type { Thing } from './promises'

/** Leaves a thing has beside what it promises. */
const OWN = ['td', 'config', 'fault', 'close', 'heard', 'via']
/** Those of them a broker keeps. */
const KEPT = ['td', 'config', 'via']
/** What the shop itself says below its root. */
const OF_SHOP = ['product', 'time', 'mode']

/** What lies below the root, or comes there, that nobody promised. */
export function leftovers(root: string, things: readonly Thing[], heard: HeardSoFar): Line[] {
  const promised = new Set(
    things.flatMap((t) => [...t.also, ...t.promises.flatMap((p) => [p.topic, p.set?.answer ?? []].flat())]),
  )
  return [...heard.topics].flatMap(([topic, of]): Line[] => {
    const [first, node = ''] = topic.split('/')
    if (first !== root || promised.has(topic) || OF_SHOP.includes(node)) return []
    const thing = things.find((t) => topic.startsWith(`${t.base}/`))
    const wrong = unpromised(topic, of, thing !== undefined)
    return wrong === null ? [] : [{ thing: thing?.title ?? node, topic, name: topic.split('/')[2] ?? '', ...wrong }]
  })
}

/** What is wrong with a topic nobody promised; null where a thing may have it beside what it promises. */
function unpromised(
  topic: string,
  { keptAtStart, keptAtEnd, live }: TopicHeard,
  ofThing: boolean,
): Pick<Line, 'check' | 'verdict' | 'words'> | null {
  const [, , leaf = '', ...tail] = topic.split('/')
  const kept = (keptAtEnd ?? keptAtStart) || null
  const last = tail.at(-1)
  const leftover = (words: string) => ({ check: 'leftover' as const, verdict: 'failed' as const, words })
  if (last === 'set') return kept === null ? null : leftover('A command is kept: it comes again at every start.')
  const owns = ofThing && (OWN.includes(leaf) || leaf === 'rx' || last === 'done')
  if (owns && (kept === null || KEPT.includes(leaf))) return null
  if (kept !== null)
    return leftover(`Kept by the broker, promised by nobody: “${kept.slice(0, 40)}”. A controller may still show it.`)
  return live.some((m) => m.text !== '')
    ? { check: 'undeclared', verdict: 'failed', words: 'Something comes here that nobody promised.' }
    : null
}

/** Topics the lines of a run found kept and promised by nobody: those that may be cleared. */
export const leftoverTopics = (lines: readonly Line[]): string[] =>
  lines.flatMap((l) => (l.check === 'leftover' && l.verdict === 'failed' ? [l.topic] : []))
