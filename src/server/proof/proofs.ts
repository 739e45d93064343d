import { randomBytes } from 'node:crypto'
import { leftoverTopics } from '../../core/proof/leftovers'
import { type Deeds, LISTEN_ONLY, type Progress, prove } from '../../proving/prove'
import type { BrokerLogin } from '../../proving/brokerLine'
import { type Proof, type ProofGoing, type ProofSchedule, proofScheduleSchema, type ProofWish } from '../../wire/proof'
import type { Logins } from '../broker/logins'
import type { Database } from '../db/database'
import { insertProof, lastByClock, proofById, proofsOf } from '../db/proofRows'
import { putSettings, readSetting } from '../db/settingRows'
import type { LiveStream } from '../live/stream'
import type { Workshop } from '../nodes/workshop'

export interface ProofsOptions {
  db: Database
  root: string
  workshop: Workshop
  stream: LiveStream
  logins: Logins
  /** How the outside broker in use is reached; null with our own. */
  outside: () => Promise<BrokerLogin | null>
  /** Address of our own broker as this machine reaches it. */
  ownUrl: () => string
  cutOff: (login: string) => Promise<void>
  clear: (topic: string) => Promise<void>
  /** Cautions of a node that stand and nobody has put a name to, in words. */
  barred: (node: string) => Promise<string[]>
  /** What a simulated board does by itself; false for a board that people have. */
  byItself: (node: string, deed: 'cut' | 'restore' | 'restart' | 'unplug') => Promise<boolean>
}

const LOGIN = 'proof-'
const SETTING = 'proofs'
const LOOK_MS = 60_000
const SHOWN = 12
const HOUR_MS = 3_600_000

export type ProofOutcome = { ok: true } | { ok: false; status: number; reason: string }
const no = (status: number, reason: string): ProofOutcome => ({ ok: false, status, reason })

/** Contract tests of this shop: begun by people or by the clock, kept, one at a time. */
export class Proofs {
  private going: ProofGoing | null = null
  private halt = new AbortController()
  private answers = new Map<number, (yes: boolean) => void>()
  private questions = 0
  private trouble: string | null = null
  private schedule: ProofSchedule | null = null
  private timer: NodeJS.Timeout | null = null

  private constructor(private readonly o: ProofsOptions) {}

