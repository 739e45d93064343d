import { z } from 'zod'
import { storableText } from '../db/storable'
import type { Database } from '../db/database'
import {
  addReading,
  keepRetained,
  type ReadingBatch,
  type RetainedRow,
  spreadInbox,
  storeMessages,
} from '../db/messageRows'
import { putSettingStatements, readSetting } from '../db/settingRows'
import type { Message } from './message'
import type { Scalar } from '../../core/publish/payload'
import type { Storing } from '../../wire/protocol'

const FLUSH_MS = 250
/** Up to which number the messages of which broker are stored. */
const MARK = 'messages of the broker'
const markSchema = z.object({ broker: z.string(), n: z.number() })
type BrokerMark = z.infer<typeof markSchema>
const SPREAD_MS = 1500
/** A flush of this many rows is much. */
const MUCH_ROWS = 300
/** This many rows are written at once as soon as the database is free: it works while more come in. */
const BATCH_ROWS = 2000
/** Rows that may wait for the database before senders have to. */
const MOST_WAITING = 20_000

/**
 * What messages leave behind, on its way into the database: gathered, written in batches, put back when the database is
 * in trouble. `trouble` tells whoever looks.
 */
export class WriteBuffer {
  storing: Storing = { waiting: 0, setAside: 0, failing: null, storedAt: null }
  /** Rows gathered since the start; tells whether a message left something to keep. */
  gathered = 0
  private retained = new Map<string, RetainedRow>()
  private holding = new Set<string>()
  private readings = new Map<string, ReadingBatch>()
  private waitingRows = 0
  private mark: BrokerMark | null = null
  /** Highest number among the readings that have been gathered. */
  private highest = 0
  private writing = false
  /** Something may wait in the inbox: from an earlier run, too. */
  private inbox = true
  private spreading = false
  private muchAt = -Infinity
  private flushing: Promise<void> = Promise.resolve()
  private soon: Promise<void> | null = null
  private readonly timers: NodeJS.Timeout[]

  constructor(
    private readonly db: Database,
    private readonly trouble: (topic: string, what: string) => void,
  ) {
    this.timers = [
      setInterval(() => void this.flush().catch(() => undefined), FLUSH_MS),
      setInterval(() => void this.spread(), SPREAD_MS),
    ]
  }

  get waiting(): number {
    return this.waitingRows
  }

  /** More rows waiting than the database takes in a few seconds. */
  behind(): boolean {
    return this.waitingRows > MOST_WAITING
  }

  /** Resolves when the database has caught up. */
  async calm(): Promise<void> {
    while (this.behind()) await this.flush().catch(() => new Promise((r) => setTimeout(r, FLUSH_MS)))
  }

  /** Resolves when all that has been gathered so far is stored, however long the database is in trouble. */
  async stored(): Promise<void> {
    while (
      !(await this.flush().then(
        () => true,
        () => false,
      ))
    )
      await new Promise((r) => setTimeout(r, FLUSH_MS).unref())
  }

  /**
   * Messages come from this broker from now on: what it numbered up to the last that was stored is known, also where
   * its acknowledgement was lost.
   */
  async from(broker: string): Promise<void> {
    if (this.mark?.broker === broker) return
    const kept = await readSetting(this.db, MARK, markSchema)
    this.mark = kept?.broker === broker ? kept : { broker, n: 0 }
  }

  /** Was a message of this number stored in an earlier run? */
  isStored(n: number): boolean {
    return this.mark !== null && n > 0 && n <= this.mark.n
  }

  /** What is retained has all been said: nothing else is. */
  async retainedIsAll(): Promise<void> {
    await keepRetained(this.db, [...this.holding])
  }

  /** Topics below `prefix` that hold a retained message. */
  retainedTopics(prefix: string): string[] {
    return [...this.holding].filter((t) => t.startsWith(prefix))
  }

  /** Keeps what is retained on a topic; false where no database keeps the topic. */
  retain({ topic, payload, qos }: Message): boolean {
    if (storableText(topic) !== topic) return false
    this.gathered += 1
    this.retained.set(topic, { topic, payload, qos })
    if (payload.length > 0) this.holding.add(topic)
    else this.holding.delete(topic)
    return true
  }

  /** Keeps a reading that came at `at`, ms, with the number the broker gave it. */
  reading(node: string, signalId: string, value: Scalar, at: number, n = 0): void {
    this.gathered += 1
    this.highest = Math.max(this.highest, n)
    let batch = this.readings.get(signalId)
    if (batch?.node !== node) {
      const key = batch ? `${node} ${signalId}` : signalId
      batch = this.readings.get(key) ?? { node, signal: signalId, ms: [], numbers: [], words: null }
      this.readings.set(key, batch)
    }
    addReading(batch, at, numberOf(value), typeof value === 'string' ? storableText(value) : null)
    this.waitingRows += 1
    if (this.waitingRows >= BATCH_ROWS && !this.writing) {
      this.writing = true
      void this.flush().catch(() => undefined)
    }
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
        const mark = this.mark && this.highest > this.mark.n ? { ...this.mark, n: this.highest } : null
        this.retained = new Map()
        this.readings = new Map()
        this.waitingRows = 0
        try {
          const { aside, left } = await storeMessages(
            this.db,
            [...retained.values()],
            [...readings.values()],
            mark ? putSettingStatements({ [MARK]: mark }) : [],
          )
          for (const { what, why } of aside) this.trouble(what, `could not be stored and was set aside: ${why}`)
          this.storing.setAside += aside.length
          this.inbox ||= readings.size > 0
          if (left) {
            for (const row of left.retained) if (!this.retained.has(row.topic)) this.retained.set(row.topic, row)
            this.putBack(
              new Map(left.readings.map((b) => [keyOf(readings, b), b])),
              left.readings.reduce((n, b) => n + b.ms.length, 0),
            )
            throw left.error
          }
          if (mark) this.mark = mark
          if (rows >= MUCH_ROWS) this.muchAt = performance.now()
          this.storing = { ...this.storing, failing: null, storedAt: new Date().toISOString() }
        } catch (e) {
          const why = e instanceof Error ? e.message : String(e)
          this.storing = {
            ...this.storing,
            failing: { since: this.storing.failing?.since ?? new Date().toISOString(), why },
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
  flushSoon(): Promise<void> {
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
      do this.inbox = await spreadInbox(this.db)
      while (this.goesOn())
    } catch (e) {
      this.trouble('', `readings stay in the inbox for now: ${e instanceof Error ? e.message : String(e)}`)
    } finally {
      this.spreading = false
    }
  }

  /** More to spread, and nothing more urgent. */
  private goesOn(): boolean {
    return this.inbox && !this.writing && this.waitingRows < MUCH_ROWS
  }

  async stop(): Promise<void> {
    this.timers.forEach(clearInterval)
    await this.flush()
  }
}

function numberOf(value: Scalar): number | null {
  if (typeof value === 'number') return value
  return typeof value === 'boolean' ? Number(value) : null
}

/** The key a batch was gathered under; a part of one has it too. */
function keyOf(gathered: ReadonlyMap<string, ReadingBatch>, { node, signal }: ReadingBatch): string {
  for (const [key, b] of gathered) if (b.node === node && b.signal === signal) return key
  return `${node} ${signal}`
}
