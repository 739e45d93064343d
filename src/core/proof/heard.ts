/** One message as a subscriber gets it. `retain`: given at subscribing, not live. Times in s of one clock. */
export interface Heard {
  topic: string
  text: string
  retain: boolean
  atS: number
}

/** What was heard of one topic. */
export interface TopicHeard {
  live: { text: string; atS: number }[]
  /** Given to whoever subscribed first, and again at the end; undefined: nothing was. */
  keptAtStart: string | undefined
  keptAtEnd: string | undefined
}

const MOST_LIVE = 5000

/** Everything heard below a root from one moment to another. */
export class HeardSoFar {
  readonly topics = new Map<string, TopicHeard>()
  endS: number

  constructor(readonly beganS: number) {
    this.endS = beganS
  }

  /** A message of the first subscription. */
  take({ topic, text, retain, atS }: Heard): void {
    this.endS = Math.max(this.endS, atS)
    const of = this.of(topic)
    if (retain) {
      of.keptAtStart = text
      return
    }
    if (of.live.length < MOST_LIVE) of.live.push({ text, atS })
  }

  /** A retained message given to another subscription at the end. */
  kept(topic: string, text: string): void {
    this.of(topic).keptAtEnd = text
  }

  of(topic: string): TopicHeard {
    const known = this.topics.get(topic)
    if (known) return known
    const fresh: TopicHeard = { live: [], keptAtStart: undefined, keptAtEnd: undefined }
    this.topics.set(topic, fresh)
    return fresh
  }

  /** Every text heard on a topic, retained ones first. */
  texts(topic: string): string[] {
    const { live, keptAtStart, keptAtEnd } = this.of(topic)
    return [keptAtStart, ...live.map((m) => m.text), keptAtEnd].filter((t) => t !== undefined)
  }
}
