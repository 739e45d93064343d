import fs from 'node:fs'
import readline from 'node:readline/promises'
import { csvOf } from '../core/proof/report'
import { counted, type Line } from '../core/proof/line'
import { type Deeds, prove } from '../proving/prove'
import { DEFAULT_ROOT } from '../core/publish/topics'

export interface ProveWords {
  broker?: string
  login?: string
  root?: string
  for?: number
  node?: string
  ca?: string
  commands?: boolean
  act?: boolean
  hands?: boolean
  before?: string
  json?: boolean
  csv?: boolean
}

const MARK: Record<Line['verdict'], string> = { passed: 'pass', failed: 'FAIL', 'not tried': '–' }
const DEFAULT_LISTEN_S = 120

/** The contract test from a terminal. Exit 0 without a failed line, 1 with one. */
export async function proveBroker(o: ProveWords): Promise<{ text: string; exit: 0 | 1 }> {
  if (o.broker === undefined) throw new Error('Which broker? bin/vivid prove --broker mqtt://HOST[:PORT] --login NAME')
  const url = /^mqtts?:\/\//.test(o.broker) ? o.broker : `mqtt://${o.broker}`
  const person = o.hands || o.act ? readline.createInterface({ input: process.stdin, output: process.stderr }) : null
  const agreed = async (words: string) =>
    person !== null && /^y(es)?$/i.test((await person.question(`${words} [yes/no] `)).trim())
  const deeds: Deeds = {
    commands: o.commands === true || o.act === true,
    ...(o.act
      ? {
          mayAct: (thing, p) =>
            agreed(
              `${thing.title}, ${p.title}: it will be switched and put back. Is nobody in danger, and nothing at risk?`,
            ),
        }
      : {}),
    ...(o.hands
      ? {
          cut: (thing) => agreed(`Take the supply of ${thing.title} away now. Done?`),
          restore: (thing) => agreed(`Give ${thing.title} its supply again. Done?`),
          restart: (thing) => agreed(`Take the supply of ${thing.title} away and give it back at once. Done?`),
          takeAway: (thing, p) => agreed(`Pull the plug of the part behind ${thing.title}, ${p.title}. Done?`),
        }
      : {}),
  }
  try {
    const report = await prove({
      login: {
        url,
        username: o.login,
        password: process.env.VIVID_BROKER_PASSWORD,
        ca: o.ca === undefined ? undefined : fs.readFileSync(o.ca),
      },
      root: o.root ?? DEFAULT_ROOT,
      listenS: o.for ?? DEFAULT_LISTEN_S,
      only: o.node === undefined ? undefined : [o.node],
      before: o.before === undefined ? undefined : mediansIn(o.before),
      deeds,
      say: ({ doing, share }) =>
        process.stderr.isTTY &&
        process.stderr.write(`\r${doing} ${share === null ? '' : `${Math.round(share * 100)} %`}   `),
    })
    const n = counted(report.lines)
    const exit = n.failed > 0 ? 1 : 0
    if (o.json) return { text: JSON.stringify(report, null, 2), exit }
    if (o.csv) return { text: csvOf(report.lines), exit }
    const rows = report.lines.map(
      (l) => `${MARK[l.verdict].padEnd(5)}${l.topic.padEnd(34)} ${l.check.padEnd(19)}${l.words}`,
    )
    const sum = `${report.things.length} things, ${report.messages} messages in ${report.listenedS} s: ${n.passed} passed, ${n.failed} failed, ${n['not tried']} not tried`
    return { text: [...rows, sum].join('\n'), exit }
  } finally {
    person?.close()
  }
}

function mediansIn(file: string): ReadonlyMap<string, number> {
  const report = JSON.parse(fs.readFileSync(file, 'utf8')) as { medians?: Record<string, number> }
  return new Map(Object.entries(report.medians ?? {}))
}
