import fs from 'node:fs'
import path from 'node:path'
import type { Design } from '../../src/core/model/design'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import { compile } from '../../src/core/nodefile/compile'
import { planPins } from '../../src/core/pins/planPins'
import { SimulatedBoard } from '../../standins/board/board'
import { ModelledBroker } from '../../standins/board/modelledBroker'
import { catalog } from './designs'
import { tempFolder } from './product'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

/** The design with the best plan there is for it. */
export function planned(design: Design): Design {
  const plan = planPins(design, catalog)
  if (plan.kind !== 'planned') throw new Error(plan.kind)
  return { ...design, plan: { ...design.plan, pins: plan.pins } }
}

/**
 * A board on a clock the test turns, with a modelled broker: one interpreter, so one of them in a test file. `files`
 * can be changed and power given anew.
 */
export async function modelledBoard(
  design: Design,
  {
    deviceDir = 'device',
    host = '192.0.2.1',
    names = {} as Record<string, string>,
    timeServers = undefined as (() => readonly string[]) | undefined,
    around = NO_SURROUNDINGS,
    print = '',
    random = (): number => 0.4,
  } = {},
) {
  const flashDir = tempFolder()
  const base = `vn/${design.slug}`
  const write = (of: Design, at = host) => {
    const made = compile(
      of,
      around,
      catalog,
      { host: at, port: 1883, root: 'vn', ...(print ? { secure: { port: 8883, print } } : {}) },
      1,
    )
    if (!made.ok) throw new Error(made.reasons.join('; '))
    fs.writeFileSync(path.join(flashDir, 'node.json'), made.compiled.text)
    fs.writeFileSync(path.join(flashDir, 'td.json'), canonicalJson(made.compiled.td))
    fs.writeFileSync(
      path.join(flashDir, 'secret.json'),
      JSON.stringify({
        broker: { name: 'n', password: 'p' },
        networks: { [of.network.ref]: [{ name: 'a', password: 'b' }] },
        key: '00'.repeat(48),
        n: 0,
      }),
    )
  }
  write(design)
  let nowMs = 1_700_000_000_000
  let lines: string[] = []
  const said: { atMs: number; us: number[] }[] = []
  const broker = new ModelledBroker(() => nowMs)
  const board = await SimulatedBoard.start({
    flashDir,
    deviceDir,
    sourceDir: 'device',
    shimDir: 'standins/board/shims',
    random,
    log: (l) => lines.push(l),
    now: () => nowMs,
    link: broker,
    said: (frame) => said.push({ atMs: nowMs, us: [...frame] }),
    names,
    timeServers,
  })
  board.comings.alone = false
  const step = (ms: number) => {
    nowMs += ms
    board.step()
    broker.tick()
  }
  return {
    board,
    broker,
    base,
    flashDir,
    /** Frames its transmitter has put on the air so far. */
    said,
    now: () => nowMs,
    /** Puts the file of this design into its flash, for the next start. */
    write,
    forget: () => {
      lines = []
    },
    lines: () => lines.join('\n'),
    /** Lets time pass in steps. */
    pass: (ms: number, each = 20) => {
      for (let t = 0; t < ms; t += each) step(each)
    },
    /** Steps until it is so; the time it took, ms. Throws when it does not come. */
    until: (so: () => boolean, withinMs: number, each = 20) => {
      for (let t = 0; t <= withinMs; t += each) {
        if (so()) return t
        step(each)
      }
      throw new Error(
        `not within ${withinMs} ms; heard ${broker.taken
          .slice(-6)
          .map((m) => `${m.topic} ${m.payload}`)
          .join(' | ')}; ${lines.slice(-3).join(' | ')}`,
      )
    },
    heard: (leaf: string) => broker.taken.filter((m) => m.topic === `${base}/${leaf}`).map((m) => m.payload),
    command: (leaf: string, value: unknown) => broker.tell(`${base}/${leaf}/set`, JSON.stringify(value)),
    /** Runs Python beside the program; what it prints. */
    ask: (code: string) => {
      lines = []
      board.python(code)
      return lines.join('\n').trim()
    },
  }
}
