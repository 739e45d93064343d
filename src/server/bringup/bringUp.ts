import { z } from 'zod'
import { bringUpPlan } from '../../core/bringup/bringUpPlan'
import type { BringUpStep, Verdict } from '../../core/bringup/step'
import {
  type Drift,
  healthTold,
  type Happened,
  NOTHING_YET,
  online,
  trialVerdict,
  type TrialVerdict,
} from '../../core/bringup/trial'
import { judge, meterWords } from '../../core/bringup/verdict'
import type { Catalog } from '../../core/catalog/catalog'
import { channelOf } from '../../core/publish/channelOf'
import {
  endTrial,
  insertFound,
  keepTrial,
  lastFound,
  startTrial,
  type TrialRow,
  trialsOf,
  tenths,
} from '../db/bringUpRows'
import type { Database } from '../db/database'
import type { LiveStream } from '../live/stream'
import type { Workshop } from '../nodes/workshop'

export interface BringUpOptions {
  db: Database
  workshop: Workshop
  stream: LiveStream
  catalog: () => Catalog
}

/** What somebody found at a step. */
export interface Found {
  key: string
  value: number | null
  /** For a step without a number: as it should be, or not. */
  ok: boolean
  who: string
  remark: string
}

export type Recorded = { ok: true; verdict: Verdict } | { ok: false; status: number; reason: string }
const no = (status: number, reason: string): Recorded => ({ ok: false, status, reason })

/** The place a confirmed caution is kept under. */
export const cautionPlace = (key: string): string => `caution:${key}`
const KEEP_MS = 60_000

const happenedSchema: z.ZodType<Happened> = z.object({
  gone: z.array(z.object({ from: z.number(), to: z.number().nullable() })),
  restarts: z.array(z.object({ at: z.number(), cause: z.string() })),
  strength: z.object({ weakest: z.number(), sum: z.number(), n: z.number() }).nullable(),
  supply: z.object({ first: z.number(), firstAt: z.number(), last: z.number(), lastAt: z.number() }).nullable(),
})

interface Running {
  id: number
  happened: Happened
  uptimeS: number | null
  changed: boolean
}

/** Steps of bringing nodes up and what was found at them; trials, watched while they run. */
export class BringUp {
  private readonly running = new Map<string, Running>()
  private timer: NodeJS.Timeout | null = null

  private constructor(private readonly o: BringUpOptions) {}

