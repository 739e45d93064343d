import fs from 'node:fs'
import path from 'node:path'
import { crc32 } from 'node:zlib'
import { z } from 'zod'
import { flushFile, writeForGood } from '../server/files/flush'

/** A message as it is kept. */
export interface KeptMessage {
  topic: string
  payload: Buffer
  qos: 0 | 1 | 2
  retain: boolean
  /** Login of who published it. */
  from: string
  /** When it came, ms. */
  at: number
  /** Its number among those that wait for the product; 0 for one that does not. */
  n: number
}

export interface Lost {
  messages: number
  /** ISO 8601. */
  since: string
}

/** What may wait for a product that is away, and how much larger than its content the file may grow. */
export const WAITING = { messages: 50_000, bytes: 64 * 1024 * 1024 } as const
/** What has been taken is written down this often, ms, unless something else is before. */
const TAKEN_MS = 250
const SMALL_FILE = 4 * 1024 * 1024
const WASTE = 4

const recordSchema = z.union([
  z.object({
    t: z.string(),
    /** Payload, base64. */
    p: z.string(),
    q: z.union([z.literal(0), z.literal(1), z.literal(2)]),
    r: z.boolean(),
    f: z.string(),
    at: z.number(),
    n: z.number(),
  }),
  /** The product has these. */
  z.object({ taken: z.array(z.number()) }),
  z.object({ lost: z.object({ messages: z.number(), since: z.string() }).nullable() }),
  /** Numbers go on from here. */
  z.object({ next: z.number() }),
])
type KeptRecord = z.infer<typeof recordSchema>

const writeAt = (fd: number, bytes: Buffer, from: number, at: number): Promise<number> =>
  new Promise((done, failed) => fs.write(fd, bytes, from, bytes.length - from, at, (e, n) => (e ? failed(e) : done(n))))
const sync = (fd: number): Promise<void> =>
  new Promise((done, failed) => fs.fdatasync(fd, (e) => (e ? failed(e) : done())))

/**
 * Retained messages and those the product has not taken yet, in one file of lines: a checksum and a record each, added
 * at the end and flushed for many at once. What stands behind a line that is not whole was never acknowledged. A file
 * that is mostly past is written anew, beside, and put in its place.
 */
export class KeptMessages {
  readonly retained = new Map<string, KeptMessage>()
  readonly waiting = new Map<number, KeptMessage>()
  lost: Lost | null = null
  /** Nothing had ever been kept here when it was opened. */
  readonly fresh: boolean
  private next = 1
  private waitingBytes = 0
  private liveBytes = 0
  private fd: number
  private size = 0
  private gathered: string[] = []
  private takenSince: number[] = []
  private promised: { done: () => void; failed: (e: Error) => void }[] = []
  private running: Promise<void> | null = null
  private later: NodeJS.Timeout | null = null
  private ended = false

  constructor(folder: string) {
    this.file = path.join(folder, 'messages.log')
    this.fresh = !fs.existsSync(this.file)
    if (!this.fresh) this.read()
    this.fd = this.compact()
  }

  private readonly file: string

  /**
   * Keeps a message: as the retained one of its topic when it is to be retained, and for the product with `waits`.
   * Resolves when the disk has it; rejects when it could not be written, and then nobody may say that it is kept.
   */
  keep(message: Omit<KeptMessage, 'n'>, waits: boolean): { n: number; kept: Promise<void> } {
    const n = waits && this.hasRoom(message) ? this.next++ : 0
    this.put({ ...message, n })
    this.gathered.push(line(recordOf({ ...message, n })))
    const kept = this.flushed().catch((e: unknown) => {
      // Whoever sent it is not told that it is kept, and sends it again.
      this.forget(n)
      throw e
    })
    return { n, kept }
  }

  /** Keeps what is retained without a promise: it is on the disk soon. */
  keepSoon(message: Omit<KeptMessage, 'n'>): void {
    this.keep(message, false).kept.catch(() => undefined)
  }

  /** The product has this one. */
  taken(n: number): void {
    if (!this.forget(n)) return
    this.takenSince.push(n)
    // A crash before it is on the disk has the message handed over once more: nobody waits for this.
    this.later ??= setTimeout(() => {
      this.later = null
      this.flushed().catch(() => undefined)
    }, TAKEN_MS).unref()
  }

  /** What was lost has been said. */
  clearLost(): void {
    if (this.lost === null) return
    this.lost = null
    this.gathered.push(line({ lost: null }))
    this.flushed().catch(() => undefined)
  }

  async end(): Promise<void> {
    if (this.later) clearTimeout(this.later)
    await this.flushed().catch(() => undefined)
    this.ended = true
    fs.closeSync(this.fd)
  }

