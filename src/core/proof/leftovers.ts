import type { HeardSoFar } from './heard'
import type { Line } from './line'
import type { Thing } from './promises'

/** Leaves a thing has beside what it promises. */
const OWN = ['td', 'config', 'fault', 'close']
/** What the shop itself says below its root. */
const OF_SHOP = ['product', 'time', 'mode']

/** What lies below the root, or comes there, that nobody promised. */
export function leftovers(root: string, things: readonly Thing[], heard: HeardSoFar): Line[] {
  const promised = new Set(
    things.flatMap((t) => [...t.also, ...t.promises.flatMap((p) => [p.topic, p.set?.answer ?? []].flat())]),
  )
  const thingOf = (topic: string) => things.find((t) => topic.startsWith(`${t.base}/`))
  const out: Line[] = []
  for (const [topic, { keptAtStart, keptAtEnd, live }] of heard.topics) {
    const [first, node, leaf = '', ...tail] = topic.split('/')
    if (first !== root || promised.has(topic) || OF_SHOP.includes(node ?? '')) continue
    const thing = thingOf(topic)
    const of = { thing: thing?.title ?? node ?? '', topic, name: leaf }
    const kept = keptAtEnd ?? keptAtStart
    if (tail.at(-1) === 'set') {
      if (kept !== undefined && kept !== '')
        out.push({
          ...of,
          check: 'leftover',
          verdict: 'failed',
          words: 'A command is kept: it comes again at every start.',
        })
      continue
    }
    const owns = thing !== undefined && (OWN.includes(leaf) || tail.at(-1) === 'done' || leaf === 'rx')
    if (owns && (leaf === 'td' || leaf === 'config' || kept === undefined)) continue
    if (kept !== undefined && kept !== '')
      out.push({
        ...of,
        check: 'leftover',
        verdict: 'failed',
        words: `Kept by the broker, promised by nobody: “${kept.slice(0, 40)}”. A controller may still show it.`,
      })
    else if (live.some((m) => m.text !== ''))
      out.push({ ...of, check: 'undeclared', verdict: 'failed', words: 'Something comes here that nobody promised.' })
  }
  return out
}

/** Topics the lines of a run found kept and promised by nobody: those that may be cleared. */
export const leftoverTopics = (lines: readonly Line[]): string[] =>
  lines.flatMap((l) => (l.check === 'leftover' && l.verdict === 'failed' ? [l.topic] : []))