  static async load(o: ProofsOptions): Promise<Proofs> {
    const proofs = new Proofs(o)
    proofs.schedule = await readSetting(o.db, SETTING, proofScheduleSchema)
    // A login of a run that was killed lets nobody in any more.
    for (const { name } of o.logins.ofRole('controller')) if (name.startsWith(LOGIN)) await o.logins.remove(name)
    proofs.timer = setInterval(() => void proofs.byClock().catch(() => undefined), LOOK_MS)
    return proofs
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer)
    this.halt.abort()
    for (const answer of this.answers.values()) answer(false)
  }

  async list(node: string | null) {
    const { going, schedule, trouble } = this
    return { proofs: await proofsOf(this.o.db, node, SHOWN), going, schedule, trouble }
  }

  one(id: number): Promise<Proof | null> {
    return proofById(this.o.db, id)
  }

  begin(wish: ProofWish): ProofOutcome {
    if (this.going) return no(409, 'A proof is running: stop it, or wait for its end.')
    if (wish.node !== null && !this.o.workshop.get(wish.node)) return no(404, 'There is no such node.')
    void this.run(wish, false)
    return { ok: true }
  }

  end(): void {
    this.halt.abort()
    for (const answer of this.answers.values()) answer(false)
  }

  /** A person has done what was asked, or not. */
  answer(n: number, yes: boolean): ProofOutcome {
    const answer = this.answers.get(n)
    if (!answer) return no(404, 'This is not asked any more.')
    answer(yes)
    return { ok: true }
  }

  async keepSchedule(schedule: ProofSchedule | null): Promise<void> {
    await putSettings(this.o.db, { [SETTING]: schedule })
    this.schedule = schedule
    this.tell()
  }

  /** Clears what the newest run of a node, or of all, has found left over; only that. */
  async clear(node: string | null, topics: readonly string[]): Promise<ProofOutcome> {
    const [last] = await proofsOf(this.o.db, node, 1)
    const found = new Set(leftoverTopics(last?.report.lines ?? []))
    const other = topics.find((t) => !found.has(t))
    if (other !== undefined)
      return no(409, `${other} is not among what the last proof found left over: nothing was cleared.`)
    for (const topic of topics) await this.o.clear(topic)
    return { ok: true }
  }

  private async byClock(): Promise<void> {
    const { schedule } = this
    if (!schedule || this.going) return
    const last = await lastByClock(this.o.db)
    if (last && Date.now() - last.getTime() < schedule.everyH * HOUR_MS) return
    await this.run(
      { node: null, listenS: schedule.listenS, commands: false, act: false, hands: false, away: false },
      true,
    )
  }

  private async run(wish: ProofWish, byClock: boolean): Promise<void> {
    this.halt = new AbortController()
    this.trouble = null
    const began = new Date().toISOString()
    this.going = { node: wish.node, began, byClock, doing: 'connecting', share: 0, question: null }
    this.tell()
    const login = `${LOGIN}${randomBytes(4).toString('hex')}`
    try {
      const design = wish.node === null ? undefined : this.o.workshop.get(wish.node)?.design
      const [before] = await proofsOf(this.o.db, wish.node, 1)
      const report = await prove({
        login: (await this.o.outside()) ?? (await this.ownLogin(login)),
        root: this.o.root,
        listenS: wish.listenS,
        only: design ? [design.slug] : undefined,
        before: new Map(Object.entries(before?.report.medians ?? {})),
        deeds: byClock ? LISTEN_ONLY : this.deeds(wish),
        stop: this.halt.signal,
        say: (progress) => this.progress(progress),
      })
      await insertProof(this.o.db, { began, byClock, node: wish.node, report })
    } catch (e) {
      this.trouble = `The proof came to nothing: ${e instanceof Error ? e.message : String(e)}.`
    } finally {
      this.going = null
      if (this.o.logins.has(login)) {
        await this.o.logins.remove(login).catch(() => undefined)
        await this.o.cutOff(login).catch(() => undefined)
      }
      this.tell()
    }
  }

  /** For the time of a run: hears everything and commands, as a controller does. */
  private async ownLogin(name: string): Promise<BrokerLogin> {
    const password = randomBytes(18).toString('base64url')
    await this.o.logins.set(name, 'controller', null, password)
    return { url: this.o.ownUrl(), username: name, password }
  }

  private deeds({ commands, act, hands, away }: ProofWish): Deeds {
    const nodeOf = (thing: { id: string }) => thing.id.replace('urn:uuid:', '')
    const by = async (
      thing: { id: string; title: string },
      deed: 'cut' | 'restore' | 'restart' | 'unplug',
      words: string,
    ) => (await this.o.byItself(nodeOf(thing), deed)) || this.ask(words)
    return {
      commands: commands || act,
      ...(act
        ? {
            mayAct: async (thing, promised) => {
              const barred = await this.o.barred(nodeOf(thing))
              if (barred.length > 0) return false
              return this.ask(
                `${thing.title}, ${promised.title}: it is switched and put back. Is everybody out of reach, and may it move, heat or flow now?`,
              )
            },
          }
        : {}),
      ...(away
        ? {
            takeAway: (thing, promised) =>
              by(
                thing,
                'unplug',
                `Pull the plug of the part behind ${thing.title}, ${promised.title}, and say so at once.`,
              ),
          }
        : {}),
      ...(hands
        ? {
            cut: (thing) => by(thing, 'cut', `Take the supply of ${thing.title} away now, and say so at once.`),
            restore: (thing) => by(thing, 'restore', `Give ${thing.title} its supply again.`),
            restart: (thing) =>
              by(thing, 'restart', `Take the supply of ${thing.title} away and give it back at once, and say so.`),
          }
        : {}),
    }
  }

  private ask(words: string): Promise<boolean> {
    const n = ++this.questions
    return new Promise((resolve) => {
      this.answers.set(n, (yes) => {
        this.answers.delete(n)
        if (this.going) this.going = { ...this.going, question: null }
        this.tell()
        resolve(yes)
      })
      if (this.halt.signal.aborted) return this.answers.get(n)?.(false)
      if (this.going) this.going = { ...this.going, question: { n, words } }
      this.tell()
    })
  }

  private toldAt = 0
  private progress({ doing, share }: Progress): void {
    if (!this.going) return
    const changed = this.going.doing !== doing
    this.going = { ...this.going, doing, share }
    if (changed || Date.now() - this.toldAt > 500) this.tell()
  }

  private tell(): void {
    this.toldAt = Date.now()
    this.o.stream.emit({ kind: 'proof', going: this.going })
  }
}
