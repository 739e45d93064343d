import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Check } from '../../src/core/proof/line'
import { prove, type Report } from '../../src/proving/prove'
import { foreignBroker } from '../support/foreignBroker'
import { type Fault, FAULTS, wornNode } from '../support/wornNode'

const LOGINS = { node: 'node-pass', proof: 'proof-pass' }
let broker: Awaited<ReturnType<typeof foreignBroker>>
beforeAll(async () => {
  broker = await foreignBroker({ logins: LOGINS })
})
afterAll(() => broker.close())

/** Where each fault has to be found: on the topic that ends like this, in this line. */
const FOUND: Record<Fault, [string, Check]> = {
  'reading not kept': ['level', 'retained'],
  'event kept': ['press', 'retained'],
  'announced twice': ['td', 'one identity'],
  'too slow': ['level', 'cadence'],
  'text for a number': ['level', 'type'],
  'silent signal': ['warm', 'seen'],
  'leftover topic': ['old-level', 'leftover'],
  'command kept': ['set', 'leftover'],
  'swapped topics': ['level', 'place'],
  'a thousand times too large': ['level', 'range'],
  'a thousandth': ['level', 'scale'],
  'unit changes on the way': ['level', 'scale'],
  'unknown word': ['door', 'type'],
  'unknown press': ['press', 'words'],
  'no answer': ['set', 'command'],
  'answers late commands': ['set', 'late command'],
  'takes anything': ['set', 'wrong command'],
  'acts twice': ['set', 'repeated id'],
  'no last will': ['status', 'gone in time'],
  'other identity after restart': ['status', 'same after restart'],
  'keeps its last value': ['level', 'null'],
  'broken description': ['td', 'announced'],
  'topic nobody promised': ['nivel', 'undeclared'],
  'kept value is old': ['level', 'retained'],
}

/** A proof of a node with this fault, below a root of its own. */
async function proved(fault: Fault | null): Promise<{ report: Report; names: Record<string, string> }> {
  const root = `yard-${fault === null ? 'sound' : FAULTS.indexOf(fault)}`
  const node = await wornNode({ port: broker.port, root }, { username: 'node', password: LOGINS.node }, fault)
  try {
    const report = await prove({
      login: { url: broker.url, username: 'proof', password: LOGINS.proof },
      root,
      listenS: 4.5,
      before: new Map([[`${node.base}/${node.names.level}`, 400]]),
      deeds: {
        commands: true,
        mayAct: () => Promise.resolve(true),
        cut: fault === null || fault === 'no last will' ? node.cut : undefined,
        restore: node.restore,
        restart: fault === null || fault === 'other identity after restart' ? node.restart : undefined,
        takeAway: async (_, p) => {
          if (p.topic !== `${node.base}/${node.names.level}`) return false
          return node.takeAway(p.topic)
        },
      },
    })
    return { report, names: node.names }
  } finally {
    await node.end()
  }
}

const failed = ({ lines }: Report) => lines.filter((l) => l.verdict === 'failed')

describe('the contract test', () => {
  test.concurrent('finds nothing wrong with a node that keeps its word, and has tried every kind of line', async () => {
    const { report } = await proved(null)
    expect(failed(report)).toEqual([])
    const tried = new Set(report.lines.filter((l) => l.verdict === 'passed').map((l) => l.check))
    for (const check of [
      'cadence',
      'retained',
      'command',
      'late command',
      'wrong command',
      'repeated id',
      'null',
    ] as const)
      expect(tried).toContain(check)
    expect(tried).toContain('gone in time')
    expect(tried).toContain('same after restart')
    expect(report.lines.find((l) => l.check === 'command')?.ms).toBeGreaterThanOrEqual(0)
  })

  test.concurrent.each(FAULTS)('finds: %s', async (fault) => {
    const { report, names } = await proved(fault)
    const [end, check] = FOUND[fault]
    const leaf = names[end] ?? end
    const found = failed(report).find((l) => l.check === check && l.topic.endsWith(`/${leaf}`))
    expect(
      found,
      failed(report)
        .map((l) => `${l.topic} ${l.check} ${l.words}`)
        .join('\n'),
    ).toBeDefined()
  })
})