  private hasRoom({ payload, at }: Omit<KeptMessage, 'n'>): boolean {
    if (this.waiting.size < WAITING.messages && this.waitingBytes + payload.length <= WAITING.bytes) return true
    this.lost = { messages: (this.lost?.messages ?? 0) + 1, since: this.lost?.since ?? new Date(at).toISOString() }
    this.gathered.push(line({ lost: this.lost }))
    return false
  }

  private put(m: KeptMessage): void {
    if (m.retain) {
      const before = this.retained.get(m.topic)
      this.liveBytes += (m.payload.length > 0 ? sizeOf(m) : 0) - (before ? sizeOf(before) : 0)
      if (m.payload.length > 0) this.retained.set(m.topic, m)
      else this.retained.delete(m.topic)
    }
    if (m.n > 0) {
      this.waiting.set(m.n, m)
      this.waitingBytes += m.payload.length
      this.liveBytes += sizeOf(m)
    }
  }

  private forget(n: number): boolean {
    const m = this.waiting.get(n)
    if (!m) return false
    this.waiting.delete(n)
    this.waitingBytes -= m.payload.length
    this.liveBytes -= sizeOf(m)
    return true
  }

  private flushed(): Promise<void> {
    if (this.ended) return Promise.resolve()
    const promise = new Promise<void>((done, failed) => this.promised.push({ done, failed }))
    this.running ??= this.run().finally(() => {
      this.running = null
    })
    return promise
  }

  /** Writes and flushes what has gathered, all of it at once, until nothing has. */
  private async run(): Promise<void> {
    // What comes in this turn of the loop goes along.
    await new Promise((r) => setImmediate(r))
    while (this.promised.length > 0) {
      const promised = this.promised
      this.promised = []
      if (this.takenSince.length > 0) this.gathered.push(line({ taken: this.takenSince }))
      this.takenSince = []
      const text = Buffer.from(this.gathered.join(''))
      this.gathered = []
      try {
        // Always where the last whole flush ended: what a failed one left is written over.
        let written = 0
        while (written < text.length) written += await writeAt(this.fd, text, written, this.size + written)
        await sync(this.fd)
        this.size += text.length
        for (const p of promised) p.done()
      } catch (e) {
        const error = e instanceof Error ? e : new Error(String(e))
        for (const p of promised) p.failed(error)
        // The file no longer says what is meant; the whole is written anew as soon as there is room.
        this.size = Infinity
      }
      if (this.size > SMALL_FILE && this.size > WASTE * this.liveBytes) this.tryCompact()
    }
  }

  private tryCompact(): void {
    const before = this.fd
    try {
      this.fd = this.compact()
      fs.closeSync(before)
    } catch {
      // Tried again with the next message; until then nothing that is kept is promised.
    }
  }

  /** The file with what is kept now and nothing else; returns it open for more. */
  private compact(): number {
    const records: KeptRecord[] = [
      { next: this.next },
      { lost: this.lost },
      ...[...this.retained.values()].map((m) => recordOf({ ...m, n: 0 })),
      ...[...this.waiting.values()].map((m) => recordOf({ ...m, retain: false })),
    ]
    const text = records.map(line).join('')
    writeForGood(this.file, text)
    this.size = Buffer.byteLength(text)
    flushFile(path.dirname(this.file))
    return fs.openSync(this.file, 'r+')
  }

  private read(): void {
    for (const text of fs.readFileSync(this.file, 'utf8').split('\n')) {
      const record = parsed(text)
      if (record === null) return
      if ('next' in record) this.next = Math.max(this.next, record.next)
      else if ('lost' in record) this.lost = record.lost
      else if ('taken' in record) for (const n of record.taken) this.forget(n)
      else {
        const { t: topic, p, q: qos, r: retain, f: from, at, n } = record
        this.put({ topic, payload: Buffer.from(p, 'base64'), qos, retain, from, at, n })
        this.next = Math.max(this.next, n + 1)
      }
    }
  }
}

const sizeOf = (m: KeptMessage): number => 100 + m.topic.length + m.payload.length * 1.4

const recordOf = ({ topic: t, payload, qos: q, retain: r, from: f, at, n }: KeptMessage): KeptRecord => ({
  t,
  p: payload.toString('base64'),
  q,
  r,
  f,
  at,
  n,
})

function line(record: KeptRecord): string {
  const text = JSON.stringify(record)
  return `${crc32(text).toString(16)} ${text}\n`
}

/** The record of a whole line, null for anything else. */
function parsed(text: string): KeptRecord | null {
  const at = text.indexOf(' ')
  if (at < 0 || crc32(text.slice(at + 1)).toString(16) !== text.slice(0, at)) return null
  const record = recordSchema.safeParse(JSON.parse(text.slice(at + 1)))
  return record.success ? record.data : null
}
