import { randomUUID } from 'node:crypto'
import type { Found, Scalar } from '../../core/publish/payload'
import { topicsOf } from '../../core/publish/topics'
import type { PendingAnswers } from '../live/pendingAnswers'
import type { Workshop } from './workshop'

export type CommandOutcome = { kind: 'done'; ms: number } | { kind: 'failed'; reason: string }

const ANSWER_COMMAND_MS = 5_000
/** A search takes a second for sixteen parts, and their measurement another. */
const ANSWER_FIND_MS = 12_000

export interface CommandsOptions {
  root: string
  workshop: Workshop
  answers: PendingAnswers
  isHere: (node: string) => boolean
  publish: (topic: string, payload: string) => Promise<void>
}

/** What is asked of a node that is here, each with its answer or the reason why there is none. */
export class Commands {
  constructor(private readonly o: CommandsOptions) {}

  /** Sends a command to a signal and waits for its answer. */
  async set(id: string, signalId: string, value: Scalar): Promise<CommandOutcome> {
    const node = this.o.workshop.get(id)
    const signal = node?.design.signals[signalId]
    if (!node || !signal) return { kind: 'failed', reason: 'this signal is not in the design' }
    const { name, slug } = node.design
    if (!this.o.isHere(id)) return { kind: 'failed', reason: `${name} is not connected` }
    const command = randomUUID()
    const began = performance.now()
    const answer = this.o.answers.to(command, ANSWER_COMMAND_MS)
    await this.o.publish(topicsOf(this.o.root, slug).set(signal.slug), JSON.stringify({ value, id: command }))
    const done = await answer
    if (!done) return { kind: 'failed', reason: `${name} did not answer within ${ANSWER_COMMAND_MS / 1000} s` }
    return done.result === 'done'
      ? { kind: 'done', ms: Math.round(performance.now() - began) }
      : { kind: 'failed', reason: done.reason ?? 'refused' }
  }

  /** Has a node search its one-wire lines: the addresses there, each with how warm it is. */
  async find(id: string): Promise<{ found: Found[] } | { reason: string }> {
    const node = this.o.workshop.get(id)
    if (!node) return { reason: 'there is no such node' }
    const { name, slug } = node.design
    if (!this.o.isHere(id)) return { reason: `${name} is not connected` }
    const asked = randomUUID()
    const answer = this.o.answers.to(asked, ANSWER_FIND_MS)
    await this.o.publish(topicsOf(this.o.root, slug).set('find'), JSON.stringify({ id: asked }))
    const done = await answer
    if (done?.found) return { found: done.found }
    const silent = `${name} did not answer within ${ANSWER_FIND_MS / 1000} s`
    return { reason: done?.reason ?? `${silent}: is the file with these thermometers the one it runs?` }
  }
}
