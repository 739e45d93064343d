import { z } from 'zod'
import type { Channel } from '../../core/catalog/part'
import type { Design, Signal } from '../../core/model/design'
import {
  closeSchema,
  type CloselyHeard,
  configReportSchema,
  doneSchema,
  type Done,
  faultSchema,
  healthSchema,
  parseObject,
  parseScalar,
  type Scalar,
  statusSchema,
} from '../../core/publish/payload'
import { channelOf } from '../../core/publish/channelOf'
import { isPossible } from '../../core/units/possible'
import { heardFrame } from '../../core/radio/media'
import type { Family } from '../../core/radio/subghz/family'
import type { Understood } from '../air/air'
import type { Message } from './message'
import type { Database } from '../db/database'
import type { Workshop } from '../nodes/workshop'
import { Ledger, type Words } from './ledger'
import { PendingAnswers } from './pendingAnswers'
import { classOf, type TopicClass } from './topicClass'
import { Upkeep } from './upkeep'
import { WriteBuffer } from './writeBuffer'
import type { Counts, LedgerRow, NodeState, Trouble } from '../../wire/protocol'
import type { Shelf } from '../shelf/shelf'
import type { LiveStream } from './stream'

const TELL_MS = 2000

/** What a signal of this channel may carry beside null. */
function kindOfValue(channel: Channel | undefined): 'number' | 'boolean' | 'string' {
  if (channel?.access === 'reading') return 'number'
  if (channel?.access === 'state') return channel.told ? 'string' : 'boolean'
  if (channel?.access === 'output') {
    if (channel.value === 'on-off') return 'boolean'
    if (channel.value === 'percent') return 'number'
    return 'string'
  }
  return 'string'
}

export interface IngestOptions {
  db: Database
  shelf: Shelf
  root: string
  workshop: Workshop
  stream: LiveStream
  clients: () => number
  /** Takes what stand-ins say among themselves. */
  ofStandIns: (message: Message) => void
  onOnline: (node: string) => void
  /** A node says which file it runs. */
  onRuns: (node: string) => void
  /** What close listening tells. */
  onClose: (node: string, heard: CloselyHeard) => void
  onLateAnswer: (node: string, done: Done) => void
  /** How senders say their codes. */
  families: () => readonly Family[]
  /** A raw frame of a gateway, and what receivers tell of a sender; null when there is none of this name. */
  onFrame: (gateway: string, json: unknown, atMs: number) => void
  ofSender: (slug: string, leaf: string, text: string, atMs: number) => Understood | null
}

interface KnownTopic {
  node: string
  design: Design
  signalId: string
  signal: Signal
  expected: 'number' | 'boolean' | 'string'
}
const MOST_KNOWN = 5000
/** Longest topic or sentence of a trouble that is kept, characters. */
const MOST_SAID = 300
const DONE = Promise.resolve()

/** A reading as the ledger tells it. */
class ReadingWords {
  constructor(
    private readonly known: KnownTopic,
    private readonly value: Scalar,
  ) {}

  toString(): string {
    const { design, signal, expected } = this.known
    return `${design.name} ${signal.tag} ${signal.name}: ${this.value === null ? 'unknown' : `${String(this.value)} ${expected === 'number' ? signal.publish.unit : ''}`.trim()}`
  }
}

/** What every message means: values to the live view and the database, the rest to whoever waits for it. */
export class Ingest {
  private tally = { received: 0, refused: 0, odd: 0, perMinute: 0 }
  readonly troubles: Trouble[] = []
  readonly answers = new PendingAnswers()
  readonly buffer: WriteBuffer
  readonly upkeep: Upkeep
  readonly ledger = new Ledger()
  private signals = new WeakMap<Design, Map<string, { id: string; signal: Signal; channel: Channel | undefined }>>()
  /** When the message in hand came, ms, and its number at the broker. */
  private at = 0
  private number = 0
  /** What was made of it. */
  private mark: LedgerRow['mark'] = 'passed'
  private words: Words = ''
  /** Topics a reading has come on, and what it is there. */
  private known = new Map<string, KnownTopic>()
  /** Payload of the message in hand, once somebody has read it. */
  private text: string | null = null
  /** What the message in hand leaves behind elsewhere. */
  private storing: Promise<void> | null = null
  /** Messages in the last minute, a pile for each time the counts are told; the last pile is still filling. */
  private minute = 0
  private piles: number[] = []
  private readonly timer: NodeJS.Timeout

  constructor(private readonly o: IngestOptions) {
    const trouble = (topic: string, what: string) => this.trouble(topic, what)
    this.buffer = new WriteBuffer(o.db, trouble)
    this.upkeep = new Upkeep({ db: o.db, workshop: o.workshop, trouble })
    this.timer = setInterval(() => this.tell(), TELL_MS)
  }

  get counts(): Counts {
    const { waiting, storing } = this.buffer
    return {
      ...this.tally,
      clients: this.o.clients(),
      storing: { ...storing, waiting },
      held: this.upkeep.held,
    }
  }

