import type { Catalog } from '../../core/catalog/catalog'
import type { Design } from '../../core/model/design'
import { compile } from '../../core/nodefile/compile'
import { nodeFileSchema } from '../../core/nodefile/nodeFile'
import { semanticDiff } from '../../core/nodefile/semanticDiff'
import type { BrokerAddress } from '../../core/publish/describe'
import { type BehindNode, sendingOrder } from '../../core/surroundings/sendingOrder'
import type { Surroundings } from '../../core/surroundings/surroundings'
import type { NodeState } from '../../wire/protocol'
import type { Sent, SendingPlan } from '../../wire/sending'
import type { Database } from '../db/database'
import { revisionOf } from '../db/revisionRows'
import type { Gate } from './gate'
import type { Revisions } from './revisions'
import type { Workshop } from './workshop'

export interface SendingOptions {
  db: Database
  workshop: Workshop
  revisions: Revisions
  gate: Gate
  catalog: () => Catalog
  around: (design: Design) => Surroundings
  broker: () => BrokerAddress
  isHere: (id: string) => boolean
}

/** Everything of the shop that has to reach a node, in the order that keeps things working. */
export class Sending {
  private running = false
  private ends = false

  constructor(private readonly o: SendingOptions) {}

  async plan(): Promise<SendingPlan> {
    const behind = (await Promise.all(this.o.workshop.all().map((n) => this.behind(n)))).filter((n) => n !== null)
    return sendingOrder(behind)
  }

  /**
   * One after the other; the next when the one before runs its file again. What does not run ends it: the same mistake
   * is not made everywhere. Null while another is under way.
   */
  async send(): Promise<Sent[] | null> {
    if (this.running) return null
    this.running = true
    this.ends = false
    const sent: Sent[] = []
    try {
      const { order } = await this.plan()
      for (const [i, node] of order.entries()) {
        if (this.hasToEnd()) break
        const now = await this.one(node)
        sent.push(now)
        if (now.outcome !== 'failed') continue
        const rest = order.slice(i + 1)
        const why = `${node.name} came first`
        sent.push(...rest.map((n): Sent => ({ id: n.id, name: n.name, outcome: 'not sent', why, stops: [] })))
        break
      }
      return sent
    } finally {
      this.running = false
    }
  }

  /** No further node is sent; the one on its way is waited for. */
  stop(): void {
    this.ends = true
  }

  /** Somebody may say so while a node is waited for. */
  private hasToEnd(): boolean {
    return this.ends
  }

  private async one({ id, name }: BehindNode): Promise<Sent> {
    const came = (outcome: Sent['outcome'], why: string): Sent => ({ id, name, outcome, why, stops: [] })
    const running = this.o.workshop.get(id)?.live.running
    const kept = running ? await revisionOf(this.o.db, id, running.revision) : null
    const runs = kept?.design && kept.surroundings ? { design: kept.design, around: kept.surroundings } : null
    const stops = await this.o.gate.newStops(id, runs)
    if (stops.length > 0) {
      const stand = stops.length === 1 ? 'a stop stands' : `${stops.length} stops stand`
      return { ...came('held', `${stand} against it that did not against what it runs`), stops }
    }
    const outcome = await this.o.revisions.send(id)
    switch (outcome?.kind) {
      case 'running':
        return came('runs', '')
      case 'waits':
        return came('waits', 'it takes its file when it wakes')
      case 'incomplete':
        return came('held', outcome.reasons.join('; '))
      case 'failed':
        return came('failed', outcome.reason)
      case undefined:
        return came('held', 'it is no longer in the shop')
    }
  }

  private async behind({ id, design, live }: NodeState): Promise<BehindNode | null> {
    const { running } = live
    const kept = running && (await revisionOf(this.o.db, id, running.revision))
    if (!kept || live.sending) return null
    const compiled = compile(design, this.o.around(design), this.o.catalog(), this.o.broker(), running.revision)
    if (compiled.ok && compiled.compiled.hash === running.hash) return null
    const before = nodeFileSchema.safeParse(JSON.parse(kept.file))
    const differences =
      compiled.ok && before.success ? semanticDiff(before.data, compiled.compiled.file).map((d) => d.words) : []
    const why = compiled.ok ? differences : compiled.reasons
    const asleep = live.status?.is === 'asleep' ? 'asleep' : 'away'
    return {
      id,
      name: design.name,
      reach: this.o.isHere(id) ? 'here' : asleep,
      moves: kept.slug !== design.slug,
      why: why.length > 0 ? why : ['its file was written by an earlier release'],
    }
  }
}
