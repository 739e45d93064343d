import { randomUUID } from 'node:crypto'
import { setTimeout as sleep } from 'node:timers/promises'
import { z } from 'zod'
import { slugSchema } from '../../core/model/ids'
import { isOf, type Sender } from '../../core/model/sender'
import type { AirBurst } from '../../core/radio/candidates'
import { type Arrival, Hearing } from '../../core/radio/hearing'
import { topicsOf } from '../../core/publish/topics'
import type { Shop } from '../../core/shop/shop'
import { type AirListening, NOT_HEARD, type SenderLive } from '../../wire/air'
import { lastBursts, putBurst } from '../db/burstRows'
import type { Database } from '../db/database'
import type { PendingAnswers } from '../live/pendingAnswers'
import type { LiveStream } from '../live/stream'

/** What a message means; `stored`: when what it leaves behind is. */
export interface Understood {
  words: string
  odd: boolean
  stored?: Promise<void>
}

/** What is not learnt is forgotten after this, ms. */
const FORGOTTEN_MS = 600_000
const ANSWER_MS = 5000
const KEPT_BURSTS = 60
const MOST_ARRIVALS = 4000
/** What the database did not take is tried again after this, ms. */
const AGAIN_MS = 1000

export interface AirOptions {
  db: Database
  root: string
  stream: LiveStream
  answers: PendingAnswers
  shop: () => Shop
  /** Nodes with a receiver. */
  gateways: () => { id: string; name: string; slug: string }[]
  isHere: (node: string) => boolean
  publish: (topic: string, payload: string) => Promise<void>
  retainedBelow: (topic: string) => string[]
  clear: (topic: string) => Promise<void>
  trouble: (topic: string, what: string) => void
}

const markSchema = z.object({ by: slugSchema, content: z.string().regex(/^[01f]{1,64}$/) })
const frameSchema = z.object({ us: z.array(z.number()), gapUs: z.number() })

/**
 * What is in the air: senders of the shop as their receivers tell of them, and, while somebody looks, what else is heard.
 * Nothing here is needed for senders to work: their receivers carry them by themselves.
 */
export class Air {
  private readonly live = new Map<string, SenderLive>()
  private arrivals: Arrival[] = []
  private hearing: Hearing
  private families = ''
  private until: number | null = null
  private sinceMs: number | null = null
  private told: AirListening['gateways'] = []
  private senders: Shop['senders']
  private ended = false

  private constructor(private readonly o: AirOptions) {
    this.senders = o.shop().senders
    this.hearing = this.freshHearing()
    o.stream.listen((_, event) => {
      if (event.kind === 'shop-edit')
        void this.shopChanged().catch((e: unknown) =>
          this.o.trouble('', `what is heard of senders is not cleared: ${String(e)}`),
        )
    })
  }

  static async load(o: AirOptions): Promise<Air> {
    const air = new Air(o)
    for (const { sender_id, at, by_gateway, content } of await lastBursts(o.db, KEPT_BURSTS)) {
      const sender = o.shop().senders[sender_id]
      if (sender)
        air.live.set(sender_id, air.withBurst(sender_id, sender, { at: at.toISOString(), by: by_gateway, content }))
    }
    return air
  }

  /** What is not stored by now is not acknowledged either: the broker hands it over again. */
  stop(): void {
    this.ended = true
  }

  /** By sender id. */
  states(): Record<string, SenderLive> {
    return Object.fromEntries(this.live)
  }

  bySlug(slug: string): [string, Sender] | undefined {
    return Object.entries(this.o.shop().senders).find(([, s]) => s.slug === slug)
  }

  /**
   * A message below the name of a sender, and what it means; null for one that is none. `stored` is kept when what it
   * leaves behind is.
   */
  take(slug: string, leaf: string, text: string, atMs: number): Understood | null {
    const found = this.bySlug(slug)
    if (!found) return null
    const [id, sender] = found
    if (leaf === 'td') return { words: `${sender.name} is announced`, odd: false }
    const parsed = readJson(text)
    if (!parsed.ok) return { words: 'not JSON', odd: true }
    const at = new Date(atMs).toISOString()
    if (leaf === 'via') return this.viaTold(id, sender, parsed.value)
    if (leaf === 'heard') return this.marked(id, sender, parsed.value, atMs)
    const signal = Object.entries(sender.signals).find(([, s]) => s.slug === leaf)
    if (!signal) return { words: `${sender.name} has no signal of this name`, odd: true }
    const [signalId, { name, kind }] = signal
    const value = z.union([z.boolean(), z.string().max(24), z.null()]).safeParse(parsed.value)
    if (!value.success || (kind === 'event') !== (typeof value.data === 'string'))
      return {
        words: `found ${text.slice(0, 40)}, expected ${kind === 'event' ? 'a word' : 'true, false or null'}`,
        odd: true,
      }
    const before = this.live.get(id) ?? NOT_HEARD
    this.put(id, { ...before, values: { ...before.values, [signalId]: { value: value.data, at } } })
    return {
      words: `${sender.name} ${sender.tag} ${name}: ${value.data === null ? 'unknown' : String(value.data)}`,
      odd: false,
    }
  }

  /** A raw frame a gateway passed on. */
  frame(gateway: string, json: unknown, atMs: number): void {
    const frame = frameSchema.safeParse(json)
    if (!frame.success) return
    const arrival = this.hearing.hear(gateway, frame.data, atMs)
    if (!arrival) return
    this.forget(atMs)
    this.arrivals.push(arrival)
    this.arrivals.splice(0, this.arrivals.length - MOST_ARRIVALS)
    const { by, family, code } = arrival
    this.o.stream.emit({ kind: 'air', burst: { atMs, by, family, code } })
  }

