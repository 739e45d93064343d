import { randomUUID } from 'node:crypto'
import type { CloselyHeard } from '../../core/publish/payload'
import { topicsOf } from '../../core/publish/topics'
import type { NodeLive } from '../../wire/protocol'
import type { Database } from '../db/database'
import { revisionOf } from '../db/revisionRows'
import type { Workshop } from '../nodes/workshop'
import type { PendingAnswers } from './pendingAnswers'
import type { LiveStream } from './stream'

const ANSWER_MS = 5_000
/** A node that has ended by its own clock is believed this much later. */
const OVER_MS = 3_000

export interface CloseListeningOptions {
  root: string
  db: Database
  workshop: Workshop
  stream: LiveStream
  answers: PendingAnswers
  isHere: (node: string) => boolean
  publish: (topic: string, payload: string) => Promise<void>
}

export interface Asked {
  signals: readonly string[]
  everyMs: number
  forS: number
}

export type Listening = { kind: 'listening' | 'waits' } | { kind: 'failed'; reason: string }

interface Spoken {
  node: string
  signals: { id: string; slug: string }[]
}

/** Who is listened to closely, and until when. A sleeper is asked when it wakes next, and stays awake for it. */
export class CloseListening {
  private readonly waiting = new Map<string, Asked>()
  private readonly known = new Map<string, { revision: number; spoken: Spoken }>()
  private readonly timers = new Map<string, NodeJS.Timeout>()

  constructor(private readonly o: CloseListeningOptions) {}

  async begin(id: string, asked: Asked): Promise<Listening> {
    const node = this.o.workshop.get(id)
    if (!node) return { kind: 'failed', reason: 'there is no such node' }
    if (this.o.isHere(id)) return this.ask(id, asked)
    if (node.live.status?.is !== 'asleep')
      return { kind: 'failed', reason: `${node.design.name} is not connected: there is nobody to ask` }
    this.waiting.set(id, asked)
    this.tell(id, { signals: [...asked.signals], rates: {}, until: null })
    return { kind: 'waits' }
  }

  /** Nothing more is asked of it, and what it is at ends. */
  async end(id: string): Promise<void> {
    this.waiting.delete(id)
    const node = this.o.workshop.get(id)
    if (node?.live.listening?.until && this.o.isHere(id))
      await this.o.publish(topicsOf(this.o.root, (await this.spoken(id)).node).set('close'), NOTHING)
    this.over(id)
  }

  /** A node has come online: who waited for it is asked now. */
  online(id: string): void {
    const asked = this.waiting.get(id)
    this.waiting.delete(id)
    if (asked)
      this.ask(id, asked).then(
        (l) => l.kind === 'failed' && this.over(id, l.reason),
        (e: unknown) => this.over(id, e instanceof Error ? e.message : String(e)),
      )
    else if (this.o.workshop.get(id)?.live.listening) this.over(id)
  }

  /** What a node tells of a signal, by the name the file it runs has for it. */
  async heard(id: string, heard: CloselyHeard): Promise<void> {
    const { signals } = await this.spoken(id)
    const signal = signals.find((s) => s.slug === heard.signal)?.id
    if (signal !== undefined) this.o.stream.emit({ kind: 'close', node: id, signal, heard })
  }

  stop(): void {
    for (const timer of this.timers.values()) clearTimeout(timer)
  }

  private async ask(id: string, { signals, everyMs, forS }: Asked): Promise<Listening> {
    const known = await this.spoken(id)
    const slugs = signals.map((s) => known.signals.find((k) => k.id === s)?.slug)
    const missing = slugs.findIndex((s) => s === undefined)
    if (missing >= 0)
      return { kind: 'failed', reason: 'the file it runs does not have this signal yet: send it the design first' }
    const asked = randomUUID()
    const answer = this.o.answers.to(asked, ANSWER_MS)
    const topic = topicsOf(this.o.root, known.node).set('close')
    await this.o.publish(topic, JSON.stringify({ id: asked, signals: slugs, everyMs, forS }))
    const done = await answer
    if (!done) return { kind: 'failed', reason: `it did not answer within ${ANSWER_MS / 1000} s` }
    if (done.result !== 'done') return { kind: 'failed', reason: done.reason ?? 'refused' }
    const rates = Object.fromEntries(
      (done.rates ?? []).flatMap((r) => {
        const of = known.signals.find((k) => k.slug === r.signal)
        return of ? [[of.id, r.everyMs]] : []
      }),
    )
    this.tell(id, { signals: [...signals], rates, until: new Date(Date.now() + forS * 1000).toISOString() })
    clearTimeout(this.timers.get(id))
    this.timers.set(
      id,
      setTimeout(() => this.over(id), forS * 1000 + OVER_MS),
    )
    return { kind: 'listening' }
  }

  /** Name of the node and of its signals in the file it runs; where that is not known, in the design. */
  private async spoken(id: string): Promise<Spoken> {
    const node = this.o.workshop.get(id)
    const running = node?.live.running
    const known = this.known.get(id)
    if (known && running && known.revision === running.revision) return known.spoken
    const kept = running ? await revisionOf(this.o.db, id, running.revision) : null
    const design = kept?.design ?? node?.design
    const signals = Object.entries(design?.signals ?? {}).map(([signal, { slug }]) => ({ id: signal, slug }))
    const spoken = { node: kept?.slug ?? design?.slug ?? '', signals }
    if (running && kept) this.known.set(id, { revision: running.revision, spoken })
    return spoken
  }

  private over(id: string, why?: string): void {
    clearTimeout(this.timers.get(id))
    this.timers.delete(id)
    this.tell(id, why === undefined ? null : { signals: [], rates: {}, until: null, why })
  }

  private tell(id: string, listening: NodeLive['listening']): void {
    if (this.o.workshop.get(id)) this.o.workshop.live(id, { listening })
  }
}

const NOTHING = JSON.stringify({ id: null, signals: [], forS: 0 })
