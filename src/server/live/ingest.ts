import { z } from 'zod'
import type { Channel } from '../../core/catalog/part'
import type { Design, Signal } from '../../core/model/design'
import {
  configReportSchema,
  doneSchema,
  type Done,
  healthSchema,
  parseObject,
  parseScalar,
  type Scalar,
  statusSchema,
} from '../../core/publish/payload'
import { channelOf } from '../../core/publish/describe'
import { isPossible } from '../../core/units/possible'
import { splitTopic } from '../../core/publish/topics'
import type { Message } from '../broker/broker'
import type { Database } from '../db/database'
import { addReading, type ReadingBatch, type RetainedRow, spreadInbox, storeMessages } from '../db/messageRows'
import { storableText } from '../db/storable'
import { clearOld } from '../db/retention'
import { rollUp } from '../db/rollUp'
import type { Workshop } from '../nodes/workshop'
import { Ledger, type Words } from './ledger'
import type { Counts, LedgerRow, ListedEntity, NodeState, StandInBoard, Tape, Trouble } from '../../wire/protocol'
import type { Shelf } from '../shelf/shelf'
import type { LiveStream } from './stream'

const FLUSH_MS = 250
/** Old readings are looked for with every so many sums. */
const CLEAR_EVERY = 60
const TELL_MS = 2000
const ROLL_UP_MS = 60_000
/** Batches are spread into rows this often, but not while much is coming in. */
const SPREAD_MS = 1500
/** A flush of this many rows is much. */
const MUCH_ROWS = 300
/** This many rows are written at once as soon as the database is free: it works while more come in. */
const BATCH_ROWS = 2000
/** Rows that may wait for the database before senders have to. */
const MOST_WAITING = 20_000
/** `<root>/<gateway>/rx/<medium>`. */
const RX = /^([^/]+)\/([^/]+)\/rx\/([^/]+)$/
const frameSchema = z.object({ us: z.array(z.number()).max(1000), gapUs: z.number() })
const tapeSchema = z.object({ levelM: z.number(), airC: z.number(), pump: z.boolean() })
const boardSchema = z.object({
  active: z.array(z.string()),
  speed: z.number(),
  asleep: z.boolean(),
  longestStepMs: z.number(),
})
const entitySchema = z.object({
  id: z.string(),
  thing: z.string(),
  name: z.string(),
  area: z.string(),
  kind: z.string(),
  unit: z.string().nullable(),
  value: z.unknown(),
  at: z.string().nullable(),
  available: z.boolean(),
  command: z.string().nullable(),
})