  /** What was heard in the last ten minutes, oldest first. */
  heard(): { bursts: AirBurst[] } {
    this.forget(Date.now())
    return {
      bursts: this.arrivals.map(({ atMs, by, family, code }) => ({ atMs, by, family, code })),
    }
  }

  get listening(): AirListening {
    const on = this.until !== null && this.until > Date.now()
    const until = on && this.until !== null ? new Date(this.until).toISOString() : null
    return { until, sinceMs: on ? this.sinceMs : null, gateways: this.told }
  }

  /** Asks every gateway for its raw frames for so long, s; 0 ends it. */
  async listen(forS: number): Promise<AirListening> {
    const all = this.o.gateways()
    // Silence counts only where somebody has listened.
    const since = this.listening.sinceMs ?? Date.now()
    this.told = await Promise.all(
      all.map(async ({ id, name, slug }) => {
        if (!this.o.isHere(id)) return { node: id, name, why: 'is not connected' }
        const asked = randomUUID()
        const answer = this.o.answers.to(asked, ANSWER_MS)
        await this.o.publish(topicsOf(this.o.root, slug).set('rx'), JSON.stringify({ id: asked, forS }))
        const done = await answer
        if (!done) return { node: id, name, why: `did not answer within ${ANSWER_MS / 1000} s` }
        return { node: id, name, why: done.result === 'done' ? null : (done.reason ?? 'refused') }
      }),
    )
    const some = this.told.some((t) => t.why === null)
    this.until = some && forS > 0 ? Date.now() + forS * 1000 : null
    this.sinceMs = this.until === null ? null : since
    return this.listening
  }

  private viaTold(id: string, sender: Sender, value: unknown): Understood {
    const via = typeof value === 'string' ? value : null
    this.put(id, { ...(this.live.get(id) ?? NOT_HEARD), via })
    return { words: `${via ?? 'nobody'} speaks for ${sender.name}`, odd: false }
  }

  private marked(id: string, sender: Sender, value: unknown, atMs: number): Understood {
    const mark = markSchema.safeParse(value)
    if (!mark.success) return { words: 'not the mark of a burst', odd: true }
    const { by, content } = mark.data
    this.put(id, this.withBurst(id, sender, { at: new Date(atMs).toISOString(), by, content }))
    const stored = this.kept(sender.name, { sender: id, atMs, by, content })
    return { words: `${by} heard ${sender.name}: ${content}`, odd: false, stored }
  }

  /** Resolves when the burst is stored, however long the database is in trouble; never once the product has ended. */
  private async kept(name: string, burst: Parameters<typeof putBurst>[1]): Promise<void> {
    for (let tries = 0; !this.ended; tries++) {
      try {
        return await putBurst(this.o.db, burst)
      } catch (e) {
        if (tries === 0) this.o.trouble('', `what ${name} said is not stored yet: ${String(e)}`)
        await sleep(AGAIN_MS, undefined, { ref: false })
      }
    }
    return new Promise(() => undefined)
  }

  /** Its state after a burst; events are known from it too, where their message was missed. */
  private withBurst(
    id: string,
    sender: Sender,
    { at, by, content }: { at: string; by: string; content: string },
  ): SenderLive {
    const before = this.live.get(id) ?? NOT_HEARD
    const values = { ...before.values }
    for (const [signalId, s] of Object.entries(sender.signals)) {
      if (s.kind !== 'event') continue
      const word = Object.entries(s.words).find(([pattern]) => isOf(content, pattern))?.[1]
      if (word !== undefined) values[signalId] = { value: word, at }
    }
    return { ...before, heardAt: at, by, values, bursts: [...before.bursts, { at, by }].slice(-KEPT_BURSTS) }
  }

  private put(id: string, live: SenderLive): void {
    this.live.set(id, live)
    this.o.stream.emit({ kind: 'sender', sender: id, live })
  }

  private forget(nowMs: number): void {
    const first = this.arrivals.findIndex((a) => a.atMs >= nowMs - FORGOTTEN_MS)
    this.arrivals = first < 0 ? [] : this.arrivals.slice(first)
  }

  private freshHearing(): Hearing {
    const { families } = this.o.shop()
    this.families = JSON.stringify(families)
    return new Hearing(Object.values(families))
  }

  /** What is heard is read by the families there are now; topics of senders that are gone are cleared. */
  private async shopChanged(): Promise<void> {
    const { families, senders } = this.o.shop()
    if (JSON.stringify(families) !== this.families) this.hearing = this.freshHearing()
    const before = this.senders
    this.senders = senders
    const slugs = new Set(Object.values(senders).map((s) => s.slug))
    for (const [id, sender] of Object.entries(before)) {
      if (!(id in senders)) this.live.delete(id)
      if (slugs.has(sender.slug)) continue
      const base = topicsOf(this.o.root, sender.slug).base
      for (const topic of this.o.retainedBelow(`${base}/`))
        await this.o.clear(topic).catch((e: unknown) => this.o.trouble(topic, String(e)))
    }
  }
}

function readJson(text: string): { ok: true; value: unknown } | { ok: false } {
  if (text === '') return { ok: true, value: null }
  try {
    return { ok: true, value: JSON.parse(text) as unknown }
  } catch {
    return { ok: false }
  }
}