  /** What the message means is done at once; the promise is kept when everything it leaves behind is durable. */
  take(message: Message): Promise<void> {
    const before = this.buffer.gathered
    this.at = message.at ?? Date.now()
    this.number = message.n ?? 0
    this.mark = 'passed'
    this.words = 'not a topic of ours'
    this.understand(message)
    this.ledger.add(message, this.at, this.text, this.mark, this.words)
    this.text = null
    const { storing } = this
    this.storing = null
    const kept = this.buffer.gathered === before || (message.qos === 0 && !this.buffer.behind())
    if (kept) return storing ?? DONE
    return storing ? Promise.all([storing, this.buffer.flushSoon()]).then(() => undefined) : this.buffer.flushSoon()
  }

  private understand(message: Message): void {
    this.tally.received += 1
    this.minute += 1
    if (message.retain && !this.buffer.retain(message))
      this.odd('', 'a retained message on a topic with characters no database keeps was not kept')
    // A reading on a topic it has come on before, of a design that is still the same: the usual case by far.
    const known = this.known.get(message.topic)
    if (known && message.from !== null) {
      const node = this.o.workshop.get(known.node)
      if (node?.design === known.design) {
        this.o.workshop.heard(node, this.at)
        this.text = message.payload.toString('utf8')
        return this.reading(node, known, message.topic, this.text)
      }
      this.known.delete(message.topic)
    }
    const about = classOf(message.topic, this.o.root)
    switch (about.kind) {
      case 'standin':
        this.means('between stand-ins', 'passed')
        return this.o.ofStandIns(message)
      case 'frame':
        return this.frame(about.gateway, about.medium, message)
      case 'time':
        return this.means('the time, for nodes without a clock')
      case 'product':
        return this.means('whether Vivid Node runs, for whoever wants to know')
      case 'foreign':
        return
      default:
        return this.ofNode(about, message)
    }
  }

  private ofNode(about: Extract<TopicClass, { node: string }>, message: Message): void {
    const node = this.o.workshop.bySlug(about.node)
    if (!node) return this.ofSender(about, message)
    if (message.retain && message.payload.length === 0) return this.means('clears what was retained')
    const text = (this.text = message.payload.toString('utf8'))
    if (about.kind === 'set') return this.means(sentWords(node.design.name, about.leaf))
    if (message.from !== null) this.o.workshop.heard(node, this.at)
    if (about.kind === 'done') return this.done(node.id, message.topic, text)
    switch (about.leaf) {
      case 'status':
        return this.object(message.topic, statusSchema, text, (status) => {
          this.o.workshop.live(node.id, { status })
          this.means(`${node.design.name} is ${status.is}`)
          if (status.is === 'online' && message.from !== null) this.o.onOnline(node.id)
        })
      case 'health':
        return this.object(message.topic, healthSchema, text, (health) => {
          this.o.workshop.live(node.id, { health })
          this.means(`${node.design.name} up ${health.uptimeS} s, ${health.dbm ?? '–'} dBm`)
        })
      case 'config':
        return this.object(message.topic, configReportSchema, text, (running) => {
          this.o.workshop.runs(node.id, running)
          this.o.onRuns(node.id)
          this.means(`${node.design.name} runs revision ${running.revision}`)
        })
      case 'fault':
        return this.fault(node, message.topic, text)
      case 'close':
        return this.object(message.topic, closeSchema, text, (heard) => {
          this.means(`${node.design.name} listened to closely: ${heard.signal}`)
          this.o.onClose(node.id, heard)
        })
      case 'td':
        return this.means(`${node.design.name} announces itself`)
      default:
        return this.value(node, about.leaf, message.topic, text)
    }
  }

  private ofSender({ node: slug, leaf }: { node: string; leaf: string }, message: Message): void {
    const text = (this.text = message.payload.toString('utf8'))
    const about = this.o.ofSender(slug, leaf, text, this.at)
    if (!about) return this.means('a node this shop does not have', 'odd')
    this.storing = about.stored ?? null
    if (about.odd) this.odd(message.topic, about.words)
    else this.means(about.words)
  }

  /** What a node says went wrong: kept beside the signal it names until that is known again. */
  private fault(node: NodeState, topic: string, text: string): void {
    const parsed = parseObject(faultSchema, text)
    if (!parsed.ok) return this.odd(topic, parsed.reason)
    const { what, where } = parsed.value
    const id = (where !== null && this.signalsOf(node.design).get(where)?.id) || ''
    this.o.workshop.live(node.id, {
      faults: { ...node.live.faults, [id]: { what, at: new Date(this.at).toISOString() } },
    })
    this.odd(topic, `fault${where === null ? '' : ` of ${where}`}: ${what}`)
  }