  static async load(o: BringUpOptions): Promise<BringUp> {
    const bringUp = new BringUp(o)
    for (const row of await trialsOf(o.db, null)) bringUp.watch(row)
    o.stream.listen((_, event) => {
      if (event.kind === 'live') bringUp.happens(event.node, event.live)
    })
    bringUp.timer = setInterval(() => void bringUp.keep().catch(() => undefined), KEEP_MS)
    return bringUp
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer)
    await this.keep().catch(() => undefined)
  }

  steps(node: string): BringUpStep[] | null {
    const design = this.o.workshop.get(node)?.design
    const catalog = this.o.catalog()
    const board = design && catalog.boards[design.board.id]
    return design && board ? bringUpPlan(design, board, catalog) : null
  }

  found(node: string) {
    return lastFound(this.o.db, node)
  }

  /** A caution is confirmed by name: its step opens. */
  async confirm(node: string, key: string, who: string): Promise<Recorded> {
    const step = this.steps(node)?.find((s) => s.key === key)
    if (!step?.caution) return no(404, 'There is nothing to confirm at this step any more.')
    await insertFound(
      this.o.db,
      node,
      { place: cautionPlace(key), value: null, unit: '', ok: true, who, remark: '' },
      `confirmed before “${step.title}”: ${step.caution.title}`,
    )
    return { ok: true, verdict: { ok: true, side: 'within', words: 'Confirmed.', causes: [] } }
  }

  /** Keeps what was found; the verdict is made here. Refused while the step’s caution is not confirmed. */
  async record(node: string, { key, value, ok, who, remark }: Found): Promise<Recorded> {
    const step = this.steps(node)?.find((s) => s.key === key)
    if (!step) return no(404, 'This node has no such step any more: its design has changed.')
    if (step.caution) {
      const confirmed = (await this.found(node)).some((f) => f.place === cautionPlace(key))
      if (!confirmed) return no(409, `First: ${step.caution.title}. Confirm it, then the step opens.`)
    }
    if (step.expect.kind === 'value' && value === null) return no(422, 'A number is expected here.')
    const verdict: Verdict =
      step.expect.kind === 'value' && value !== null
        ? judge(step, value)
        : { ok, side: 'within', words: ok ? 'As it should be.' : 'Not as it should be.', causes: ok ? [] : step.causes }
    const unit = step.expect.kind === 'value' ? step.expect.unit : ''
    const said = step.expect.kind === 'value' && value !== null ? meterWords(step.expect.unit, value) : ''
    const how = verdict.ok ? 'as it should be' : 'not as it should be'
    await insertFound(
      this.o.db,
      node,
      { place: key, value: step.expect.kind === 'value' ? value : null, unit, ok: verdict.ok, who, remark },
      `bring-up, ${step.title}: ${[said, how, remark].filter(Boolean).join(', ')}`.slice(0, 500),
    )
    return { ok: true, verdict }
  }

  async startTrial(node: string, days: number, who: string): Promise<Recorded> {
    if (this.running.has(node)) return no(409, 'A trial of this node runs already: end it first.')
    await startTrial(this.o.db, node, days, who)
    const [row] = await trialsOf(this.o.db, node)
    if (row) this.watch(row)
    return { ok: true, verdict: { ok: true, side: 'within', words: 'Started.', causes: [] } }
  }

  async endTrial(node: string, who: string): Promise<Recorded> {
    const running = this.running.get(node)
    const [row] = await trialsOf(this.o.db, node)
    if (!running || row?.id !== running.id) return no(409, 'No trial of this node runs.')
    const verdict = await this.verdictOf(node, row, running.happened)
    await keepTrial(this.o.db, running.id, running.happened)
    await endTrial(this.o.db, running.id, node, who, `trial ended: ${verdict.lines.map((l) => l.words).join(' ')}`)
    this.running.delete(node)
    // Ended early it says nothing good; what was bad stays bad.
    if (!verdict.ok || verdict.share >= 1)
      await this.record(node, { key: 'trial', value: null, ok: verdict.ok, who, remark: 'as the trial said' })
    return { ok: true, verdict: { ok: verdict.ok, side: 'within', words: 'Ended.', causes: [] } }
  }

  /** The last trial with its verdict so far; null where there was none. */
  async trial(
    node: string,
  ): Promise<(TrialVerdict & { startedAt: string; endedAt: string | null; days: number; who: string }) | null> {
    const [row] = await trialsOf(this.o.db, node)
    if (!row) return null
    const running = this.running.get(node)
    const happened = running?.id === row.id ? running.happened : parsed(row.happened)
    return {
      ...(await this.verdictOf(node, row, happened)),
      startedAt: row.started_at.toISOString(),
      endedAt: row.ended_at?.toISOString() ?? null,
      days: row.days,
      who: row.who,
    }
  }

  private async verdictOf(node: string, row: TrialRow, happened: Happened): Promise<TrialVerdict> {
    const design = this.o.workshop.get(node)?.design
    const end = row.ended_at ?? new Date()
    const drifts = (await tenths(this.o.db, node, row.started_at, end)).flatMap((t): Drift[] => {
      const signal = design?.signals[t.signal_id]
      const channel = design && signal && channelOf(design, this.o.catalog(), signal)
      if (!signal || channel?.access !== 'reading') return []
      const { unit, decimals } = signal.publish
      return [{ name: signal.name, unit, decimals, first: t.first, last: t.last }]
    })
    return trialVerdict(
      happened,
      {
        startedAt: row.started_at.getTime(),
        days: row.days,
        now: end.getTime(),
        sleeps: design?.sleep != null,
      },
      drifts,
    )
  }

  private watch(row: TrialRow): void {
    this.running.set(row.node_id, { id: row.id, happened: parsed(row.happened), uptimeS: null, changed: false })
  }

  private happens(
    node: string,
    live: { status: { is: string } | null; health: Parameters<typeof healthTold>[1] | null },
  ): void {
    const running = this.running.get(node)
    if (!running) return
    const sleeps = live.status?.is === 'asleep'
    const now = Date.now()
    let { happened } = running
    if (live.status && !sleeps) happened = online(happened, live.status.is === 'online', now)
    if (live.health && live.health.uptimeS !== running.uptimeS) {
      const before = running.uptimeS === null ? null : { uptimeS: running.uptimeS }
      happened = healthTold(happened, live.health, before, now)
      running.uptimeS = live.health.uptimeS
    }
    running.changed ||= happened !== running.happened
    running.happened = happened
  }

  private async keep(): Promise<void> {
    for (const r of this.running.values()) {
      if (!r.changed) continue
      r.changed = false
      await keepTrial(this.o.db, r.id, r.happened)
    }
  }
}

function parsed(happened: unknown): Happened {
  const read = happenedSchema.safeParse(happened)
  return read.success ? read.data : NOTHING_YET
}