/** What a signal of this channel may carry beside null. */
function kindOfValue(channel: Channel | undefined): 'number' | 'boolean' | 'string' {
  if (channel?.access === 'reading') return 'number'
  if (channel?.access === 'state') return 'boolean'
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
  onOnline: (node: string) => void
  onLateAnswer: (node: string, done: Done) => void
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
  readonly counts: Counts = {
    received: 0,
    refused: 0,
    odd: 0,
    perMinute: 0,
    clients: 0,
    storing: { waiting: 0, setAside: 0, failing: null, storedAt: null },
    held: null,
  }
  readonly troubles: Trouble[] = []
  entities: ListedEntity[] = []
  tapes: Record<string, Tape> = {}
  boards: Record<string, StandInBoard> = {}
  readonly ledger = new Ledger()
  private signals = new WeakMap<Design, Map<string, { id: string; signal: Signal; channel: Channel | undefined }>>()
  /** When the message in hand came, ms. */
  private at = 0
  /** What was made of it. */
  private mark: LedgerRow['mark'] = 'passed'
  private words: Words = ''
  /** Topics a reading has come on, and what it is there. */
  private known = new Map<string, KnownTopic>()
  /** Payload of the message in hand, once somebody has read it. */
  private text: string | null = null
  private retained = new Map<string, RetainedRow>()
  private holding = new Set<string>()
  private readings = new Map<string, ReadingBatch>()
  private waitingRows = 0
  private writing = false
  /** Something may wait in the inbox: from an earlier run, too. */
  private inbox = true
  private spreading = false
  private muchAt = -Infinity
  private flushing: Promise<void> = Promise.resolve()
  private soon: Promise<void> | null = null
  /** Rows gathered since the start; tells whether a message left something to keep. */
  private kept = 0
  private sums = 0
  private waiting = new Map<string, { then: (done: Done) => void; past: readonly Done['result'][] }>()
  /** Messages in the last minute, a pile for each time the counts are told; the last pile is still filling. */
  private minute = 0
  private piles: number[] = []
  private timers: NodeJS.Timeout[]

  constructor(private readonly o: IngestOptions) {
    this.timers = [
      setInterval(() => void this.flush().catch(() => undefined), FLUSH_MS),
      setInterval(() => this.tell(), TELL_MS),
      setInterval(() => void this.rollUp(), ROLL_UP_MS),
      setInterval(() => void this.spread(), SPREAD_MS),
    ]
  }

  /** What the message means is done at once; the promise is kept when everything it leaves behind is durable. */
  take(message: Message): Promise<void> {
    const before = this.kept
    this.at = Date.now()
    this.mark = 'passed'
    this.words = 'not a topic of ours'
    this.understand(message)
    this.ledger.add(message, this.at, this.text, this.mark, this.words)
    this.text = null
    if (this.kept === before || (message.qos === 0 && !this.behind())) return DONE
    return this.flushSoon()
  }

  /** More rows waiting than the database takes in a few seconds. */
  behind(): boolean {
    return this.waitingRows > MOST_WAITING
  }

  private understand(message: Message): void {
    this.counts.received += 1
    this.minute += 1
    if (message.retain) this.retain(message)
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
    if (message.topic.startsWith('standin/')) return this.standin(message)
    const heard = RX.exec(message.topic)
    if (heard?.[1] === this.o.root) return this.frame(heard[2] ?? '', heard[3] ?? '', message)
    const parts = splitTopic(message.topic)
    if (message.topic === `${this.o.root}/time`) return this.means('the time, for nodes without a clock')
    if (!parts || parts.root !== this.o.root) return
    const node = this.o.workshop.bySlug(parts.node)
    if (!node) return this.means('a node this shop does not have', 'odd')
    if (message.retain && message.payload.length === 0) return this.means('clears what was retained')
    const text = (this.text = message.payload.toString('utf8'))
    if (parts.tail === 'set')
      return this.means(
        parts.leaf === 'config'
          ? `a node file for ${node.design.name}`
          : parts.leaf === 'vault'
            ? 'sealed'
            : `a command to ${node.design.name} ${parts.leaf}`,
      )
    if (message.from !== null) this.o.workshop.heard(node, this.at)
    if (parts.tail === 'done') return this.done(node.id, message.topic, text)
    switch (parts.leaf) {
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
          this.means(`${node.design.name} runs revision ${running.revision}`)
        })
      case 'fault':
        return this.odd(message.topic, `fault: ${text.slice(0, 200)}`)
      case 'td':
        return this.means(`${node.design.name} announces itself`)
      default:
        return this.value(node, parts.leaf, message.topic, text)
    }
  }

  /** A radio frame as a gateway heard it; what it means is not worked out here. */
  private frame(gateway: string, medium: string, message: Message): void {
    const node = this.o.workshop.bySlug(gateway)
    if (!node) return this.means('a gateway this shop does not have', 'odd')
    this.o.workshop.heard(node, this.at)
    this.object(message.topic, frameSchema, message.payload.toString('utf8'), ({ us }) =>
      this.means(`${node.design.name} heard a ${medium} frame of ${us.length} pulses`),
    )
  }

  refused(topic: string, what: string): void {
    this.counts.refused += 1
    this.ledger.refused(topic, what)
    this.trouble(topic, what)
  }

  /** Topics below `prefix` that hold a retained message. */
  retainedTopics(prefix: string): string[] {
    return [...this.holding].filter((t) => t.startsWith(prefix))
  }

  /**
   * The answer to the command with this id, or null when none comes in time. Results named in `past` are on the way to
   * it.
   */
  answerTo(id: string, withinMs: number, past: readonly Done['result'][] = []): Promise<Done | null> {
    return new Promise((resolve) => {
      const timer = setTimeout(() => {
        this.waiting.delete(id)
        resolve(null)
      }, withinMs)
      this.waiting.set(id, {
        past,
        then: (done) => {
          clearTimeout(timer)
          this.waiting.delete(id)
          resolve(done)
        },
      })
    })
  }

  /**
   * Writes what has gathered. What the database refuses for what it is, is set aside; when the database is in trouble,
   * all is put back and tried again.
   */
  flush(): Promise<void> {
    this.flushing = this.flushing
      .catch(() => undefined)
      .then(async () => {
        if (this.retained.size === 0 && this.readings.size === 0) return
        this.writing = true
        const retained = this.retained
        const readings = this.readings
        const rows = this.waitingRows
        this.retained = new Map()
        this.readings = new Map()
        this.waitingRows = 0
        try {
          const { aside, left } = await storeMessages(this.o.db, [...retained.values()], [...readings.values()])
          for (const { what, why } of aside) this.trouble(what, `could not be stored and was set aside: ${why}`)
          this.counts.storing.setAside += aside.length
          this.inbox ||= readings.size > 0
          if (left) {
            for (const row of left.retained) if (!this.retained.has(row.topic)) this.retained.set(row.topic, row)
            this.putBack(
              new Map(left.readings.map((b) => [keyOf(readings, b), b])),
              left.readings.reduce((n, b) => n + b.ms.length, 0),
            )
            throw left.error
          }
          if (rows >= MUCH_ROWS) this.muchAt = performance.now()
          this.counts.storing = { ...this.counts.storing, failing: null, storedAt: new Date().toISOString() }
        } catch (e) {
          const why = e instanceof Error ? e.message : String(e)
          this.counts.storing = {
            ...this.counts.storing,
            failing: { since: this.counts.storing.failing?.since ?? new Date().toISOString(), why },
          }
          this.trouble('', `readings could not be stored yet: ${why}`)
          throw e
        } finally {
          this.writing = false
        }
        if (this.waitingRows >= BATCH_ROWS) void this.flush().catch(() => undefined)
      })
    return this.flushing
  }

  /** A batch that failed goes before what has come since. */
  private putBack(failed: Map<string, ReadingBatch>, rows: number): void {
    const since = this.readings
    this.readings = failed
    this.waitingRows += rows
    for (const [key, later] of since) {
      const batch = failed.get(key)
      if (batch) later.ms.forEach((ms, i) => addReading(batch, ms, later.numbers[i] ?? null, later.words?.[i] ?? null))
      else failed.set(key, later)
    }
  }

  /** One flush for everything acknowledged messages brought in this turn of the loop. */
  private flushSoon(): Promise<void> {
    this.soon ??= new Promise<void>((done, failed) => {
      setImmediate(() => {
        this.soon = null
        this.flush().then(done, failed)
      })
    })
    return this.soon
  }

  /**
   * One portion of what waits in the inbox, when nothing comes in. What is not spread now is spread by whoever asks for
   * it.
   */
  private async spread(): Promise<void> {
    if (this.spreading || this.writing || !this.inbox || performance.now() - this.muchAt < SPREAD_MS) return
    this.spreading = true
    try {
      // Portion by portion, so that whatever else the database is asked comes in between.
      do this.inbox = await spreadInbox(this.o.db)
      while (this.inbox && !this.writing && this.waitingRows < MUCH_ROWS)
    } catch (e) {
      this.trouble('', `readings stay in the inbox for now: ${e instanceof Error ? e.message : String(e)}`)
    } finally {
      this.spreading = false
    }
  }

  private async rollUp(): Promise<void> {
    try {
      for (const { node, signal, why } of await rollUp(this.o.db, new Date())) {
        const design = this.o.workshop.get(node)?.design
        this.trouble(
          '',
          `readings of ${design?.name ?? 'a node'} ${design?.signals[signal]?.tag ?? signal} cannot be summed: ${why}`,
        )
      }
      if (this.sums++ % CLEAR_EVERY === 0) await this.clearOld(false)
    } catch (e) {
      this.trouble('', `roll-up failed and is tried again: ${e instanceof Error ? e.message : String(e)}`)
    }
  }

  /** Removes old readings; what is held back for somebody's word is in the counts. */
  async clearOld(confirmed: boolean): Promise<number> {
    const { removed, marked, held } = await clearOld(this.o.db, new Date(), confirmed)
    if (marked > 0)
      this.trouble(
        '',
        `${marked} readings bear a time still to come: the clock of this machine was ahead. They are marked and left out`,
      )
    if (held && !this.counts.held)
      this.trouble(
        '',
        `${held.rows} readings are older than they are kept, much more than the ${held.usualADay} of a day: nothing goes until the Settings are told`,
      )
    this.counts.held = held
    return removed
  }

  async stop(): Promise<void> {
    this.timers.forEach(clearInterval)
    this.ledger.stop()
    await this.flush()
  }

  private retain({ topic, payload, qos }: Message): void {
    if (storableText(topic) !== topic)
      return this.odd('', 'a retained message on a topic with characters no database keeps was not kept')
    this.kept += 1
    this.retained.set(topic, { topic, payload, qos })
    if (payload.length > 0) this.holding.add(topic)
    else this.holding.delete(topic)
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
    this.kept += 1
    let batch = this.readings.get(signalId)
    if (batch?.node !== node) {
      const key = batch ? `${node} ${signalId}` : signalId
      batch = this.readings.get(key) ?? { node, signal: signalId, ms: [], numbers: [], words: null }
      this.readings.set(key, batch)
    }
    addReading(
      batch,
      at,
      typeof value === 'number' ? value : typeof value === 'boolean' ? Number(value) : null,
      typeof value === 'string' ? storableText(value) : null,
    )
    this.waitingRows += 1
    if (this.waitingRows >= BATCH_ROWS && !this.writing) {
      this.writing = true
      void this.flush().catch(() => undefined)
    }
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
      const waits = done.id === null ? undefined : this.waiting.get(done.id)
      if (waits?.past.includes(done.result)) return
      if (waits) waits.then(done)
      else if (topic.endsWith('/vault/done')) this.o.onLateAnswer(node, done)
    })
  }

  private standin(message: Message): void {
    this.means('between stand-ins', 'passed')
    const text = message.payload.toString('utf8')
    if (message.topic === 'standin/controller/entities') {
      this.object(message.topic, z.array(z.unknown()).max(5000), text, (listed) => {
        const read = listed.map((e) => entitySchema.safeParse(e))
        const entities = read.flatMap((r) => (r.success ? [r.data] : []))
        // One that cannot be read hides none of the others.
        if (entities.length < listed.length) {
          const place = read.findIndex((r) => !r.success)
          const why = read[place]?.error?.issues[0]
          this.odd(
            message.topic,
            `entity ${place} of ${listed.length} cannot be read: ${why?.path.join(' › ') ?? ''} ${why?.message ?? ''}`,
          )
        }
        this.entities = entities
        this.o.stream.emit({ kind: 'entities', entities })
      })
      return
    }
    const [, id, leaf] = message.topic.split('/')
    const told = leaf === 'board' ? this.o.workshop.get(id ?? '') : undefined
    if (told) {
      return this.object(message.topic, boardSchema, text, (board) => {
        this.boards[told.id] = board
        this.o.stream.emit({ kind: 'board', node: told.id, board })
      })
    }
    const node = leaf === 'tape' ? this.o.workshop.get(id ?? '') : undefined
    if (!node) return
    this.object(message.topic, tapeSchema, text, (tape) => {
      this.tapes[node.id] = tape
      this.o.stream.emit({ kind: 'tape', node: node.id, tape })
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

  private odd(topic: string, what: string): void {
    this.means(what, 'odd')
    this.counts.odd += 1
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
    this.counts.perMinute = this.piles.reduce((sum, n) => sum + n, 0)
    this.counts.clients = this.o.clients()
    this.counts.storing = { ...this.counts.storing, waiting: this.waitingRows }
    this.o.stream.emit({ kind: 'counts', counts: { ...this.counts } })
  }
}

/** The key a batch was gathered under; a part of one has it too. */
function keyOf(gathered: ReadonlyMap<string, ReadingBatch>, { node, signal }: ReadingBatch): string {
  for (const [key, b] of gathered) if (b.node === node && b.signal === signal) return key
  return `${node} ${signal}`
}