  /** A radio frame as a gateway heard it; what it means is known where its medium has a decoder. */
  private frame(gateway: string, medium: string, message: Message): void {
    const node = this.o.workshop.bySlug(gateway)
    if (!node) return this.means('a gateway this shop does not have', 'odd')
    this.o.workshop.heard(node, this.at)
    this.object(message.topic, z.unknown(), message.payload.toString('utf8'), (json) => {
      const heard = heardFrame(medium, json, this.o.families())
      if (heard.kind === 'odd') this.odd(message.topic, heard.words)
      else this.means(`${node.design.name} heard ${heard.words}`)
      if (medium === 'subghz') this.o.onFrame(node.design.slug, json, this.at)
    })
  }

  refused(topic: string, what: string): void {
    this.tally.refused += 1
    this.ledger.refused(topic, what)
    this.trouble(topic, what)
  }

  async stop(): Promise<void> {
    clearInterval(this.timer)
    this.upkeep.stop()
    this.ledger.stop()
    await this.buffer.stop()
  }

  private value(node: NodeState, slug: string, topic: string, text: string): void {
    const { design } = node
    const found = this.signalsOf(design).get(slug)
    if (!found) return this.odd(topic, 'no signal of this name in the design')
    const known: KnownTopic = {
      node: node.id,
      design,
      signalId: found.id,
      signal: found.signal,
      expected: kindOfValue(found.channel),
    }
    if (this.known.size > MOST_KNOWN) this.known.clear()
    this.known.set(topic, known)
    this.reading(node, known, topic, text)
  }

  private reading(state: NodeState, known: KnownTopic, topic: string, text: string): void {
    const { node, signalId, expected } = known
    const parsed = parseScalar(text)
    if (!parsed.ok) return this.odd(topic, parsed.reason)
    const { unit } = known.signal.publish
    const beyond = typeof parsed.value === 'number' && !isPossible(parsed.value, unit)
    const value = beyond ? null : parsed.value
    if (value !== null && typeof value !== expected)
      return this.odd(topic, `found ${typeof value} ${text.slice(0, 40)}, expected ${expected}`)
    const { at } = this
    this.o.workshop.value(state, signalId, value, at)
    if (beyond) {
      const way = Number(parsed.value) > 0 ? 'more' : 'less'
      this.odd(topic, `${text.slice(0, 40)} ${unit} is ${way} than any part reads: taken as unknown`)
    } else this.means(new ReadingWords(known, value))
    if (!this.buffer.isStored(this.number)) this.buffer.reading(node, signalId, value, at, this.number)
  }

  /** Signals of a design by the last level of their topic, worked out once per design. */
  private signalsOf(design: Design) {
    const known = this.signals.get(design)
    if (known) return known
    const fresh = new Map(
      Object.entries(design.signals).map(([id, signal]) => [
        signal.slug,
        { id, signal, channel: channelOf(design, this.o.shelf.catalog, signal) },
      ]),
    )
    this.signals.set(design, fresh)
    return fresh
  }

  private done(node: string, topic: string, text: string): void {
    this.object(topic, doneSchema, text, (done) => {
      this.means(`answer: ${done.result}${done.reason === undefined ? '' : `, ${done.reason}`}`)
      if (!this.answers.take(done) && topic.endsWith('/vault/done')) this.o.onLateAnswer(node, done)
    })
  }

  private object<T>(topic: string, schema: z.ZodType<T>, text: string, then: (value: T) => void): void {
    const parsed = parseObject(schema, text)
    if (parsed.ok) then(parsed.value)
    else this.odd(topic, parsed.reason)
  }

  private means(words: Words, mark: LedgerRow['mark'] = 'understood'): void {
    this.mark = mark
    this.words = words
  }

  odd(topic: string, what: string): void {
    this.means(what, 'odd')
    this.tally.odd += 1
    this.trouble(topic, what)
  }

  private trouble(topic: string, what: string): void {
    const at = new Date().toISOString()
    // The same again is counted where it stands; and nobody fills the memory with what we would not take.
    const same = this.troubles.find((t) => t.what === what.slice(0, MOST_SAID) && t.topic === topic.slice(0, MOST_SAID))
    const trouble: Trouble = {
      at,
      topic: topic.slice(0, MOST_SAID),
      what: what.slice(0, MOST_SAID),
      times: (same?.times ?? 0) + 1,
    }
    if (same) this.troubles.splice(this.troubles.indexOf(same), 1)
    this.troubles.unshift(trouble)
    this.troubles.length = Math.min(this.troubles.length, 100)
    // A flood of one kind is told once a second.
    if (!same || Date.parse(at) - Date.parse(same.at) >= 1000) this.o.stream.emit({ kind: 'trouble', trouble })
    else trouble.at = same.at
  }

  private tell(): void {
    this.piles = [...this.piles, this.minute].slice(-60_000 / TELL_MS)
    this.minute = 0
    this.tally.perMinute = this.piles.reduce((sum, n) => sum + n, 0)
    this.o.stream.emit({ kind: 'counts', counts: this.counts })
  }
}

/** What somebody sends to a node, in words. */
function sentWords(name: string, leaf: string): string {
  if (leaf === 'config') return `a node file for ${name}`
  return leaf === 'vault' ? 'sealed' : `a command to ${name} ${leaf}`
}
